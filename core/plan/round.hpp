// A round over several places, in a sensible order.
#pragma once

#include "geo/position.hpp"

#include <cstddef>
#include <vector>

namespace heron {

/// The order in which to visit places from a start, ending at the last of them: the shortest for up to nine
/// places (all orders are tried), else the nearest first, mended by turning round stretches (2-opt) until
/// nothing gets shorter. Straight ways over the water; land between is the guide's to see.
std::vector<std::size_t> round_over(const GeoPoint &start, const std::vector<GeoPoint> &places);
/// Metres from the start over all places in that order.
double length_of_round(const GeoPoint &start, const std::vector<GeoPoint> &places,
                       const std::vector<std::size_t> &order);

} // namespace heron
