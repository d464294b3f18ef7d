#include "tuning/advice.hpp"

#include "fault/told.hpp"
#include "geo/position.hpp"
#include "units/units.hpp"
#include "water/water.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

constexpr int steps_across = 40;   // at least
constexpr double steering_m = 1.2; // how well a lane is kept; common practice, no published source

// Ranges that a unit offers: some forty between its ends, evenly in ratio.
std::vector<double> ranges_of(const Gear &gear) {
    std::vector<double> all;
    constexpr int n = 40;
    for (int i = 0; i <= n; ++i)
        all.push_back(gear.shortest_range_m *
                      std::pow(gear.longest_range_m / gear.shortest_range_m, double(i) / n));
    return all;
}

std::vector<double> speeds_up_to(double fastest) {
    std::vector<double> all;
    for (double v = 0.6; v <= fastest + 1e-9; v += 0.1)
        all.push_back(v);
    return all;
}

int gain_for(const Gear &gear, const WaterState &water, const Setting &s, double depth) {
    if (!std::isfinite(gear.level_at_zero_db))
        return -1;
    // The usual bottom, half-way out, in the lower half of what the unit tells apart: above it there must be
    // room for hard things, beneath it for shadow.
    const double altitude = std::max(0.05, depth - gear.draught_m);
    const double g = 0.5 * std::sqrt(std::max(1.0, s.range_m * s.range_m - altitude * altitude));
    const auto b = budget_at(gear, water, SmallestThing(), s, depth, g);
    const auto &band = gear.bands.at(s.band);
    const double tvg = gear.tvg_log * std::log10(b.slant_m) +
                       2 * absorption_fresh_db_per_m(band.frequency_hz, water.temperature_c) * b.slant_m;
    const double level = b.bottom_over_noise_db + gear.noise_rise_db(s.speed_m_s) + tvg;
    const double wanted = gear.level_at_zero_db + 0.42 * gear.level_span_db;
    const double step = gear.gain_steps / 2.0 + (wanted - level) / gear.db_a_gain_step;
    return static_cast<int>(std::clamp(std::lround(step), 0L, static_cast<long>(gear.gain_steps)));
}

int contrast_for(const Gear &gear) {
    // A window of 34 dB shows shadow as dark and hard things as light on speckled ground.
    return static_cast<int>(std::clamp<double>(
        std::round(gear.contrast_steps / 2.0 + (40 - 34) / gear.db_a_contrast_step), 0, gear.contrast_steps));
}

double inspect_worth(const Yield &y) {
    return y.cells_on_thing * (2 * y.separation - 1);
}

// Straight passes over a find: out, a turn, in.
constexpr double minutes_a_find = 1.5;
constexpr double finds_a_hectare = 5;

} // namespace

Yield yield_of(const Gear &gear, const WaterState &water, const SmallestThing &thing, const Setting &s) {
    return yield_of(gear, water, thing, s, BySurface(gear, water, s.band, water.depth_m()));
}

Yield yield_of(const Gear &gear, const WaterState &water, const SmallestThing &thing, const Setting &s,
               const BySurface &by_surface) {
    Yield y;
    y.setting = s;
    y.depth_m = water.depth_m();
    const double altitude = std::max(0.05, y.depth_m - gear.draught_m);
    y.edge_m = std::sqrt(std::max(0.0, s.range_m * s.range_m - altitude * altitude));

    if (y.edge_m <= 0)
        return y;
    double covered = 0, separation = 0, cells = 0, shadow = 0;
    bool blind = true;
    const int steps = std::max(steps_across, static_cast<int>(std::ceil(y.edge_m / 0.5)));
    const double step = y.edge_m / steps;
    y.pings_on_thing = 1e9;
    for (int i = 0; i < steps; ++i) {
        const double g = (i + 0.5) * step;
        const auto b = budget_at(gear, water, thing, s, y.depth_m, g, by_surface);
        // A shadow shorter than two cells is none.
        const bool shadowless = b.shadow_m < 2 * b.across_m;
        if (blind && !shadowless) {
            blind = false;
            y.blind_m = g - step / 2;
        }
        if (b.pings_on_thing < least_pings)
            continue;
        y.eye_worth_m2 += 2 * step * s.speed_m_s * 60 * b.eye_sees;
        y.eye_sees += b.eye_sees / steps;
        y.worth_m2 += 2 * step * s.speed_m_s * 60 * std::max(0.0, 2 * b.echo_separation - 1) *
                      std::max(0.0, 2 * b.shadow_separation - 1);
        if (b.shadow_separation < least_shadow_separation || shadowless)
            continue;
        if (covered == 0)
            y.nearest_m = g - step / 2;
        y.farthest_m = g + step / 2;
        covered += step;
        separation += b.separation * step;
        cells += b.cells_on_thing * step;
        shadow += b.shadow_m * step;
        y.pings_on_thing = std::min(y.pings_on_thing, b.pings_on_thing);
    }
    if (covered == 0) {
        y.pings_on_thing = 0;
        return y;
    }
    y.separation = separation / covered;
    y.cells_on_thing = cells / covered;
    y.shadow_m = shadow / covered;

    y.ground_per_minute_m2 = 2 * covered * s.speed_m_s * 60;
    // Each lane's nearest edge is seen from its neighbour: lane + nearest ≤ farthest.
    y.lane_m = std::max(step, y.farthest_m - y.nearest_m - steering_m);
    return y;
}

