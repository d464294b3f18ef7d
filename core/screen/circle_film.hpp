// A film of a circular picture: its rays as the head sweeps them anew.
#pragma once

#include "screen/circle.hpp"
#include "screen/film.hpp"

namespace heron {

/// Takes pictures as they come. Rays that differ from the picture before by more than the film's own noise
/// were swept since; each is taken once, in the order in which the edge went over them, whichever way it
/// turns.
class CircleTaker {
  public:
    /// A ray (see `off_bow_deg`), its levels and its time since the first picture, seconds.
    using Take = std::function<void(int ray, const LevelRow &, double seconds)>;
    CircleTaker(ScreenCalibration calibration, Take take);
    /// `onto`: where the screen lies on it (`HandFollower`), if it wanders.
    void add(const ScreenPicture &picture, double seconds, const std::optional<Homography> &onto = {});
    const FilmFacts &facts() const { return facts_; }

  private:
    void tell(const std::string &what, double seconds);

    ScreenCalibration calibration_;
    Take take_;
    FilmFacts facts_;
    std::unique_ptr<LevelOfColour> level_;
    std::vector<LevelRow> before_;
    std::optional<int> edge_; ///< the ray that was swept last
    bool clockwise_ = true;
    double last_s_ = 0;
};

} // namespace heron
