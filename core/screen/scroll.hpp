// How far a panel has scrolled from one picture of a film to the next, and what came new.
#pragma once

#include "screen/rows.hpp"

#include <memory>
#include <string>

namespace heron {

/// What happened between two pictures of a film.
enum class ScrollState : std::uint8_t {
    first,    ///< nothing to compare with yet
    still,    ///< the same picture again
    scrolled, ///< the same rows farther on, and new ones
    covered,  ///< a part of it lies under something: the rest scrolled
    jumped    ///< nothing of the last picture is found again
};

struct Scroll {
    ScrollState state = ScrollState::first;
    int rows = 0;            ///< new ones; parts of a row are kept for the next pictures
    double rows_exact = 0;   ///< since the last picture, between whole rows
    double alike = 0;        ///< correlation of what stayed, −1…1
    std::vector<bool> shown; ///< by strip across: not under something
};

/// Follows one panel. Rows of panels are oldest first, so what is new stands at the end.
class ScrollFollower {
  public:
    static constexpr int strips = 8;
    ScrollFollower();
    ~ScrollFollower();
    /// Of a panel always of the same size; another size begins anew.
    Scroll next(const Panel &panel);

  private:
    struct State;
    std::unique_ptr<State> state_;
};

} // namespace heron
