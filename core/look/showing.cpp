#include "look/showing.hpp"

#include "sonar/decibels.hpp"

#include <algorithm>
#include <boost/math/special_functions/gamma.hpp>
#include <cmath>

namespace heron {
namespace {

constexpr double alarms_area_m2 = 1000;
constexpr double most_pings = 14; // beyond, neighbours repeat what was heard
constexpr double shadow_offsets_db[] = {-3, 0, 3};
constexpr double cell_offsets_db[] = {-6, 0, 6}; // how strongly a thing's cells differ
constexpr double dark_patch_share = 0.5;         // a shadow's box is wider than a patch
constexpr double nearest_share = 0.5;            // of the depth

} // namespace

double effective_looks(double looks, double patchy_db) {
    const double nepers = patchy_db * std::log(10.0) / 10;
    return 1 / (1 / std::max(0.1, looks) + std::expm1(nepers * nepers));
}

namespace {

// Beyond what a double holds the nearest that it holds serves.
using boost::math::policies::ignore_error;
using Calm = boost::math::policies::policy<boost::math::policies::overflow_error<ignore_error>,
                                           boost::math::policies::underflow_error<ignore_error>,
                                           boost::math::policies::evaluation_error<ignore_error>>;
double bounded(double looks) {
    return std::clamp(looks, 0.03, 400.0);
}

} // namespace

double bright_level(double looks, double false_alarm) {
    looks = bounded(looks);
    return boost::math::gamma_q_inv(looks, std::clamp(false_alarm, 1e-12, 0.5), Calm()) / looks;
}

double dark_level(double looks, double false_alarm) {
    looks = bounded(looks);
    return boost::math::gamma_p_inv(looks, std::clamp(false_alarm, 1e-12, 0.5), Calm()) / looks;
}

double chance_over(double ratio, double looks, double level) {
    looks = bounded(looks);
    return ratio > 0 ? boost::math::gamma_q(looks, std::min(1e6, looks * level / ratio), Calm()) : 0;
}

Showing showing_of(const Gear &gear, const WaterState &water, const SmallestThing &thing, const Setting &s,
                   double depth, double ground) {
    Showing r;
    const auto b = budget_at(gear, water, thing, s, depth, ground);
    if (b.slant_m > s.range_m)
        return r;
    r.pings = b.pings_on_thing;
    r.in_blind_strip = ground < nearest_share * depth;
    const bool fish = thing.kind == SmallestThing::Kind::fish;
    const double altitude = std::max(0.05, depth - gear.draught_m);
    r.in_strip = fish && ground * ground < (2 * altitude - thing.height_m) * thing.height_m;
    const double patchy = patchiness_db(water.bottom);
    const double bottom = power_of(b.bottom_over_noise_db), noise = 1 + power_of(b.water_over_noise_db);
    const double own = (power_of(b.thing_over_bottom_db) - 1) * bottom;
    const double thick = fish ? thing.length_m / 4 : thing.height_m;
    // The box that fits its echo, and the one that fits its shadow; pings over it, cells across.
    const double pings = std::clamp(b.pings_on_thing, 0.2, most_pings);
    const double echo_looks = pings * std::max(1.0, thick / b.across_m);
    const double echo_boxes =
        alarms_area_m2 / std::max(0.02, (thing.length_m + b.along_m) * std::max(thick, b.across_m));
    const double level = bright_level(effective_looks(echo_looks, patchy), 1 / echo_boxes);
    for (const double offset : cell_offsets_db) {
        const double lit = own * power_of(offset) + (fish ? 1.0 : 0.3) * bottom;
        // In the strip of water there is nothing behind it but noise, and that is not patchy.
        r.echo += (r.in_strip ? chance_over((own * power_of(offset) + noise) / noise, echo_looks,
                                            bright_level(echo_looks, 1 / echo_boxes))
                              : chance_over((lit + noise) / (bottom + noise), echo_looks, level)) /
                  3;
    }
    if (b.pings_on_thing < 1)
        r.echo *= b.pings_on_thing;
    // Under the boat there is no ground behind it for a shadow to fall on.
    if (!r.in_blind_strip && !r.in_strip && b.shadow_m > b.across_m) {
        const double shadow_pings =
            std::clamp(b.pings_on_thing * thing.length_m / (thing.length_m + b.along_m), 0.2, most_pings);
        const double shadow_looks = shadow_pings * b.shadow_m / b.across_m;
        const double boxes = alarms_area_m2 / std::max(0.02, thing.length_m * b.shadow_m);
        const double dark = dark_level(effective_looks(shadow_looks, dark_patch_share * patchy), 1 / boxes);
        const double ratio = (b.shadow_left * bottom + noise) / (bottom + noise);
        // How dark it is nobody knows to the decibel: twigs, a face that leans, what leaks past the beam.
        for (const double offset : shadow_offsets_db)
            r.shadow += (1 - chance_over(std::min(1.0, ratio * power_of(offset)), shadow_looks, dark)) / 3;
    }
    r.either = 1 - (1 - r.echo) * (1 - r.shadow);
    return r;
}

double shows_to_any(std::span<const double> chances) {
    double missed = 1;
    for (const double c : chances)
        missed *= 1 - c;
    return 1 - missed;
}

} // namespace heron
