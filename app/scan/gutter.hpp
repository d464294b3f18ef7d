// The gutter: depth, speed and straightness, row by row with the picture.
#pragma once

#include "feed/survey.hpp"

#include <QWidget>
#include <unordered_map>

namespace heron::app {

class PictureView;

class Gutter : public QWidget {
    Q_OBJECT
  public:
    Gutter(Survey &survey, PictureView &picture, QWidget *parent = nullptr);
    /// Turn rate above which what is drawn is smeared, degrees a second (common practice, no published
    /// source).
    static constexpr double turning_deg_s = 3;

  protected:
    void paintEvent(QPaintEvent *event) override;

  private:
    // What the traces show at one row.
    struct Point {
        double depth_m = -1, speed_m_s = -1, turn_deg_s = 0;
        bool turn_known = false, settled = false;
    };
    const Point &pointAt(std::size_t row);
    Point lookUp(std::size_t row) const;

    Survey &survey_;
    PictureView &picture_;
    std::unordered_map<std::size_t, Point> known_;
};

} // namespace heron::app
