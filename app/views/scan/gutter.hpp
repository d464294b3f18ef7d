// The gutter: depth, speed, straightness and pings, line by line with the picture.
#pragma once

#include "parts/view_context.hpp"

#include <QWidget>

namespace heron::app {

class PictureView;

class Gutter : public QWidget {
    Q_OBJECT
  public:
    Gutter(ViewContext &context, PictureView &picture, QWidget *parent = nullptr);
    /// Pings that a thing of half a metre gets half-way out; not-a-number without a speed.
    static double pingsOnHalfMetre(const Scan &scan, std::size_t row);
    static constexpr int depth_w = 52, speed_w = 26, turn_w = 24, pings_w = 26;

  protected:
    void paintEvent(QPaintEvent *event) override;

  private:
    struct Point {
        int y;
        std::size_t row;
    };
    std::vector<Point> pointsNow() const;
    void paintTraces(QPainter &p, const std::vector<Point> &points);
    void paintStrikesAndDepths(QPainter &p, const std::vector<Point> &points);
    void paintSelectedRow(QPainter &p);
    ViewContext &context_;
    PictureView &picture_;
};

} // namespace heron::app
