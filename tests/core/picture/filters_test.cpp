#include "picture/angle_levels.hpp"
#include "picture/display_window.hpp"
#include "picture/row_levels.hpp"

#include "lake.hpp"

#include <cmath>
#include <gtest/gtest.h>

using namespace heron;

namespace {

Scan sounded(const nlohmann::json &scene, std::size_t rows, SoundingSettings s = {}) {
    Scan scan;
    test::sound(scan, scene, rows, s);
    return scan;
}

// Mean level (dB) of starboard samples between two ranges over ground, each row through the filters.
double mean_level(const Scan &scan, const PictureFilters &filters, const AngleLevels &angles, double from,
                  double to, std::size_t first, std::size_t end) {
    double sum = 0;
    int n = 0;
    std::vector<float> levels;
    for (auto row = first; row < end; ++row) {
        const auto &ping = scan.ping(row);
        const auto &bottom = scan.bottom(row);
        row_levels(ping, *ping.beam(Side::starboard), bottom, filters, angles, nullptr, nullptr, 0.3, levels);
        const auto k1 = static_cast<std::size_t>(ping.sample_at(std::hypot(to, bottom.altitude_m)));
        for (auto k = static_cast<std::size_t>(ping.sample_at(std::hypot(from, bottom.altitude_m))); k < k1;
             ++k)
            sum += static_cast<double>(levels[k]), ++n;
    }
    return sum / n;
}

} // namespace

// The basin's reflectivity is known: sand everywhere, so after flattening every distance must be as bright as
// every other.
TEST(Flattening, OneGroundIsEvenFromNearToFar) {
    const auto scan = sounded(test::basin(), 300);
    const auto angles = test::angle_levels_of(scan);
    ASSERT_TRUE(angles.ready());
    PictureFilters off, on;
    off.flatten = false;
    double low = 1e9, high = -1e9, low_off = 1e9, high_off = -1e9;
    for (double g = 4; g < 20; g += 2) {
        const double flat = mean_level(scan, on, angles, g, g + 2, 100, 300),
                     raw = mean_level(scan, off, angles, g, g + 2, 100, 300);
        low = std::min(low, flat), high = std::max(high, flat);
        low_off = std::min(low_off, raw), high_off = std::max(high_off, raw);
    }
    EXPECT_LT(high - low, 1.0) << "dB from near to far";
    EXPECT_GT(high_off - low_off, 4.0) << "without it the picture falls with angle";
}

// Half of the basin's starboard side is gravel, eight decibels over sand (−20 and −28): the difference stays
// at each distance.
TEST(Flattening, GroundsKeepTheirDifference) {
    auto scene = test::basin();
    scene["terrain"]["features"] = {
        {{"type", "ground"}, {"ground", "gravel"}, {"outline", {{0, 60}, {120, 60}, {120, 120}, {0, 120}}}}};
    scene["boat"]["route"] = {{60, 35}, {60, 85}};
    const auto scan = sounded(scene, 700); // passes the border at about the middle
    const auto angles = test::angle_levels_of(scan);
    // Rows over sand and over gravel by their place.
    std::size_t border = 0;
    for (std::size_t n = 0; n < scan.end(); ++n)
        if (const auto p = scan.nav.position_at(scan.facts(n).time);
            p && LocalPlane({46.5, -21.25}).to_plane(p->place).north_m < 57)
            border = n;
    ASSERT_GT(border, 150u);
    ASSERT_LT(border, 500u);
    const PictureFilters on;
    PictureFilters off;
    off.flatten = false;
    for (double g = 5; g < 19; g += 3) {
        const double sand = mean_level(scan, on, angles, g, g + 3, border - 120, border - 20),
                     gravel = mean_level(scan, on, angles, g, g + 3, border + 120, border + 200);
        EXPECT_NEAR(gravel - sand, 8, 2.5) << g << " m";
        const double raw = mean_level(scan, off, angles, g, g + 3, border + 120, border + 200) -
                           mean_level(scan, off, angles, g, g + 3, border - 120, border - 20);
        EXPECT_NEAR(gravel - sand, raw, 0.5) << "flattening takes nothing of it away";
    }
}

// A change of band changes all levels at once; the flattening is learned anew and the window set anew.
TEST(Flattening, IsLearnedAnewAfterAChangeOfBand) {
    auto scan = sounded(test::basin(), 120);
    auto angles = test::angle_levels_of(scan);
    angles.clear();
    EXPECT_FALSE(angles.ready());
    EXPECT_EQ(angles.excess_db(Side::port, 10, 4.7), 0);
}

