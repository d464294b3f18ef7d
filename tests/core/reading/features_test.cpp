// What is measured of a found thing, on grids whose every cell is known.
#include "reading/features.hpp"

#include <cmath>
#include <gtest/gtest.h>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

constexpr double fine_cell = 0.05, line_spacing = 0.1, far_edge = 6, flat_altitude = 6;
constexpr std::size_t line_count = 120, column_count = 320;

Swath ground(double grain_db = 0, std::uint32_t seed = 1) {
    Swath s;
    std::mt19937 random(seed);
    std::normal_distribution<float> noise(0, static_cast<float>(std::max(grain_db, 1e-6)));
    s.cell_m = fine_cell;
    s.spacing_m = line_spacing;
    s.beam_rad = 0;
    s.ground.lines = line_count;
    s.ground.columns = column_count;
    for (std::size_t l = 0; l < line_count; ++l) {
        s.rows.push_back(l);
        s.along_m.push_back(line_spacing * static_cast<double>(l));
        s.edge_m.push_back(far_edge);
        s.altitude_m.push_back(flat_altitude);
        s.end_m.push_back(far_edge + static_cast<double>(column_count) * fine_cell);
    }
    s.ground.off.resize(line_count * column_count);
    for (auto &v : s.ground.off)
        v = grain_db > 0 ? noise(random) : 0;
    return s;
}

// A full rectangle of cells.
Echo box(std::size_t l0, std::size_t l1, std::size_t c0, std::size_t c1, double z = 8) {
    Echo e;
    e.first_line = l0;
    e.last_line = l1;
    e.first_column = c0;
    e.last_column = c1;
    e.strongest_line = (l0 + l1) / 2;
    e.strongest_column = (c0 + c1) / 2;
    e.cells = (l1 - l0 + 1) * (c1 - c0 + 1);
    e.near_edge.assign(l1 - l0 + 1, static_cast<int>(c0));
    e.far_edge.assign(l1 - l0 + 1, static_cast<int>(c1));
    e.along_m = static_cast<double>(l1 - l0 + 1) * line_spacing;
    e.length_m = e.along_m;
    e.width_m = 0.5;
    e.z = e.z_small = z;
    e.peak_db = 12;
    e.mean_db = 8;
    return e;
}

double of(const Features &f, std::string_view name) {
    const auto i = feature_named(name);
    EXPECT_LT(i, feature_count) << name;
    return f[i];
}

} // namespace

TEST(FeatureNames, AreAllDifferentAndFound) {
    for (std::size_t i = 0; i < feature_count; ++i)
        EXPECT_EQ(feature_named(feature_names[i]), i) << feature_names[i];
    EXPECT_EQ(feature_named("tail"), feature_count);
}

// By hand: 20 lines of 0.1 m are 2 m, log₂ 1; 10 cells of 0.05 m at 45° grazing (slant range 6·√2) are
// 0.5 m along the sound and 0.5 ÷ cos 45° over ground.
TEST(Features, SizesAreThoseOverGround) {
    const auto s = ground();
    const auto column = static_cast<std::size_t>((6 * std::sqrt(2.0) - far_edge) / fine_cell) - 5;
    const auto e = box(40, 59, column, column + 9);
    const auto f = features_of(s, e, {}, {}, 0);
    EXPECT_NEAR(of(f, "length"), 1, 1e-9);
    EXPECT_NEAR(of(f, "width"), -1, 1e-9);
    EXPECT_NEAR(of(f, "slender"), 2, 1e-9);
    EXPECT_NEAR(of(f, "area"), std::log2(2 * 0.5 * std::sqrt(2.0)) / 2, 0.02);
    EXPECT_NEAR(of(f, "filled"), 1, 1e-9);
    EXPECT_NEAR(of(f, "grazing"), std::sqrt(0.5), 0.01);
    EXPECT_NEAR(of(f, "stands out"), 3, 1e-9);
    EXPECT_NEAR(of(f, "peak"), 1.2, 1e-9);
    EXPECT_NEAR(of(f, "bend"), 0, 1e-9);
    EXPECT_EQ(of(f, "cut"), 0);
    EXPECT_EQ(of(f, "stature"), -2) << "no shadow, no height";
}

// What the beam adds to a thing's length is taken off: of 2 m seen with a beam 1.5 m wide √(4 − 1.125) stay.
TEST(Features, TheBeamsWidthIsTakenOffTheLength) {
    auto s = ground();
    const auto e = box(40, 59, 40, 49);
    const double slant = far_edge + 45 * fine_cell;
    s.beam_rad = 1.5 / slant;
    EXPECT_NEAR(of(features_of(s, e, {}, {}, 0), "length"), std::log2(std::sqrt(4 - 1.125)), 0.02);
}

