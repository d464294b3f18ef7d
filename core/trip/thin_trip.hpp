// An old trip made small: its pings go, but for those around marks and chosen stretches; marks, track,
// overview, facts and a mosaic of the bottom stay.
#pragma once

#include "trip/trip_file.hpp"

#include <functional>

namespace heron {

struct ThinPlan {
    double around_marks_s = 20;                                 ///< seconds kept before and after each mark
    std::vector<std::pair<std::size_t, std::size_t>> stretches; ///< rows to keep, [first, end)
    double mosaic_cell_m = 0.2;
};

/// What would stay and go, told before anything is done.
struct ThinSaving {
    std::uintmax_t bytes_before = 0, bytes_gone = 0; ///< of pings; the mosaic takes some of it back
    std::size_t rows_before = 0, rows_kept = 0;
    std::vector<std::pair<std::int64_t, bool>> blocks; ///< id, and whether it stays
};
Result<ThinSaving> plan_thinning(const TripFile &trip, const ThinPlan &plan);

/// Does it on a copy that then takes the trip's place. `progress` gets 0…1 and returns whether to go on;
/// stopped or failed, the trip is as it was. The trip must not be open.
Result<ThinSaving> thin_trip(const std::filesystem::path &path, const ThinPlan &plan,
                             const std::function<bool(double)> &progress = {});

} // namespace heron
