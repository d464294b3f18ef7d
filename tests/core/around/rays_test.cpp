// Rays of a turning head: each from its own place and heading, counted into turns, laid on the ground.
#include "around/circle_raster.hpp"
#include "around/rays.hpp"
#include "programs.hpp"

#include <cmath>
#include <fmt/format.h>
#include <fstream>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <numbers>
#include <sstream>

using namespace heron;

namespace {

constexpr UnixNs rays_start = 1'800'000'000LL * ns_per_s;

Ping ray_at(double seconds, double azimuth, std::size_t samples = 200, double range_m = 20) {
    Ping p;
    p.time = rays_start + static_cast<UnixNs>(seconds * 1e9);
    p.sound_speed_m_s = 1450;
    p.sample_interval_s = range_m / static_cast<double>(samples) * 2 / 1450;
    p.first_sample_s = p.sample_interval_s / 2;
    p.frequency_hz = 800e3;
    Beam b;
    b.side = Side::around;
    b.azimuth_deg = wrap_180(azimuth);
    b.width_along_deg = 1.3;
    b.scale = {0, 0.25, 0, 255};
    b.code.assign(samples, 40);
    p.beams.push_back(std::move(b));
    return p;
}

// A boat that runs north-east at 1.5 m/s and swings by six degrees, its antenna over its head.
struct Running {
    LocalPlane plane{{46.5, -21.25}};
    Scan scan;
    double swing_deg = 6, speed = 1.5;
    double heading(double t) const { return 45 + swing_deg * std::sin(t); }
    EastNorth place(double t) const { return {speed * t * std::sqrt(0.5), speed * t * std::sqrt(0.5)}; }
    void tell(double from, double to) {
        for (double t = from; t <= to; t += 0.2) {
            const UnixNs time = rays_start + static_cast<UnixNs>(t * 1e9);
            scan.nav.add(PositionSample{time, plane.to_globe(place(t)), 0.4, speed, false});
            scan.nav.add(AttitudeSample{time, heading(t), 0, 0, false});
        }
    }
    void sound(double t, double azimuth) { scan.push({ray_at(t, azimuth), std::nullopt, {}}); }
};

} // namespace

TEST(Rays, EachLiesFromItsOwnPlaceAndHeading) {
    Running r;
    r.tell(0, 20);
    for (int i = 0; i < 200; ++i)
        r.sound(0.5 + 0.06 * i, 1.8 * i);
    Rays rays;
    EXPECT_EQ(rays.follow(r.scan, r.scan.end()), 0u);
    ASSERT_EQ(rays.rays().size(), 200u);
    const auto first = r.place(0.5);
    for (std::size_t i = 0; i < 200; i += 7) {
        const auto &ray = rays.rays()[i];
        const double t = 0.5 + 0.06 * static_cast<double>(i);
        EXPECT_TRUE(ray.on_ground);
        EXPECT_EQ(ray.settled, i + BottomTracker::lag < 200u) << "but where the bottom is not";
        EXPECT_NEAR(wrap_180(ray.bearing_deg - r.heading(t) - 1.8 * static_cast<double>(i)), 0, 0.1);
        EXPECT_NEAR(ray.at.east_m, r.place(t).east_m - first.east_m, 0.02);
        EXPECT_NEAR(ray.at.north_m, r.place(t).north_m - first.north_m, 0.02);
        EXPECT_GE(ray.half_deg, 0.9 - 1e-9);
        EXPECT_LT(ray.half_deg, 1.5) << "what the swing opens is closed";
    }
}

TEST(Rays, CountTurnsAndWaysToAndFro) {
    Running r;
    r.tell(0, 100);
    for (int i = 0; i < 500; ++i)
        r.sound(0.06 * i, 1.8 * i);
    Rays rays;
    rays.follow(r.scan, r.scan.end());
    EXPECT_EQ(rays.sweep(), 2u) << "two and a half turns";
    ASSERT_TRUE(rays.turn_s());
    EXPECT_NEAR(*rays.turn_s(), 12, 0.1);
    EXPECT_NEAR(rays.step_deg(), 1.8, 1e-6);

    Running s;
    s.tell(0, 100);
    double at = -30, way = 2;
    for (int i = 0; i < 100; ++i) { // sixty degrees to and fro, thirty steps each way
        s.sound(0.05 * i, at);
        if (std::fabs(at + way) > 30)
            way = -way;
        at += way;
    }
    Rays sector;
    sector.follow(s.scan, s.scan.end());
    EXPECT_EQ(sector.sweep(), 3u);
    EXPECT_NEAR(*sector.turn_s(), 1.5, 0.1);
}

