// A screen that is filmed from a hand: where it lies on each picture, by what stands still about its panel.
#pragma once

#include "screen/straighten.hpp"

#include <memory>
#include <optional>

namespace heron {

/// Finds small marks about the panel (rims, words, keys) on the first picture, and them again on each that
/// follows. Corners as by Shi and Tomasi (1994), found again by normalised correlation, the outliers left out
/// by random samples (Fischler and Bolles, 1981); both from memory.
class HandFollower {
  public:
    explicit HandFollower(const ScreenCalibration &calibration);
    ~HandFollower();
    /// The projective map (see `homography`) of the first picture, in the calibration's pixels, onto this
    /// one. Nothing where too little is found again: it is hidden, blurred, or moved too far at once. The
    /// first picture stays as it is; one with hardly anything about its panel is never found again.
    std::optional<Homography> next(const ScreenPicture &picture);

  private:
    struct State;
    std::unique_ptr<State> state_;
};

/// The same calibration where its screen lies elsewhere on the picture.
ScreenCalibration moved(ScreenCalibration calibration, const Homography &onto);

/// The picture as it would lie where the first one did.
ScreenPicture brought_back(const ScreenPicture &picture, const ScreenCalibration &calibration,
                           const Homography &onto);

} // namespace heron
