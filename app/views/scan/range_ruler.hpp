// The two-line ruler over the picture: along the sound above, over the ground beneath, computed from the
// depth now.
#pragma once

#include "parts/view_context.hpp"

#include <QWidget>

namespace heron::app {

class PictureView;

class RangeRuler : public QWidget {
    Q_OBJECT
  public:
    RangeRuler(ViewContext &context, PictureView &picture, QWidget *parent = nullptr);
    /// What stands under a range mark: the ground distance, or nothing inside the water strip.
    QString groundText(double slant_m) const;
    /// And over a ground mark, where the picture runs over ground.
    QString soundText(double ground_m) const;

  protected:
    void paintEvent(QPaintEvent *event) override;

  private:
    ViewContext &context_;
    PictureView &picture_;
    double drawn_altitude_ = 0;
};

/// A round step for a scale of `span` (in shown units) with about `marks` marks: 1, 2 or 5 times a power of
/// ten, or 15, 25.
double roundStep(double span, int marks);

} // namespace heron::app
