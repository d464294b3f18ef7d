// A boat that runs a straight lane over ground worked from Lambert's law: what each place adds to it in
// decibels is the test's own.
#pragma once

#include "bottom/ground_map.hpp"
#include "picture/scan.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <random>
#include <unordered_map>

namespace heron::test {

/// Uneven over half metres, the same each time the place is met.
inline double uneven_db(double east, double north, double sd) {
    static std::unordered_map<unsigned, double> met; // a generator for each place is slow to make
    const auto place = static_cast<unsigned>(std::lround(std::floor(east * 2)) * 7919 +
                                             std::lround(std::floor(north * 2)) * 104729);
    const auto [at, fresh] = met.try_emplace(place);
    if (fresh) {
        std::mt19937 own(place);
        at->second = std::normal_distribution<double>(0, 1)(own);
    }
    return at->second * sd;
}

struct LambertLane {
    std::function<double(double east, double north)> adds_db; ///< metres from the origin
    GeoPoint origin{46.5, -21.25};
    EastNorth from; ///< where the boat is at the start
    double heading_deg = 0, speed_m_s = 1, run_m = 60;
    double positions_late_s = 0; ///< told so much later than they were so
    double altitude_m = 4, range_m = 20, frequency_hz = 770e3;
    double speckle_db = 1; ///< 0: none; else exponential
    UnixNs start = 1'800'000'000LL * ns_per_s;
    unsigned seed = 5;

    /// Adds its rows and track to a scan.
    void sail(Scan &scan) const {
        const LocalPlane plane(origin);
        std::mt19937 random(seed);
        std::exponential_distribution<double> speckle(1);
        const double turn = heading_deg / degrees_per_radian, s = std::sin(turn), c = std::cos(turn),
                     lasts = run_m / speed_m_s;
        const auto at = [&](double t) { return start + static_cast<UnixNs>(t * 1e9); };
        for (double t = -2; t < lasts + 2; t += 0.2) {
            const double run = (t - positions_late_s) * speed_m_s;
            scan.nav.add(PositionSample{at(t),
                                        plane.to_globe({from.east_m + run * s, from.north_m + run * c}), 0.3,
                                        speed_m_s, false});
            scan.nav.add(AttitudeSample{at(t), heading_deg, 0, 0, false});
            scan.nav.add(DepthSample{at(t), altitude_m, std::nullopt});
        }
        constexpr std::size_t samples = 400;
        for (double t = 0; t < lasts; t += 0.1) {
            Ping p;
            p.time = at(t);
            p.sound_speed_m_s = 1450;
            p.sample_interval_s = range_m / samples * 2 / 1450;
            p.first_sample_s = p.sample_interval_s / 2;
            p.frequency_hz = frequency_hz;
            for (const auto side : {Side::port, Side::starboard}) {
                Beam b;
                b.side = side;
                b.azimuth_deg = nominal_azimuth_deg(side);
                b.scale = {-60, 0.25, 0, 60000};
                for (std::size_t k = 0; k < samples; ++k) {
                    const double r = p.slant_m(static_cast<double>(k));
                    double db = -40;
                    if (r > altitude_m) {
                        const double sine = altitude_m / r,
                                     g = std::sqrt(r * r - altitude_m * altitude_m) *
                                         (side == Side::port ? -1 : 1),
                                     run = t * speed_m_s;
                        db = 20 * std::log10(sine) - 10 * std::log10(r) + 0.2 * r +
                             adds_db(from.east_m + run * s + g * c, from.north_m + run * c - g * s);
                        if (speckle_db > 0)
                            db += 10 * std::log10(speckle(random));
                    }
                    b.code.push_back(
                        static_cast<std::uint16_t>(std::clamp(std::lround((db + 60) / 0.25), 1L, 59999L)));
                }
                p.beams.push_back(std::move(b));
            }
            scan.push({std::move(p), std::nullopt, {}});
        }
    }
};

/// Over uneven ground to the north and, six metres aside and later, back; positions told so much late.
inline void sail_there_and_back(Scan &scan, double positions_late_s) {
    LambertLane lane;
    lane.adds_db = [](double e, double n) { return uneven_db(e, n, 4); };
    lane.speed_m_s = 1.4;
    lane.positions_late_s = positions_late_s;
    lane.sail(scan);
    lane.from = {6, 60};
    lane.heading_deg = 180;
    lane.start += 200 * ns_per_s;
    lane.seed = 6;
    lane.sail(scan);
}

inline GroundCurve curve_of(const Scan &scan) {
    GroundCurve curve;
    for (auto row = scan.first(); row < scan.end(); ++row)
        curve.add(scan, row);
    curve.settle();
    return curve;
}

inline GroundMap map_of(const Scan &scan, const RowChoice &choice = {}, double cell_m = 0.25) {
    const auto curve = curve_of(scan);
    GroundMap map(*utm_zone_of(scan.nav.positions().front().place), cell_m);
    for (auto row = scan.first(); row < scan.end(); ++row) {
        map.note(scan, row);
        if (choice.takes(scan, row))
            map.add(scan, row, curve);
    }
    return map;
}

} // namespace heron::test