TEST(RowLevels, AStepOfGainIsNoStepInThePicture) {
    SoundingSettings low, high;
    low.gain = 45;
    high.gain = 55;
    PictureFilters plain;
    plain.flatten = false;
    const auto a = sounded(test::basin(), 60, low), b = sounded(test::basin(), 60, high);
    const double la = mean_level(a, plain, AngleLevels(), 6, 12, 20, 60),
                 lb = mean_level(b, plain, AngleLevels(), 6, 12, 20, 60);
    EXPECT_NEAR(la, lb, 0.3);
}

TEST(RowLevels, StreaksGoAndWhatSeveralPingsHeardStays) {
    auto scene = test::basin();
    scene["sounder"] = {{"streak_every", 6}};
    scene["water"]["wind_m_s"] = 0; // bubbles under a rough surface are bright too
    scene["things"] = {{{"kind", "boulder"}, {"at", {70, 20}}, {"length_m", 1.5}, {"height_m", 1.2}}};
    const auto scan = sounded(scene, 250);
    PictureFilters off, on;
    off.flatten = on.flatten = false;
    on.reject_streaks = true;
    std::size_t lit_off = 0, lit_on = 0, streaked = 0;
    float brightest_off = -1e9F, brightest_on = -1e9F;
    HiddenByFilters hidden;
    std::vector<float> a, b;
    for (std::size_t n = 1; n + 1 < scan.end(); ++n) {
        const auto &ping = scan.ping(n);
        const auto *beam = ping.beam(Side::starboard);
        const auto *before = scan.ping(n - 1).beam(Side::starboard),
                   *after = scan.ping(n + 1).beam(Side::starboard);
        row_levels(ping, *beam, scan.bottom(n), off, AngleLevels(), before, after, 0.3, a);
        row_levels(ping, *beam, scan.bottom(n), on, AngleLevels(), before, after, 0.3, b, &hidden);
        // In the water column only a streak is bright.
        const auto k0 = static_cast<std::size_t>(ping.sample_at(1.5)),
                   k1 = static_cast<std::size_t>(ping.sample_at(4));
        std::size_t row_off = 0;
        for (auto k = k0; k < k1; ++k) {
            row_off += a[k] > 46;
            lit_on += b[k] > 46;
        }
        lit_off += row_off;
        streaked += row_off > 40;
        brightest_off = std::max(brightest_off, *std::max_element(a.begin() + 450, a.end() - 200));
        if (n > 100)
            brightest_on = std::max(brightest_on, *std::max_element(b.begin() + 450, b.end() - 200));
    }
    ASSERT_GT(streaked, 5u);
    EXPECT_LT(lit_on * 5, lit_off);
    EXPECT_GT(hidden.streaks, lit_off / 3);
    EXPECT_GT(brightest_on, brightest_off - 22) << "the boulder is still there";
}

TEST(RowLevels, NearSurfaceHidesAndCountsWhatItHides) {
    auto scene = test::basin(6);
    for (int i = 0; i < 12; ++i)
        scene["things"].push_back(
            {{"kind", "fish"}, {"at", {60.9, 12.0 + i}}, {"above_bottom_m", 5.0}, {"length_m", 0.4}});
    const auto scan = sounded(scene, 200);
    PictureFilters on;
    on.flatten = false;
    on.near_surface_m = 2;
    HiddenByFilters hidden;
    std::vector<float> out;
    for (std::size_t n = 0; n < scan.end(); ++n) {
        const auto &ping = scan.ping(n);
        row_levels(ping, *ping.beam(Side::starboard), scan.bottom(n), on, AngleLevels(), nullptr, nullptr,
                   0.3, out, &hidden);
        EXPECT_TRUE(std::isnan(out[static_cast<std::size_t>(ping.sample_at(1.0))]));
        EXPECT_FALSE(std::isnan(out[static_cast<std::size_t>(ping.sample_at(2.0))]));
    }
    EXPECT_GT(hidden.near_surface, 10u) << "the fish that hung there are told of";
}

