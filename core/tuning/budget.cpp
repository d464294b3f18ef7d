#include "tuning/budget.hpp"

#include "geo/position.hpp"
#include "water/water.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace heron {
namespace {

double linear(double db) {
    return std::pow(10.0, db / 10);
}

// All of these: common practice, no published source. A thing's cells are met by the beam and the pulse in
// part only, so they differ by some ten decibels to both sides of their usual.
constexpr double bush_strength_db = -19; // wood and weeds, at 1 m²
constexpr double flank_db = 2;           // of a fish, against its back
constexpr double cell_offsets_db[] = {-9, -3, 3, 9};
constexpr double counts_as_echo = 1.25;                   // times the bottom
constexpr double bush_opacity = 0.82, fish_opacity = 0.8; // share of sound that does not pass
constexpr double bush_reach = 1.05, fish_reach = 2;       // of its length; see budget_at

// P(X > Y) of speckle with means a and b where b is patchy: by three points of Gauss and Hermite.
double separation_on_patchy(double a, double b, double sigma_db) {
    using sonar_equation::separation_of_speckle;
    const double far = linear(sigma_db * std::numbers::sqrt3);
    return (4 * separation_of_speckle(a, b) + separation_of_speckle(a, b * far) +
            separation_of_speckle(a, b / far)) /
           6;
}

struct Levels {
    double bottom, water, thing; // over receiver noise, linear; of the thing its own echo alone
};

// What a cell at slant range r holds, over the receiver's own noise at the speed set.
Levels levels_at(const Gear &gear, const WaterState &water, const SmallestThing &thing, const Setting &s,
                 double slant, double altitude, double grazing) {
    using namespace sonar_equation;
    const auto &band = gear.bands.at(s.band);
    const double c = sound_speed_fresh_m_s(water.temperature_c);
    const double along = band.along_deg / degrees_per_radian;
    const double loss =
        two_way_loss_db(slant, absorption_fresh_db_per_m(band.frequency_hz, water.temperature_c));
    const double depression = std::asin(std::clamp(altitude / slant, -1.0, 1.0)) * degrees_per_radian;
    const double at_thing =
        std::asin(std::clamp((altitude - thing.height_m) / slant, -1.0, 1.0)) * degrees_per_radian;
    const double heard = band.source_db - loss - gear.noise_rise_db(s.speed_m_s) - water.noise_db;
    const double pulse = gear.resolution_m(s.band, s.range_m, c);
    Levels l{};
    const double area = cell_area_db(slant, grazing, along, pulse);
    l.bottom = linear(heard - beam_loss_db(depression - gear.tilt_deg, band.across_deg) +
                      lambert_db(lambert_strength_db(water.bottom), grazing) + area);
    const double volume = along * slant * slant * 0.6 * pulse;
    l.water = linear(heard + water.suspended_db + 20 * std::log10(band.frequency_hz / 770e3) +
                     10 * std::log10(volume));
    const double fan = beam_loss_db(at_thing - gear.tilt_deg, band.across_deg);
    if (thing.kind == SmallestThing::Kind::fish) {
        l.thing = linear(heard - fan + fish_strength_db(thing.length_m, band.frequency_hz) + flank_db);
    } else {
        const double face = std::min(pulse, thing.height_m) * std::min(along * slant, thing.length_m);
        l.thing = linear(heard - fan + bush_strength_db + 10 * std::log10(face));
    }
    return l;
}

} // namespace

double lambert_strength_db(BottomType type) {
    switch (type) {
    case BottomType::silt:
        return -35;
    case BottomType::sand:
        return -28;
    case BottomType::gravel:
        return -20;
    case BottomType::rock:
        return -12;
    }
    return -28;
}

double patchiness_db(BottomType type) {
    switch (type) {
    case BottomType::silt:
        return 1.5;
    case BottomType::sand:
        return 2.5;
    case BottomType::gravel:
        return 4.5;
    case BottomType::rock:
        return 6.5;
    }
    return 2.5;
}

namespace sonar_equation {

double two_way_loss_db(double r, double absorption) {
    return 40 * std::log10(r) + 2 * absorption * r;
}
double cell_area_db(double r, double grazing, double along, double resolution) {
    return 10 * std::log10(resolution / std::max(0.02, std::cos(grazing)) * r * along);
}
double lambert_db(double strength, double grazing) {
    return strength + 20 * std::log10(std::max(1e-6, std::sin(grazing)));
}
double fish_strength_db(double length, double frequency) {
    return 19.1 * std::log10(length * 100) - 0.9 * std::log10(frequency / 1000) - 62.0;
}
double beam_loss_db(double off, double width) {
    const double x = off / (width / 2);
    return 2 * 10 * std::log10(std::numbers::e) * std::numbers::ln2 * x * x;
}
double separation_of_speckle(double a, double b) {
    return a + b > 0 ? a / (a + b) : 0.5;
}

} // namespace sonar_equation

