// Where the guide drew the bottom line: kept with the trip, put in whenever it is opened.
#pragma once

#include "picture/scan.hpp"

#include <string>
#include <string_view>
#include <vector>

namespace heron {

/// One stroke: the depth of the bottom under the transducer at consecutive rows, metres.
struct BottomStroke {
    std::size_t first_row = 0;
    std::vector<double> altitude_m;
    bool operator==(const BottomStroke &) const = default;
};

/// The key under which a trip holds them.
inline constexpr const char *bottom_by_hand_key = "bottom_by_hand";

/// JSON: [[first row, [altitudes]], …], altitudes to the centimetre.
std::string text_of(const std::vector<BottomStroke> &strokes);
/// Strokes that cannot be read, and altitudes beyond 0.1…200 m, are passed over.
std::vector<BottomStroke> strokes_from(std::string_view text);
/// Puts strokes into a scan, the later over the earlier.
void draw_bottom(Scan &scan, const std::vector<BottomStroke> &strokes);

} // namespace heron
