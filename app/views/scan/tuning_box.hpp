// The levels of the picture with the display window on them, and one line of advice at a time.
#pragma once

#include "parts/view_context.hpp"

#include <QWidget>

namespace heron::app {

class KeyButton;

class TuningBox : public QWidget {
    Q_OBJECT
  public:
    TuningBox(ViewContext &context, QWidget *parent = nullptr);
    /// The words in the advice line now.
    QString words() const { return words_; }
    QString reason() const { return reason_; }

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;
    void mouseMoveEvent(QMouseEvent *event) override;
    void mouseReleaseEvent(QMouseEvent *event) override;
    void mouseDoubleClickEvent(QMouseEvent *event) override;

  private:
    enum class Offer { none, verdict, last_time, advice, check };
    void refresh();
    void take();
    void putOff();
    double xOf(double db) const;
    double dbAt(double x) const;
    QRectF handleRect(bool top) const;
    void paintLevels(QPainter &p);
    void paintHandles(QPainter &p);
    void paintOffer(QPainter &p);

    ViewContext &context_;
    Tuner &tuner_;
    KeyButton *take_, *off_;
    Offer offer_ = Offer::none;
    bool last_time_put_off_ = false;
    QString words_, reason_;
    enum class Grip { none, floor, top } grip_ = Grip::none;
    double low_db_ = 0, high_db_ = 80; // ends of the histogram's axis
    DisplayWindow before_;
};

} // namespace heron::app