double altitude_of_range_percent(const Gear &gear, const WaterState &water, const Setting &s) {
    return 100 * std::max(0.0, water.depth_m() - gear.draught_m) / s.range_m;
}

Yields::Yields(Gear gear, WaterState water, SmallestThing thing)
    : gear_(std::move(gear)), water_(water), thing_(thing) {
    for (std::size_t b = 0; b < gear_.bands.size(); ++b)
        by_surface_.emplace_back(gear_, water_, b, water_.depth_m());
}

const Yield &Yields::of(const Setting &s) {
    constexpr double apart = 1e6; // settings nearer than a millionth are one
    const std::tuple key(s.band, std::llround(s.range_m * apart), std::llround(s.speed_m_s * apart));
    const auto [at, fresh] = known_.try_emplace(key);
    if (fresh)
        at->second = yield_of(gear_, water_, thing_, s, by_surface_[s.band]);
    return at->second;
}

Advice advise(const Gear &gear, const WaterState &water, const SmallestThing &thing, Purpose purpose,
              double fastest, ReadBy by) {
    Yields yields(gear, water, thing);
    return advise(yields, purpose, fastest, by);
}

Advice advise(Yields &yields, Purpose purpose, double fastest, ReadBy by,
              std::optional<std::size_t> only_band) {
    const auto &gear = yields.gear();
    const auto &water = yields.water();
    Advice best;
    best.purpose = purpose;
    best.read_by = by;
    best.objective = -1;
    const auto yield = [&](const Setting &s) -> const Yield & { return yields.of(s); };
    const auto first_band = only_band.value_or(0), end_band = only_band ? *only_band + 1 : gear.bands.size();
    auto finest = first_band;
    for (auto b = first_band; b < end_band; ++b)
        if (gear.bands[b].frequency_hz > gear.bands[finest].frequency_hz)
            finest = b;
    const auto inspected = [&] {
        Yield found;
        double most = -1;
        for (auto b = first_band; b < end_band; ++b)
            for (const double r : ranges_of(gear))
                for (const double v : {0.6, 0.8, 1.0, 1.2}) {
                    const auto &y = yield({r, b, v});
                    // There must be a strip wide enough to steer the thing into.
                    if (y.farthest_m - y.nearest_m < 3 * steering_m)
                        continue;
                    if (inspect_worth(y) > most) {
                        most = inspect_worth(y);
                        found = y;
                    }
                }
        return std::pair{found, most};
    };
    if (purpose == Purpose::inspect) {
        std::tie(best.yield, best.objective) = inspected();
    } else {
        for (auto b = first_band; b < end_band; ++b) {
            if (purpose == Purpose::finest_always && b != finest)
                continue;
            for (const double r : ranges_of(gear))
                for (const double v : speeds_up_to(fastest)) {
                    const auto &y = yield({r, b, v});
                    if (y.worth(by) > best.objective) {
                        best.objective = y.worth(by);
                        best.yield = y;
                    }
                }
        }
    }
    // Of settings that are as good within three in a hundred the one of the shortest range: it shows more of
    // each thing.
    if (purpose != Purpose::inspect && best.objective > 0) {
        for (const double r : ranges_of(gear)) {
            Yield shorter;
            for (const double v : speeds_up_to(fastest)) {
                const auto &y = yield({r, best.yield.setting.band, v});
                if (y.worth(by) > shorter.worth(by))
                    shorter = y;
            }
            if (shorter.worth(by) >= 0.97 * best.objective) {
                best.yield = shorter;
                best.objective = shorter.worth(by);
                break;
            }
        }
    }
    if (purpose == Purpose::wide_then_fine) {
        best.second = inspected().first;
        best.objective = minutes_for(best.yield, 1e4) + finds_a_hectare * minutes_a_find;
    }
    // Speeds that keep nine tenths of it.
    const auto &s = best.yield.setting;
    best.slowest_m_s = best.fastest_m_s = s.speed_m_s;
    const auto worth = [&](double v) {
        const auto &y = yield({s.range_m, s.band, v});
        return purpose == Purpose::inspect ? inspect_worth(y) : y.worth(by);
    };
    const double least = 0.9 * worth(s.speed_m_s);
    for (double v = s.speed_m_s; v >= 0.3 && worth(v) >= least; v -= 0.1)
        best.slowest_m_s = v;
    for (double v = s.speed_m_s; v <= fastest + 1e-9 && worth(v) >= least; v += 0.1)
        best.fastest_m_s = v;
    for (auto *y : {&best.yield, &best.second})
        y->useful_range_m = useful_range_m(gear, water, y->setting, y->depth_m);
    best.gain = gain_for(gear, water, s, water.depth_m());
    best.contrast = contrast_for(gear);
    return best;
}