TEST(RowLevels, LocalContrastLiftsGrainsAndCostsTexture) {
    auto scene = test::basin(5, "silt");
    scene["things"] = {{{"kind", "fish"}, {"at", {69, 30}}, {"above_bottom_m", 1.0}, {"length_m", 0.4}}};
    scene["terrain"]["features"] = {
        {{"type", "ground"}, {"ground", "gravel"}, {"outline", {{74, 0}, {120, 0}, {120, 120}, {74, 120}}}}};
    const auto scan = sounded(scene, 330);
    PictureFilters off, on;
    off.flatten = on.flatten = false;
    on.local_contrast = true;
    // Soft against hard ground: the difference shrinks.
    EXPECT_LT(mean_level(scan, on, AngleLevels(), 15, 19, 100, 200) -
                  mean_level(scan, on, AngleLevels(), 8, 12, 100, 200),
              0.6 * (mean_level(scan, off, AngleLevels(), 15, 19, 100, 200) -
                     mean_level(scan, off, AngleLevels(), 8, 12, 100, 200)));
}

// Ground-corrected, a thing stands at its distance over ground: √(r² − A²) over a flat bottom.
TEST(PaintLevels, GroundRangeIsPythagoras) {
    Ping p;
    p.sound_speed_m_s = 1480;
    p.sample_interval_s = 2 * 0.02 / 1480;
    std::vector<float> levels(1500, 10.0F);
    levels[static_cast<std::size_t>(p.sample_at(13))] = 60; // 12 m aside over 5 m of water
    std::vector<std::uint8_t> out(2000);
    paint_levels(p, levels, 5, Across::ground, 20, {0, 60}, out);
    const auto bright = std::max_element(out.begin(), out.end()) - out.begin();
    EXPECT_NEAR(static_cast<double>(bright) * 20 / 2000, 12.0, 0.03);
    paint_levels(p, levels, 5, Across::slant, 20, {0, 60}, out);
    EXPECT_NEAR(static_cast<double>(std::max_element(out.begin(), out.end()) - out.begin()) * 20 / 2000, 13.0,
                0.03);
}

// Round things are round only where both axes are metres over ground.
TEST(PaintLevels, ARoundPatchIsRoundOnTheGroundAndNotAlongTheSound) {
    auto scene = test::basin(6, "silt");
    nlohmann::json outline = nlohmann::json::array();
    for (int i = 0; i < 24; ++i)
        outline.push_back({68 + 3 * std::sin(i * 0.2618), 35 + 3 * std::cos(i * 0.2618)});
    scene["terrain"]["features"] = {{{"type", "ground"}, {"ground", "rock"}, {"outline", outline}}};
    const auto scan = sounded(scene, 450);
    const auto angles = test::angle_levels_of(scan);
    PictureFilters plain;
    const double usual = mean_level(scan, plain, angles, 6, 18, 0, 60); // of the silt
    // Width across in each axis, and length along the track, of what is bright.
    double across[2] = {0, 0}, first_along = 1e9, last_along = -1e9;
    std::vector<float> levels;
    std::vector<std::uint8_t> pixels(400); // 20 m
    for (const auto axis : {Across::ground, Across::slant}) {
        std::vector<int> lit(400, 0);
        for (std::size_t n = 0; n < scan.end(); ++n) {
            const auto &ping = scan.ping(n);
            row_levels(ping, *ping.beam(Side::starboard), scan.bottom(n), {}, angles, nullptr, nullptr, 0.3,
                       levels);
            paint_levels(ping, levels, scan.bottom(n).altitude_m, axis, 20, {usual, 20}, pixels);
            int row = 0;
            for (std::size_t x = 90; x < 400; ++x) {
                const bool bright = pixels[x] > 128;
                lit[x] += bright;
                row += bright;
            }
            if (axis == Across::ground && row > 12) {
                first_along = std::min(first_along, scan.facts(n).along_m);
                last_along = std::max(last_along, scan.facts(n).along_m);
            }
        }
        const int most = *std::max_element(lit.begin(), lit.end());
        std::size_t left = 0, right = 0;
        for (std::size_t x = 0; x < lit.size(); ++x)
            if (lit[x] > most / 4) {
                if (left == 0)
                    left = x;
                right = x;
            }
        across[axis == Across::ground ? 0 : 1] = static_cast<double>(right - left) * 0.05;
    }
    const double along = last_along - first_along;
    EXPECT_NEAR(along, 6, 1.0);
    EXPECT_NEAR(across[0] / along, 1, 0.2);
    EXPECT_LT(across[1], 0.92 * across[0]);
}