TEST(Rays, AHeadThatSoundsButDoesNotTurnIsSeen) {
    Running r;
    r.tell(0, 40);
    Rays rays;
    for (int i = 0; i < 100; ++i)
        r.sound(0.06 * i, 1.8 * std::min(i, 30));
    rays.follow(r.scan, 60);
    EXPECT_FALSE(rays.stands());
    rays.follow(r.scan, 100);
    EXPECT_TRUE(rays.stands());
    r.sound(7, 90);
    rays.follow(r.scan, r.scan.end());
    EXPECT_FALSE(rays.stands()) << "it turns again";
}

TEST(Rays, WithoutHeadingOrPositionTheyFallBackToTheBoat) {
    Scan scan;
    for (int i = 0; i < 50; ++i)
        scan.push({ray_at(0.06 * i, 3.0 * i), std::nullopt, {}});
    Rays rays;
    rays.follow(scan, scan.end());
    ASSERT_EQ(rays.rays().size(), 50u);
    EXPECT_FALSE(rays.rays()[20].on_ground);
    EXPECT_NEAR(rays.rays()[20].bearing_deg, 60, 1e-6) << "off the bow";
    EXPECT_FALSE(rays.plane());
}

// Live, a ray comes before the position after it: it is laid where the boat was last and moves when more is
// known.
TEST(Rays, AreLaidAnewWhenMoreIsKnown) {
    Running r;
    r.tell(0, 1.0);
    r.sound(1.15, 10);
    Rays rays;
    rays.follow(r.scan, r.scan.end());
    EXPECT_FALSE(rays.rays()[0].settled);
    EXPECT_NEAR(wrap_180(rays.rays()[0].bearing_deg - 10 - r.heading(1.0)), 0, 0.05) << "held";
    r.tell(1.2, 1.6);
    EXPECT_EQ(rays.follow(r.scan, r.scan.end()), 0u) << "the first lies elsewhere now";
    EXPECT_NEAR(wrap_180(rays.rays()[0].bearing_deg - 10 - r.heading(1.15)), 0, 0.05);
    EXPECT_EQ(rays.follow(r.scan, r.scan.end()), 1u) << "nothing more";
}

// What is laid along the sound, all about a boat that stands, against OpenCV's way back from polar to
// Cartesian as Python has it would be the same loop; so against the definition: at distance g and bearing b
// there is the level of sample g of the ray at b.
TEST(CircleRaster, HoldsEachSampleWhereItLies) {
    CircleRaster raster(1024, 0.05);
    for (int i = 0; i < 360; ++i) {
        auto ping = ray_at(0.05 * i, i, 400, 20);
        std::vector<float> levels(400);
        for (std::size_t k = 0; k < levels.size(); ++k)
            levels[k] = static_cast<float>(i) / 10 + static_cast<float>(k) / 100;
        PlacedRay ray;
        ray.bearing_deg = i;
        ray.half_deg = 0.5;
        ray.range_m = 20;
        EXPECT_EQ(raster.lay(ray, ping, levels, Across::slant), static_cast<std::uint32_t>(i + 1));
    }
    for (double bearing = 0; bearing < 360; bearing += 17)
        for (double g = 1; g < 19.5; g += 1.3) {
            const double a = bearing / degrees_per_radian;
            const auto &cell = raster.at({g * std::sin(a), g * std::cos(a)});
            ASSERT_NE(cell.ray, 0u) << bearing << ' ' << g;
            EXPECT_NEAR(cell.level / 100.0, bearing / 10 + g / 0.05 / 100, 0.12 + 0.1 * 0.05 / g * 60)
                << bearing << ' ' << g;
        }
    EXPECT_EQ(raster.at({25.0, 0}).ray, 0u) << "beyond what was sounded";
}

// Over ground the strip of water goes: what lies at √(g² + A²) along the sound lies at g.
TEST(CircleRaster, OverGroundTheWaterGoes) {
    CircleRaster raster(1024, 0.05);
    auto ping = ray_at(0, 0, 400, 20);
    std::vector<float> levels(400, -50);
    const double altitude = 6, g = 8, r = std::hypot(g, altitude);
    for (std::size_t k = 0; k < levels.size(); ++k)
        if (std::fabs(ping.slant_m(static_cast<double>(k)) - r) < 0.1)
            levels[k] = -10;
    PlacedRay ray;
    ray.bearing_deg = 90;
    ray.half_deg = 2;
    ray.range_m = 20;
    ray.altitude_m = altitude;
    raster.lay(ray, ping, levels, Across::ground);
    EXPECT_GT(raster.at({g, 0}).level, -3000);
    EXPECT_LT(raster.at({g + 0.4, 0}).level, -4000);
    EXPECT_LT(raster.at({r, 0}).level, -4000);
    EXPECT_NE(raster.at({0.3, 0}).ray, 0u) << "the bottom right under it";
}

