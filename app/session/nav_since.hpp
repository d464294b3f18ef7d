// What came to the track since a worker in another thread was handed it last.
#pragma once

#include "sonar/nav_track.hpp"

#include <algorithm>
#include <cstddef>
#include <vector>

namespace heron::app {

class NavSince {
  public:
    NavSamples of(const NavTrack &nav) {
        return {since(nav.positions(), positions_), since(nav.attitudes(), attitudes_),
                since(nav.depths(), depths_), since(nav.speeds(), speeds_)};
    }

  private:
    template <class Sample>
    static std::vector<Sample> since(const std::vector<Sample> &all, std::size_t &from) {
        // A track that was changed from behind begins anew.
        from = std::min(from, all.size());
        std::vector<Sample> some(all.begin() + static_cast<std::ptrdiff_t>(from), all.end());
        from = all.size();
        return some;
    }
    std::size_t positions_ = 0, attitudes_ = 0, depths_ = 0, speeds_ = 0;
};

} // namespace heron::app
