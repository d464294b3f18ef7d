// What the ground is shaped into: fields of ripples, sunken lanes, spawning beds.
#pragma once

#include "bottom/ground_map.hpp"
#include "bottom/hardness.hpp"
#include "geo/position.hpp"

#include <cstdint>
#include <string_view>
#include <vector>

namespace heron {

struct GroundForm {
    enum class Kind : std::uint8_t {
        ripples, ///< crests in rows, of sand that water has moved
        lane,    ///< a strip of firm ground between two parallel edges
        beds     ///< bowls side by side, swept into the ground by fish that spawn
    } kind = Kind::ripples;
    std::vector<EastNorth> outline;   ///< on the plane of the map's zone, metres; the last joins the first
    EastNorth middle;                 ///< of the smallest rectangle around it
    double length_m = 0, width_m = 0; ///< of that rectangle
    double bearing_deg = 0; ///< of its longer side, of ripples: of their crests; 0 to 180 from grid north
    double wave_m = 0;      ///< of ripples: from crest to crest
    std::vector<EastNorth> bowls; ///< of beds: where those are that were made out; there are more
    double bowl_m = 0;            ///< and how wide their dark sides are, the median
    double strength = 0;          ///< by which it was told; see `forms_of`
};
std::string_view name_of(GroundForm::Kind kind);
/// How far a place lies outside of a form, metres; 0 within it.
double metres_outside(const GroundForm &form, const EastNorth &place);

/// What is told of a map whose cells are no wider than half a metre; of a wider one nothing.
///
/// Ripples: in windows of eight metres the power spectrum of the levels (each cell's best look, less the mean
/// within a metre and a quarter) has one peak between 0.6 and 3 metres that holds so much of the power there
/// that speckle does not; neighbouring windows agree on wave and direction; no lane runs along them there.
/// `strength`: the peak's share.
///
/// Lanes: hard ground no wider than seven metres that keeps its width (the middle half of its widths within
/// 35 in 100) and its way (within a metre of a parabola) for eighteen metres and more, between soft ground on
/// both sides, from 2.2 metres of width on; neither the face of a ledge (the bottom sounded on one side lies
/// a metre and more under that on the other) nor along weeds (three cells in ten within two metres of
/// them); `strength`: length over width.
///
/// Beds: groups of bowls (bottom/dark_spots.hpp) on ground that is neither rock nor weeds by more than a
/// third of what lies within a metre of them; `strength`: how many bowls.
std::vector<GroundForm> forms_of(const GroundMap &map, const Hardness &hardness);

} // namespace heron