RulesOfThumb rules_of_thumb(const Gear &gear, const WaterState &water, Purpose purpose) {
    RulesOfThumb r{};
    r.range_low_m = 3 * water.shallowest_m;
    r.range_high_m = 3 * water.deepest_m;
    r.band = 0;
    for (std::size_t b = 1; b < gear.bands.size(); ++b) {
        const bool wider = gear.bands[b].frequency_hz < gear.bands[r.band].frequency_hz;
        const bool fine = purpose == Purpose::inspect || purpose == Purpose::finest_always;
        if (wider != fine)
            r.band = b;
    }
    r.speed_low_m_s = m_s_from_mph(2);
    r.speed_high_m_s = m_s_from_mph(4);
    r.lane_m = 2 * 3 * water.depth_m() * 0.8;
    return r;
}

double minutes_for(const Yield &y, double area, double turn_s) {
    if (y.lane_m <= 0 || y.setting.speed_m_s <= 0 || y.ground_per_minute_m2 <= 0)
        return 0;
    const double side = std::sqrt(area);
    const int n = lanes_for(y, area);
    return (n * side / y.setting.speed_m_s + (n - 1) * turn_s) / 60;
}

int lanes_for(const Yield &y, double area) {
    return y.lane_m > 0 ? std::max(1, static_cast<int>(std::ceil(std::sqrt(area) / y.lane_m))) : 0;
}

bool bands_clash(double fa, double ba, double fb, double bb) {
    return std::fabs(fa - fb) < (ba + bb) / 2 + 10e3; // and the skirts of the filters
}

Reasons reasons_for(const Advice &a, const Gear &gear, const WaterState &water, const SmallestThing &thing,
                    bool feet) {
    const auto system = feet ? UnitSystem::feet : UnitSystem::metres;
    const auto length = [&](double m, int decimals = 0) {
        return print_length(m, system, feet ? decimals : std::max(1, decimals)).text();
    };
    const auto &y = a.yield;
    const auto &s = y.setting;
    const double c = sound_speed_fresh_m_s(water.temperature_c);
    Reasons r;
    const auto what = thing.kind == SmallestThing::Kind::fish ? "fish" : "thing";
    const double out = std::max(0.1, 0.85 * y.farthest_m);
    const auto there = budget_at(gear, water, thing, s, y.depth_m, out);
    const double longer = std::min(gear.longest_range_m, 1.35 * s.range_m);
    const auto beyond = yield_of(gear, water, thing, {longer, s.band, s.speed_m_s});
    const auto shown =
        a.read_by == ReadBy::eye
            ? told("At {} a {} {} and its shadow span {:.0f} × {:.0f} pixels; a glance tells {} of 100.",
                   length(out), length(thing.length_m, 1), what,
                   (thing.length_m + there.shadow_m) / there.pixel_across_m,
                   std::max(1.0, thing.length_m / (s.speed_m_s * gear.ping_period_s(s.range_m, c))),
                   std::lround(100 * there.eye_sees))
            : told("At {} a {} {} still throws {} of shadow; {} of 100 samples tell it.", length(out),
                   length(thing.length_m, 1), what, length(there.shadow_m, 1),
                   std::lround(100 * there.separation));
    r.range = shown + " " +
              (longer < 1.1 * s.range_m ? told("The unit reaches hardly farther.")
               : beyond.worth(a.read_by) > 1.01 * y.worth(a.read_by)
                   ? told("At {} more ground, but less of use.", length(longer))
                   : told("At {} no more shows: noise.", length(longer)));
    const auto lost = [&](std::size_t b) {
        return 2 * s.range_m * absorption_fresh_db_per_m(gear.bands[b].frequency_hz, water.temperature_c);
    };
    r.band = told("Over {} of way the water takes {} dB at {} kHz", length(2 * s.range_m),
                  std::lround(lost(s.band)), std::lround(gear.bands[s.band].frequency_hz / 1000));
    for (std::size_t b = 0; b < gear.bands.size(); ++b)
        if (b != s.band)
            r.band +=
                told(", {} at {}", std::lround(lost(b)), std::lround(gear.bands[b].frequency_hz / 1000));
    r.band += told("; its beam is {} wide half-way out.",
                   length(budget_at(gear, water, thing, s, y.depth_m, y.edge_m / 2).along_m, 1));
    const double period = gear.ping_period_s(s.range_m, c);
    r.speed = told("{:.0f} pings a second: {:.0f} on a {} {} at the least, three are asked for. Past {} the "
                   "hull's noise "
                   "takes {:.0f} dB.",
                   1 / period, std::floor(y.pings_on_thing), length(thing.length_m, 1), what,
                   print_speed(gear.noise_from_m_s, system).text(), gear.noise_rise_db(s.speed_m_s));
    r.lane =
        told("So that each lane sees into the {} blind strip of its neighbour; {} are left for steering.",
             length(2 * y.blind_m), length(steering_m));
    return r;
}

} // namespace heron
