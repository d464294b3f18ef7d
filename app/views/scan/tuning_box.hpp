// The levels of the picture with the display window on them, and one line of advice at a time.
#pragma once

#include "parts/view_context.hpp"

#include <QWidget>

namespace heron::app {

class KeyButton;
class LevelBox;

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

  private:
    enum class Offer { none, verdict, last_time, advice, check };
    void refresh();
    void take();
    void putOff();
    void paintOffer(QPainter &p);

    ViewContext &context_;
    Tuner &tuner_;
    LevelBox *levels_;
    KeyButton *take_, *off_;
    Offer offer_ = Offer::none;
    bool last_time_put_off_ = false;
    QString words_, reason_;
};

} // namespace heron::app
