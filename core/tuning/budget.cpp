#include "tuning/budget.hpp"

#include "geo/position.hpp"
#include "sonar/decibels.hpp"
#include "tuning/eye.hpp"
#include "water/bounce.hpp"
#include "water/water.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace heron {
namespace {

// All of these: common practice, no published source. A thing's cells are met by the beam and the pulse in
// part only, so they differ by some ten decibels to both sides of their usual.
constexpr double bush_strength_db = -19; // wood and weeds, at 1 m²
constexpr double flank_db = 2;           // of a fish, against its back
constexpr double cell_offsets_db[] = {-9, -3, 3, 9};
constexpr double counts_as_echo = 1.25;                   // times the bottom
constexpr double bush_opacity = 0.82, fish_opacity = 0.8; // share of sound that does not pass
constexpr double bush_reach = 1.05, fish_reach = 2;       // of its length; see budget_at

// The outer of three points of Gauss and Hermite, as a factor, of a patchiness in decibels.
double outer_point(double sigma_db) {
    return power_of(sigma_db * std::numbers::sqrt3);
}

// P(X > Y) of speckle with means a and b where b is patchy: by three points, `far` the factor of the outer
// two.
double separation_on_patchy(double a, double b, double far) {
    using sonar_equation::separation_of_speckle;
    return (4 * separation_of_speckle(a, b) + separation_of_speckle(a, b * far) +
            separation_of_speckle(a, b / far)) /
           6;
}

// What comes by the surface and from it at a slant range, over what the flat bottom itself returns there:
// each pair of ways, out and back, whose mean length is that range.
double by_surface_over_bottom(const Gear &gear, const WaterState &water, const GearBand &band, double slant,
                              double altitude) {
    using namespace sonar_equation;
    const double along = band.along_deg / degrees_per_radian;
    const auto &bottom = usual_sediment(static_cast<std::size_t>(water.bottom));
    const auto fan = [&](double sine) { // one way
        return power_of(
            -0.5 * beam_loss_db(std::asin(std::clamp(sine, -1.0, 1.0)) * degrees_per_radian - gear.tilt_deg,
                                band.across_deg));
    };
    // A second bounce off the bottom leaves next to nothing.
    const auto paths = image_paths(altitude + gear.draught_m, gear.draught_m, 1);
    const Bounces bounces(water.wind_m_s, bottom, along, band.frequency_hz);
    const double sine = altitude / slant;
    const double direct = std::pow(fan(sine) * sine, 2);
    double sum = 0;
    for (std::size_t i = 0; i < paths.size(); ++i)
        for (std::size_t j = i; j < paths.size(); ++j) {
            if (j == 0)
                continue;
            // Where on the bottom: (rᵢ + rⱼ)/2 is the range.
            const double hi = paths[i].height_m, hj = paths[j].height_m;
            const double over = (hj * hj - hi * hi) / (2 * slant); // rⱼ − rᵢ
            const double ri = slant - over / 2, rj = slant + over / 2;
            if (ri <= hi)
                continue;
            double both = 1;
            for (const auto &[path, r] : {std::pair{paths[i], ri}, std::pair{paths[j], rj}}) {
                const double grazing = std::min(1.0, path.height_m / r); // its sine
                both *= fan(path.up_first ? -grazing : grazing) * grazing *
                        bounces.kept_along(path, grazing) * (slant * slant) / (r * r);
            }
            sum += (i == j ? 1 : 2) * both;
        }
    const double up = std::min(1.0, gear.draught_m / slant);
    sum += bounces.backscatter(up) * std::pow(fan(-up), 2) / power_of(lambert_strength_db(water.bottom)) *
           std::sqrt(std::max(0.0, 1 - sine * sine));
    return direct > 0 ? sum / direct : 0;
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
    l.bottom = power_of(heard - beam_loss_db(depression - gear.tilt_deg, band.across_deg) +
                        lambert_db(lambert_strength_db(water.bottom), grazing) + area);
    const double volume = along * slant * slant * 0.6 * pulse;
    l.water = power_of(heard + water.suspended_db + 2 * decibels_of(band.frequency_hz / 770e3) +
                       decibels_of(volume));
    const double fan = beam_loss_db(at_thing - gear.tilt_deg, band.across_deg);
    if (thing.kind == SmallestThing::Kind::fish) {
        l.thing = power_of(heard - fan + fish_strength_db(thing.length_m, band.frequency_hz) + flank_db);
    } else {
        const double face = std::min(pulse, thing.height_m) * std::min(along * slant, thing.length_m);
        l.thing = power_of(heard - fan + bush_strength_db + decibels_of(face));
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
    return 4 * decibels_of(r) + 2 * absorption * r;
}
double cell_area_db(double r, double grazing, double along, double resolution) {
    return decibels_of(resolution / std::max(0.02, std::cos(grazing)) * r * along);
}
double lambert_db(double strength, double grazing) {
    return strength + 2 * decibels_of(std::max(1e-6, std::sin(grazing)));
}
double fish_strength_db(double length, double frequency) {
    return 1.91 * decibels_of(length * 100) - 0.09 * decibels_of(frequency / 1000) - 62.0;
}
double beam_loss_db(double off, double width) {
    const double x = off / (width / 2);
    return 2 * decibels_of(std::numbers::e) * std::numbers::ln2 * x * x;
}
double separation_of_speckle(double a, double b) {
    return a + b > 0 ? a / (a + b) : 0.5;
}

} // namespace sonar_equation

BySurface::BySurface(const Gear &gear, const WaterState &water, std::size_t band, double depth) {
    const double altitude = std::max(0.05, depth - gear.draught_m);
    first_m_ = altitude * 1.0001;
    step_ = std::log(std::max(2.0, 1.05 * gear.longest_range_m / first_m_)) / (knots - 1);
    for (std::size_t i = 0; i < knots; ++i)
        share_[i] = by_surface_over_bottom(gear, water, gear.bands.at(band),
                                           first_m_ * std::exp(static_cast<double>(i) * step_), altitude);
}

double BySurface::at(double slant) const {
    const double x = std::clamp(std::log(std::max(slant, first_m_) / first_m_) / step_, 0.0, knots - 1.001);
    const auto i = static_cast<std::size_t>(x);
    const double f = x - static_cast<double>(i);
    return share_[i] * (1 - f) + share_[i + 1] * f;
}

static Budget budget_given(const Gear &gear, const WaterState &water, const SmallestThing &thing,
                           const Setting &s, double depth, double ground, double by_surface) {
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
    b.pixel_across_m = s.range_m / gear.pixels_a_side() / std::max(0.02, std::cos(grazing));
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
    b.bottom_over_noise_db = decibels_of(l.bottom);
    b.water_over_noise_db = decibels_of(l.water);
    b.thing_over_bottom_db = decibels_of((l.thing + l.bottom) / l.bottom);
    b.by_surface = by_surface;
    const double noise = 1 + l.water + b.by_surface * l.bottom;
    const bool fish = thing.kind == SmallestThing::Kind::fish;
    // A fish hangs before the bottom behind it, a bush hides most of it.
    const double seen_through = fish ? 1.0 : 0.3;
    const double patchy = outer_point(patchiness_db(water.bottom));
    double sum = 0, cells = 0;
    for (const double offset : cell_offsets_db) {
        const double cell = l.thing * power_of(offset) + seen_through * l.bottom;
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
    // To the eye counts what stands out: echo and shadow by how far from chance.
    const double echo_across = fish ? thing.length_m / 4 : thing.length_m;
    b.eye_cycles =
        cycles_over(echo_across * std::max(0.0, 2 * echo - 1) + b.shadow_m * std::max(0.0, 2 * shadow - 1),
                    thing.length_m, std::max(b.pixel_across_m, b.across_m), along_cell);
    b.eye_sees = told_in_a_glance(b.eye_cycles);
    return b;
}

Budget budget_at(const Gear &gear, const WaterState &water, const SmallestThing &thing, const Setting &s,
                 double depth, double ground) {
    const double altitude = std::max(0.05, depth - gear.draught_m);
    return budget_given(
        gear, water, thing, s, depth, ground,
        by_surface_over_bottom(gear, water, gear.bands.at(s.band), std::hypot(ground, altitude), altitude));
}

Budget budget_at(const Gear &gear, const WaterState &water, const SmallestThing &thing, const Setting &s,
                 double depth, double ground, const BySurface &by_surface) {
    const double altitude = std::max(0.05, depth - gear.draught_m);
    return budget_given(gear, water, thing, s, depth, ground, by_surface.at(std::hypot(ground, altitude)));
}

double useful_range_m(const Gear &gear, const WaterState &water, const Setting &s, double depth,
                      double least_db) {
    const double altitude = std::max(0.05, depth - gear.draught_m);
    const BySurface by_surface(gear, water, s.band, depth);
    double useful = altitude;
    constexpr int steps = 200;
    for (int i = 1; i <= steps; ++i) {
        const double r = altitude + (s.range_m - altitude) * i / steps;
        if (r <= altitude)
            return std::min(altitude, s.range_m);
        const auto b = budget_at(gear, water, SmallestThing(), s, depth,
                                 std::sqrt(r * r - altitude * altitude), by_surface);
        const double floor = decibels_of(1 + power_of(b.water_over_noise_db) +
                                         b.by_surface * power_of(b.bottom_over_noise_db));
        if (b.bottom_over_noise_db - floor < least_db && r > 1.3 * altitude)
            break;
        useful = r;
    }
    return useful;
}

} // namespace heron
