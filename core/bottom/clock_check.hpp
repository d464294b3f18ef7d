// Whether positions come late: opposite passes over the same ground tell.
#pragma once

#include "bottom/ground_map.hpp"

#include <cstdint>
#include <optional>
#include <vector>

namespace heron {

/// Laid by positions that are late, what one pass saw lies behind where it is, and what the pass the other
/// way saw lies behind the other way: both are off by twice the way of the boat in that time. An antenna that
/// is told to stand elsewhere along the boat does the same; both are told as one.
class ClockCheck {
  public:
    struct Found {
        double positions_late_s = 0; ///< more than 0: a position is told later than it was so
        double sd_s = 0;             ///< one sigma
        double apart_m = 0;          ///< of what both passes saw, in the median
        int pairs = 0;               ///< of opposite passes that agree
    };
    /// Rows in order; straight stretches of fifteen metres and more are kept, cut after a hundred and twenty,
    /// twenty of them at most.
    void add(const Scan &scan, std::size_t row, const GroundCurve &curve);
    /// Nothing where no two passes the other way saw the same ground and know it again.
    std::optional<Found> found() const;

  private:
    struct Pass {
        GroundMap map;
        double heading_deg, speed_m_s = 0, run_m = 0;
        EastNorth last;
        int rows = 0;
    };
    bool belongs(const Scan &scan, std::size_t row, double heading_deg, const OnUtm &at) const;
    static std::optional<double> apart(const Pass &one, const Pass &other);

    std::vector<Pass> passes_;
    std::optional<UtmZone> zone_;
    UnixNs last_ = 0;
};

} // namespace heron
