// The whole trip as a thin strip at the far edge; press to jump.
#pragma once

#include "parts/view_context.hpp"

#include <QImage>
#include <QTimer>
#include <QWidget>

namespace heron::app {

class PictureView;

class TripStrip : public QWidget {
    Q_OBJECT
  public:
    TripStrip(ViewContext &context, PictureView &picture, QWidget *parent = nullptr);

  protected:
    void paintEvent(QPaintEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;
    void mouseMoveEvent(QMouseEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;

  private:
    void redraw();
    void jump(double y);

    ViewContext &context_;
    PictureView &picture_;
    QTimer timer_;
    QImage image_;
};

} // namespace heron::app