TEST(Features, TheShadowsFiguresFollowFromItsRanges) {
    const auto s = ground();
    const auto e = box(40, 49, 60, 69);
    ShadowBehind b;
    b.found = true;
    b.score = 7;
    b.depth_db = 9;
    b.start_m = 10.2;
    b.gap_m = 0.7;
    b.end_m = 12;
    b.width_m = 1.4;
    const auto f = features_of(s, e, b, {}, 3);
    EXPECT_NEAR(of(f, "shadow"), 3, 1e-9);
    EXPECT_NEAR(of(f, "shadow depth"), 0.9, 1e-9);
    // Beyond the pulse and 8 cm, which are no gap.
    const double gap = 0.7 - s.pulse_m - 0.08;
    EXPECT_NEAR(of(f, "gap"), gap, 1e-9);
    EXPECT_NEAR(of(f, "gap height"), flat_altitude * gap / 10.2, 1e-9);
    EXPECT_NEAR(of(f, "height"), std::log2(1 + flat_altitude * (12 - 9.5) / 12), 1e-9);
    EXPECT_NEAR(of(f, "shadow odds"), 1, 1e-9) << "(1 + 7) ÷ (1 + 3)";
    EXPECT_NEAR(of(f, "shadow width"), std::log2(1.5 / 1.1), 1e-9);
    EXPECT_EQ(of(f, "cut"), 0);
    b.cut = true;
    EXPECT_EQ(of(features_of(s, e, b, {}, 3), "cut"), 1);
}

TEST(Features, ABentEdgeIsToldFromAStraightOneThatLies) {
    const auto s = ground();
    auto straight = box(40, 59, 40, 49), bent = straight;
    for (std::size_t i = 0; i < 20; ++i) {
        straight.near_edge[i] = 40 + static_cast<int>(i); // it lies across the track, yet straight
        bent.near_edge[i] = 40 + static_cast<int>((i < 10 ? i : 19 - i) * 2);
    }
    EXPECT_NEAR(of(features_of(s, straight, {}, {}, 0), "bend"), 0, 1e-6);
    EXPECT_GT(of(features_of(s, bent, {}, {}, 0), "bend"), 0.15);
}

RC_GTEST_PROP(Features, AreFiniteAndBoundedWhateverWasFound, ()) {
    std::mt19937 random(*rc::gen::arbitrary<std::uint32_t>());
    std::uniform_real_distribution<double> share(0, 1);
    const auto s = ground();
    const auto l0 = random() % 100, c0 = random() % 280;
    auto e = box(l0, l0 + random() % 19, c0, c0 + random() % 39, 50 * share(random));
    e.zone = static_cast<Zone>(random() % 3);
    // A region may hold nothing on some lines, and figures of a region of one cell may be nought.
    for (std::size_t i = 0; i < e.far_edge.size(); ++i)
        if (random() % 4 == 0)
            e.far_edge[i] = -1;
    e.length_m *= share(random);
    e.width_m = share(random) < 0.2 ? 0 : 3 * share(random);
    e.grains = static_cast<int>(random() % 40);
    ShadowBehind b;
    b.found = random() % 2 == 0;
    b.start_m = 20 * share(random);
    b.end_m = b.start_m + 5 * share(random);
    b.gap_m = 3 * share(random) - 1;
    b.score = 60 * share(random);
    Crowd crowd;
    crowd.standing = static_cast<int>(random() % 50);
    crowd.best_other = 30 * share(random) + 0.01;
    crowd.as_bright = 40 * share(random);
    for (const double v : features_of(s, e, b, crowd, 5 * share(random))) {
        RC_ASSERT(std::isfinite(v));
        RC_ASSERT(v >= -5 && v <= 6);
    }
}

// What throws up many alike is crowded; others of another zone do not count, nor do those far along the
// track.
TEST(Crowd, CountsNeighboursOfItsOwnZone) {
    const auto s = ground();
    std::vector<Echo> echoes{box(20, 25, 50, 55, 8), box(40, 45, 90, 95, 7), box(30, 35, 150, 155, 3)};
    auto water = box(22, 27, 10, 12, 20);
    water.zone = Zone::water;
    echoes.push_back(water);
    std::vector<ShadowBehind> behinds(4);
    behinds[1].score = 4;
    const auto c = crowd_of(s, echoes, behinds, 0);
    EXPECT_EQ(c.standing, 1) << "7 is more than seven tenths of 8, 3 is not";
    EXPECT_EQ(c.shadowed, 1);
    EXPECT_EQ(c.best_other, 7);
    EXPECT_EQ(c.as_bright, 0);
    // All lines lie within 12 m: what lies farther than 10 m along is no neighbour, but is of the block.
    echoes[1] = box(112, 117, 90, 95, 9);
    echoes[0] = box(2, 7, 50, 55, 8);
    const auto far = crowd_of(s, echoes, behinds, 0);
    EXPECT_EQ(far.standing, 0);
    EXPECT_EQ(far.as_bright, 1) << "in 1,000 m² at least";
}

// The rougher the ground, the more shadow is found behind nothing; and the same every time.
TEST(ChanceShadow, GrowsWithTheGroundsOwnDarkness) {
    const double even = chance_shadow(ground(0.5), {}), rough = chance_shadow(ground(6), {});
    EXPECT_LT(even, 0.1);
    auto patchy = ground(3);
    std::mt19937 random(7);
    for (int i = 0; i < 60; ++i) {
        const auto l = random() % 110, c = random() % 290;
        for (auto y = l; y < l + 10; ++y)
            for (auto x = c; x < c + 30; ++x)
                patchy.ground.off[y * column_count + x] -= 8;
    }
    const double dark = chance_shadow(patchy, {});
    EXPECT_GT(dark, rough);
    EXPECT_GT(dark, 1);
    EXPECT_EQ(dark, chance_shadow(patchy, {}));
    // Too little ground to tell: nothing is claimed of it.
    Swath none;
    EXPECT_EQ(chance_shadow(none, {}), 0);
}