// A wall that stands still while the boat runs and swings: laid from each ray's own place it stays within a
// hand; laid as if the boat stood it wanders by metres.
TEST(CircleRaster, WhatStandsStillStaysWhileTheBoatMoves) {
    Running r;
    r.tell(0, 40);
    const EastNorth post{12, 22};
    double worst = 0, naive = 0;
    Rays rays;
    std::vector<Ping> pings;
    for (int i = 0; i < 400; ++i) {
        const double t = 1 + 0.06 * i, azimuth = 1.8 * i;
        const auto at = r.place(t);
        auto ping = ray_at(t, azimuth, 800, 30);
        const double bearing =
                         std::atan2(post.east_m - at.east_m, post.north_m - at.north_m) * degrees_per_radian,
                     off = wrap_180(bearing - r.heading(t) - azimuth);
        if (std::fabs(off) < 0.9) {
            const auto k = static_cast<std::size_t>(
                ping.sample_at(std::hypot(post.east_m - at.east_m, post.north_m - at.north_m)));
            ping.beams[0].code[k] = 250;
        }
        pings.push_back(ping);
        r.scan.push({ping, std::nullopt, {}});
    }
    rays.follow(r.scan, r.scan.end());
    const auto origin = r.place(1);
    int seen = 0;
    for (std::size_t i = 0; i < pings.size(); ++i) {
        const auto &code = pings[i].beams[0].code;
        const auto peak = std::max_element(code.begin(), code.end());
        if (*peak < 250)
            continue;
        ++seen;
        const auto &ray = rays.rays()[i];
        const double g = pings[i].slant_m(static_cast<double>(peak - code.begin()));
        const auto lies = [&](const EastNorth &from, double bearing) {
            const double a = bearing / degrees_per_radian;
            return std::hypot(from.east_m + origin.east_m + g * std::sin(a) - post.east_m,
                              from.north_m + origin.north_m + g * std::cos(a) - post.north_m);
        };
        worst = std::max(worst, lies(ray.at, ray.bearing_deg));
        naive = std::max(naive, lies(rays.rays().front().at, r.heading(1) + ray.off_bow_deg));
    }
    EXPECT_GE(seen, 2) << "once a turn";
    EXPECT_LT(worst, 0.45) << "half a ray at that distance";
    EXPECT_GT(naive, 5) << "metres off as if it stood";
}

TEST(PaintCircle, WhatIsOlderIsPaler) {
    CircleRaster raster(256, 0.1);
    const auto ping = ray_at(0, 0, 100, 10);
    const std::vector<float> levels(100, -20);
    PlacedRay ray;
    ray.half_deg = 45;
    ray.range_m = 10;
    for (const double bearing : {0.0, 90.0, 180.0}) {
        ray.bearing_deg = bearing;
        raster.lay(ray, ping, levels, Across::slant);
    }
    std::array<std::uint32_t, 256> colours;
    colours.fill(0xFF000000U);
    CircleLook look;
    look.metres_a_pixel = 0.1;
    look.radius_m = 9;
    look.newest = raster.newest();
    look.turn = 4;
    std::vector<std::uint32_t> pixels(200 * 200);
    const auto grey = [&](int x, int y) { return pixels[static_cast<std::size_t>(y * 200 + x)] & 0xFFU; };
    paint_circle(raster, look, {-60, 50}, colours, 0xFFFFFFFFU, pixels.data(), 200, 200);
    EXPECT_EQ(grey(100, 150), 0u) << "the newest, to the south, is as it is";
    EXPECT_GT(grey(150, 100), 20u) << "one before it";
    EXPECT_GT(grey(100, 50), grey(150, 100) + 20) << "the oldest";
    EXPECT_EQ(grey(50, 100), 255u) << "nothing was sounded there";
    EXPECT_EQ(grey(2, 2), 255u) << "beyond the circle";
    // East up turns all of it.
    look.up_deg = 90;
    paint_circle(raster, look, {-60, 50}, colours, 0xFFFFFFFFU, pixels.data(), 200, 200);
    EXPECT_EQ(grey(150, 100), 0u) << "south is right of east";
    // Much later it is gone.
    look.newest += 9;
    paint_circle(raster, look, {-60, 50}, colours, 0xFFFFFFFFU, pixels.data(), 200, 200);
    EXPECT_EQ(grey(150, 100), 255u);
}
