// What lies behind an echo: its shadow, where it begins and ends, and how dark it is.
#pragma once

#include "reading/echoes.hpp"

namespace heron {

/// All along the sound, metres; levels in dB against the background.
struct ShadowBehind {
    bool found = false;
    double score = 0;      ///< dB·m that the run of darkness gathers beyond 2.6 dB
    double gap_m = 0;      ///< from the echo's far edge to where the dark begins
    double top_m = 0;      ///< slant range at which the echo rises to half of its height, in dB
    double start_m = 0;    ///< slant range where the dark begins
    double end_m = 0;      ///< slant range where it ends
    double end_sd_m = 0.1; ///< one sigma of that end
    double depth_db = 0;   ///< how dark, positive
    double beside_db = 0;  ///< how much darker than the same distances beside it, positive
    double width_m = 0;    ///< along the track
    bool cut = false;      ///< it reaches the edge of the range
    double touch_db = 0;   ///< how dark the first half metre behind its far edge is, positive
    double before_db = 0;  ///< level in the half metre before the echo
    double halo_db = 0;    ///< level around it, beside the echo
    /// The darkest 0.3 m farther than that behind it: how dark against the spread of such boxes behind the
    /// ground on both sides of it, and how much darker than the darkest of those, dB.
    double apart_z = 0, apart_db = 0;
    /// Of a dark region: what throws it, the brightest spot before it on the same lines; all 0 where none
    /// stands out. How bright, dB and in spreads of such spots on both sides; its slant ranges.
    double source_z = 0, source_db = 0, source_m = 0, source_end_m = 0;
};

/// Rays of the echo are brought to its far edge and averaged (the outer 18 % of them left out); the run of
/// darkness with the greatest sum is the shadow, its end where it rises to half of its depth.
ShadowBehind look_behind(const Swath &swath, const Echo &echo);

/// Looks for what throws a dark region, and sets the source and the gap of `behind`. `other`: things that
/// throw a shadow of their own; they do not throw this one.
void look_before(const Swath &swath, const Echo &dark, ShadowBehind &behind,
                 const std::vector<Echo> &other = {});

/// All that is found in a swath, each with what lies behind it: echoes, and the dark regions that none of
/// them explains. A shadow that stands off from an echo and has a better source is not that echo's.
struct Found {
    std::vector<Echo> echoes;
    std::vector<ShadowBehind> behinds; ///< one each
};
Found find_all(const Swath &swath, const DetectionLevels &levels = {});

} // namespace heron