Budget budget_at(const Gear &gear, const WaterState &water, const SmallestThing &thing, const Setting &s,
                 double depth, double ground) {
    const auto &band = gear.bands.at(s.band);
    const double c = sound_speed_fresh_m_s(water.temperature_c);
    const double altitude = std::max(0.05, depth - gear.draught_m);
    Budget b;
    b.ground_m = ground;
    b.slant_m = std::hypot(ground, altitude);
    const double grazing = std::atan2(altitude, std::max(1e-3, ground));
    b.grazing_deg = grazing * degrees_per_radian;
    b.across_m = gear.resolution_m(s.band, s.range_m, c) / std::max(0.02, std::cos(grazing));
    b.along_m = b.slant_m * band.along_deg / degrees_per_radian;
    b.pixel_across_m = s.range_m / gear.pixels_a_side / std::max(0.02, std::cos(grazing));
    const double period = gear.ping_period_s(s.range_m, c);
    b.pings_on_thing = (thing.length_m + b.along_m) / std::max(1e-6, s.speed_m_s * period);
    const double thick = thing.kind == SmallestThing::Kind::fish ? thing.length_m / 4 : thing.height_m;
    // Along the track what the beam does not part is one, however many pings fall on it.
    const double along_cell = std::max(b.along_m, s.speed_m_s * period);
    b.cells_on_thing = std::max(1.0, thing.length_m / along_cell) * std::max(1.0, thick / b.across_m);
    // The far end of the shadow: the ray over the top meets the bottom at g·A/(A − H).
    const double top = std::min(thing.height_m, 0.98 * altitude);
    const double end = ground * altitude / (altitude - top);
    b.shadow_m = thing.kind == SmallestThing::Kind::fish
                     ? std::min(thing.length_m, 0.6) * altitude / (altitude - top)
                     : end - ground;
    if (thing.kind == SmallestThing::Kind::bush) {
        const double edge = std::sqrt(std::max(0.0, s.range_m * s.range_m - altitude * altitude));
        b.shadow_m = std::clamp(std::min(end, edge) - ground, 0.0, b.shadow_m);
    }
    const auto l = levels_at(gear, water, thing, s, b.slant_m, altitude, grazing);
    b.bottom_over_noise_db = 10 * std::log10(l.bottom);
    b.water_over_noise_db = 10 * std::log10(l.water);
    b.thing_over_bottom_db = 10 * std::log10((l.thing + l.bottom) / l.bottom);
    const double noise = 1 + l.water;
    const bool fish = thing.kind == SmallestThing::Kind::fish;
    // A fish hangs before the bottom behind it, a bush hides most of it.
    const double seen_through = fish ? 1.0 : 0.3;
    const double patchy = patchiness_db(water.bottom);
    double sum = 0, cells = 0;
    for (const double offset : cell_offsets_db) {
        const double cell = l.thing * linear(offset) + seen_through * l.bottom;
        if (cell < counts_as_echo * l.bottom)
            continue;
        // The other way round: of P(thing > bottom) the bottom is the patchy one.
        sum += separation_on_patchy(cell + noise, l.bottom + noise, patchy);
        cells += 1;
    }
    const double echo = cells > 0 ? sum / cells : 0.5;
    // The wider the beam against the thing, the more of the cell beside it stays lit; and some sound passes.
    const double reach = thing.length_m * (fish ? fish_reach : bush_reach);
    const double left = 1 - (fish ? fish_opacity : bush_opacity) / (1 + b.along_m / reach);
    const double shadow = 1 - separation_on_patchy(left * l.bottom + noise, l.bottom + noise, patchy);
    b.echo_separation = echo;
    b.shadow_separation = shadow;
    b.shadow_left = left;
    b.separation = (echo + shadow) / 2;
    return b;
}

double useful_range_m(const Gear &gear, const WaterState &water, const Setting &s, double depth,
                      double least_db) {
    const double altitude = std::max(0.05, depth - gear.draught_m);
    double useful = altitude;
    constexpr int steps = 200;
    for (int i = 1; i <= steps; ++i) {
        const double r = altitude + (s.range_m - altitude) * i / steps;
        if (r <= altitude)
            return std::min(altitude, s.range_m);
        const auto b =
            budget_at(gear, water, SmallestThing(), s, depth, std::sqrt(r * r - altitude * altitude));
        const double floor = 10 * std::log10(1 + linear(b.water_over_noise_db));
        if (b.bottom_over_noise_db - floor < least_db && r > 1.3 * altitude)
            break;
        useful = r;
    }
    return useful;
}

} // namespace heron
