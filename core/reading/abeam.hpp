// The bottom abeam of a row, as far as anything tells its shape.
#pragma once

#include "reading/shadow.hpp"
#include "reading/slope.hpp"

#include <optional>
#include <vector>

namespace heron {

/// What is asked about: one row, one side, and the slant ranges of interest, metres.
struct AbeamRequest {
    std::size_t row = 0;
    Side side = Side::starboard;
    double about_m = 0; ///< where the thing lies
    double far_m = 0;   ///< how far out the bottom matters: the shadow's end
};

/// Puts slope and profile into `plane`, whose altitude is known: the plane through `depths`, together with
/// what the sides' first returns tell (`run_m`: metres run at every row that may be asked), and, where other
/// tracks ran over the bottom abeam, their depths, which count for more than any slope.
BottomPlane shape_abeam(const Scan &scan, const AbeamRequest &asked, const TrackDepths &depths,
                        const std::vector<double> &run_m, BottomPlane plane);

/// The same from the track within 60 m of the row alone, for what is measured by hand. Nothing where no
/// bottom was found.
std::optional<BottomPlane> bottom_abeam(const Scan &scan, const AbeamRequest &asked);

} // namespace heron
