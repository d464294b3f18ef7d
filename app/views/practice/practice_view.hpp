// The place Practice: a made-up picture and a question; then the lake is drained and the answer explained by
// the ray.
#pragma once

#include "parts/view_context.hpp"
#include "practice/trainer.hpp"

#include <QComboBox>
#include <QWidget>
#include <vector>

namespace heron::app {

class KeyButton;

class PracticeView : public QWidget {
    Q_OBJECT
  public:
    explicit PracticeView(ViewContext &context, QWidget *parent = nullptr);
    Trainer &trainer() { return trainer_; }

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void mouseMoveEvent(QMouseEvent *event) override;
    void leaveEvent(QEvent *event) override;

  private:
    static constexpr double metres_a_pixel = 0.035; ///< of the picture, along the sound
    void refresh();
    void addSets();
    int choicePitch() const;
    void paintPicture(QPainter &p, QRectF room);
    /// Under a picture of one side: the way along the sound, and where the pointer is on it.
    void paintRuler(QPainter &p);
    double slantAt(double x) const;
    void paintSection(QPainter &p, QRectF room);
    void paintSlope(QPainter &p, QRectF room);
    void paintDrained(QPainter &p, QRectF room);
    QString readingWords() const;
    void paintCircle(QPainter &p, QRectF room);
    void paintProgress(QPainter &p, double top);

    ViewContext &context_;
    Trainer trainer_;
    std::vector<KeyButton *> choices_;
    KeyButton *next_, *harder_, *own_, *write_set_, *open_set_;
    QComboBox *person_;
    QImage image_;
    int shown_question_ = 0;
    QRectF picture_;                ///< where the picture of one side is drawn; empty: none is
    std::optional<double> pointer_; ///< x, on it
};

} // namespace heron::app
