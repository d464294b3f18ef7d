// What lies behind an echo, on grids whose every cell is known.
#include "found.hpp"
#include "reading/behind.hpp"
#include "reading/features.hpp"
#include "reading/shadow.hpp"

#include <gtest/gtest.h>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

constexpr double behind_cell = 0.05, behind_spacing = 0.1, behind_edge = 5, behind_altitude = 5;

// An even bottom with so much grain, 80 lines and 20 m beyond the first return.
Swath even(double grain_db, std::uint32_t seed) {
    Swath s;
    std::mt19937 random(seed);
    std::normal_distribution<float> noise(0, static_cast<float>(grain_db));
    s.cell_m = behind_cell;
    s.spacing_m = behind_spacing;
    s.ground.lines = 80;
    s.ground.columns = 400;
    for (std::size_t l = 0; l < 80; ++l) {
        s.rows.push_back(l);
        s.along_m.push_back(behind_spacing * static_cast<double>(l));
        s.edge_m.push_back(behind_edge);
        s.altitude_m.push_back(behind_altitude);
        s.end_m.push_back(behind_edge + 400 * behind_cell);
    }
    s.ground.off.resize(80 * 400);
    for (auto &v : s.ground.off)
        v = grain_db > 0 ? noise(random) : 0;
    s.water.lines = 80;
    s.water.columns = 100;
    s.water.off.assign(80 * 100, 0);
    return s;
}

void fill(Swath &s, std::size_t l0, std::size_t l1, double from_m, double to_m, float db) {
    for (auto l = l0; l <= l1; ++l)
        for (auto c = static_cast<std::size_t>((from_m - behind_edge) / behind_cell);
             c < static_cast<std::size_t>((to_m - behind_edge) / behind_cell); ++c)
            s.ground.off[l * 400 + c] += db;
}

// The region in the middle of the lines that stands out most.
Echo found_in(const Swath &s) {
    Echo best;
    for (const auto &e : test::everything_in(s))
        if (e.zone == Zone::ground && e.first_line < 45 && e.last_line > 34 && e.z > best.z)
            best = e;
    EXPECT_GT(best.cells, 0u) << "nothing found";
    return best;
}
// The same of what is dark, whatever echoes there are.
Echo dark_in(const Swath &s) {
    Echo best;
    for (const auto &e : find_darks(s, {}, {}))
        if (e.first_line < 45 && e.last_line > 34 && e.z > best.z)
            best = e;
    return best;
}

} // namespace

TEST(Behind, AnAttachedShadowBeginsAtTheEchoAndEndsWhereItEnds) {
    auto s = even(2, 1);
    fill(s, 35, 44, 11, 11.5, 18);
    fill(s, 35, 44, 11.5, 13.2, -9);
    const auto b = look_behind(s, found_in(s));
    ASSERT_TRUE(b.found);
    EXPECT_LT(b.gap_m, 0.15);
    EXPECT_NEAR(b.start_m, 11.5, 0.15);
    EXPECT_NEAR(b.end_m, 13.2, 0.15);
    EXPECT_NEAR(b.depth_db, 9, 1.5);
    EXPECT_NEAR(b.top_m, 11, 0.12);
    EXPECT_GT(b.touch_db, 4);
    EXPECT_FALSE(b.cut);
    EXPECT_NEAR(b.width_m, 1, 0.4);
    // By the formula: 5 m × (13.2 − 11) ÷ 13.2.
    const auto h = read_shadow(b.top_m, b.end_m, 0.05, {behind_altitude, 0.05, 0, 0.5});
    ASSERT_TRUE(h);
    EXPECT_NEAR(h->height_m.value, 5 * 2.2 / 13.2, 0.08);
}

TEST(Behind, ADetachedShadowTellsItsGap) {
    auto s = even(2, 2);
    fill(s, 37, 42, 9, 9.2, 16);
    fill(s, 37, 42, 10.4, 11.2, -9);
    const auto b = look_behind(s, found_in(s));
    ASSERT_TRUE(b.found);
    EXPECT_NEAR(b.gap_m, 1.2, 0.25);
    EXPECT_NEAR(b.start_m, 10.4, 0.15);
    EXPECT_NEAR(b.end_m, 11.2, 0.15);
    EXPECT_LT(b.touch_db, 1.5) << "lit ground right behind it";
    const auto e = found_in(s);
    const auto f = features_of(s, e, b, {}, 0.5);
    EXPECT_GT(f[16], 0.3) << "gap height: it stands off the bottom";
}

TEST(Behind, LitGroundEndsAShadowAndAnotherThingsDarkIsNotAdded) {
    auto s = even(1.5, 3);
    fill(s, 35, 44, 11, 11.4, 18);
    fill(s, 35, 44, 11.4, 12.6, -9);
    fill(s, 35, 44, 13.8, 17, -12); // some other thing's
    const auto b = look_behind(s, found_in(s));
    ASSERT_TRUE(b.found);
    // The longer dark has the greater sum, but it does not touch: what matters is that the two are never one.
    EXPECT_LT(b.end_m - b.start_m, 3.6);
}

TEST(Behind, AShadowAtTheEdgeOfTheRangeIsCut) {
    auto s = even(2, 4);
    fill(s, 35, 44, 22, 22.4, 18);
    fill(s, 35, 44, 22.4, 25, -9);
    const auto b = look_behind(s, found_in(s));
    ASSERT_TRUE(b.found);
    EXPECT_TRUE(b.cut);
}

TEST(Behind, WithoutDarkNothingIsFoundButChance) {
    auto s = even(2, 5);
    fill(s, 37, 42, 11, 11.3, 18);
    const auto b = look_behind(s, found_in(s));
    EXPECT_LT(b.score, 0.3);
    EXPECT_LT(std::fabs(b.touch_db), 1);
}

TEST(Echoes, MeasureARegionAsLargeAsItIs) {
    auto s = even(1, 6);
    fill(s, 30, 49, 12, 12.4, 16); // 2 m along, 0.4 m of sound across
    const auto e = found_in(s);
    EXPECT_NEAR(e.along_m, 2, 0.8); // a box of 0.25 m smears it
    EXPECT_NEAR(e.length_m, 2, 0.6);
    EXPECT_LT(e.width_m, 1.0);
    EXPECT_LT(e.turned, 0.3) << "it lies along the track";
    EXPECT_NEAR(e.mean_db, 14, 4);
    EXPECT_GT(e.z, 8);
}

TEST(Echoes, JoinGrainsThatLieCloseAndKeepThoseApart) {
    auto s = even(1, 7);
    for (const auto l : {std::size_t{30}, std::size_t{35}, std::size_t{40}})
        fill(s, l, l + 1, 12, 12.2, 18); // half a metre apart: one group
    fill(s, 70, 72, 18, 18.2, 18);
    const auto at = [&](std::size_t line, double slant_m) -> std::optional<Echo> {
        const auto column = static_cast<std::size_t>((slant_m - behind_edge) / behind_cell);
        for (const auto &e : test::everything_in(s))
            if (e.zone == Zone::ground && e.first_line <= line && e.last_line >= line &&
                e.first_column <= column && e.last_column >= column)
                return e;
        return std::nullopt;
    };
    const auto group = at(35, 12.1), alone = at(71, 18.1);
    ASSERT_TRUE(group && alone);
    EXPECT_LE(group->first_line, 30u);
    EXPECT_GE(group->last_line, 41u);
    EXPECT_NEAR(group->grains, 3, 1);
    EXPECT_GT(alone->first_line, 60u);
    EXPECT_EQ(alone->grains, 1);
}

TEST(Echoes, ADarkPatchWithoutAnEchoIsFoundAsDark) {
    auto s = even(2, 8);
    fill(s, 34, 46, 12, 13, -8);
    const auto e = dark_in(s);
    EXPECT_NEAR(s.slant_m(40, static_cast<double>(e.first_column)), 12, 0.4);
    EXPECT_NEAR(s.slant_m(40, static_cast<double>(e.last_column)), 13, 0.4);
}

// Faint and broad: the background of 6 m × 2 m takes half of such a thing away; the broad scale sees it
// whole.
TEST(Broad, WhatIsFaintAndBroadIsFoundOnceAndWhatIsWideIsGround) {
    // 2.5 m along, 2 m of sound across, 3 dB up, as the patch map says and not the levels over it.
    auto s = even(3, 31);
    const auto patch = [&](std::size_t l0, std::size_t l1, double from, double to, float db) {
        s.ground.lines_each = 4;
        s.ground.columns_each = 2;
        s.ground.patch_lines = 20;
        s.ground.patch_columns = 200;
        s.ground.patch.assign(20 * 200, 0);
        for (auto l = l0 / 4; l <= l1 / 4; ++l)
            for (auto c = static_cast<std::size_t>((from - behind_edge) / behind_cell / 2);
                 c < static_cast<std::size_t>((to - behind_edge) / behind_cell / 2); ++c)
                s.ground.patch[l * 200 + c] = db;
    };
    const auto at = [&](double slant) {
        const auto column = static_cast<std::size_t>((slant - behind_edge) / behind_cell);
        int n = 0;
        for (const auto &e : find_echoes(s))
            n += e.zone == Zone::ground && e.first_line <= 40 && e.last_line >= 40 &&
                 e.first_column <= column && e.last_column >= column && e.along_m > 1.2;
        return n;
    };
    EXPECT_EQ(at(13), 0) << "an even bottom";
    patch(28, 52, 12, 14, 3);
    EXPECT_EQ(at(13), 1);
    patch(0, 79, 8, 20, 3);
    EXPECT_EQ(at(13), 0) << "ground of another kind";
}

TEST(Broad, GrainyIsWhatIsMadeOfGrainsAndNotWhatIsEvenlyBright) {
    auto grains = even(3, 32), slab = even(3, 32);
    for (std::size_t l = 30; l < 50; l += 4)
        for (double r = 12; r < 13.5; r += 0.3)
            fill(grains, l, l, r, r + 0.05, 20);
    fill(slab, 30, 49, 12, 13.5, 9);
    const auto a = found_in(grains), b = found_in(slab);
    EXPECT_GT(a.grainy_db, b.grainy_db + 2);
    EXPECT_NEAR(b.grainy_db, 0, 1.2);
    EXPECT_GT(features_of(grains, a, {}, {}, 0.5)[feature_named("grainy")], 0.3);
}

// A grain too weak to be found by itself is found by the shadow that it throws.
TEST(Before, AShadowTellsOfAWeakEchoBeforeIt) {
    auto s = even(3, 9);
    fill(s, 36, 43, 10, 10.2, 8);
    fill(s, 36, 43, 12, 13, -9);
    const auto dark = dark_in(s);
    ASSERT_GT(dark.cells, 0u);
    auto b = look_behind(s, dark);
    look_before(s, dark, b);
    EXPECT_GT(b.source_z, 2);
    EXPECT_NEAR(b.source_m, 10, 0.2);
    EXPECT_NEAR(b.source_end_m, 10.2, 0.25);
    EXPECT_NEAR(b.gap_m, 1.8, 0.4);
    EXPECT_NEAR(b.start_m, 12, 0.3);
    EXPECT_NEAR(b.end_m, 13, 0.3);
    // By the formula it stands 5 m × (12.5 − 10.1) ÷ 12.5 off the bottom.
    const auto h = read_shadow((b.source_m + b.source_end_m) / 2, (b.start_m + b.end_m) / 2, 0.05,
                               {behind_altitude, 0.05, 0, 0.5});
    ASSERT_TRUE(h);
    EXPECT_NEAR(h->height_m.value, 5 * 2.4 / 12.5, 0.12);
}

TEST(Before, WhereNothingShinesBeforeItNothingIsTold) {
    int told = 0;
    for (std::uint32_t seed = 20; seed < 40; ++seed) {
        auto s = even(3, seed);
        fill(s, 36, 43, 12, 13, -9);
        for (const auto &e : find_darks(s, {}, {})) {
            if (e.first_line > 45 || e.last_line < 34)
                continue;
            auto b = look_behind(s, e);
            look_before(s, e, b);
            told += b.source_z > 0;
        }
    }
    EXPECT_LE(told, 10) << "by chance alone in half of the cases at most";
}

// A strong echo does not hide what lies far behind it on the same lines; its own shadow is not told twice.
TEST(Before, WhatLiesFarBehindAnEchoIsFoundAndItsOwnShadowIsNot) {
    auto s = even(2, 10);
    fill(s, 35, 44, 8, 8.4, 18);
    fill(s, 35, 44, 8.4, 9.4, -9);
    fill(s, 35, 44, 14, 14.2, 9);
    fill(s, 35, 44, 16, 17, -9);
    const auto all = find_all(s);
    bool near_told = false;
    int far_told = 0;
    for (std::size_t i = 0; i < all.echoes.size(); ++i) {
        const auto &e = all.echoes[i];
        const auto &b = all.behinds[i];
        if (e.first_line > 45 || e.last_line < 34 || !b.found)
            continue;
        near_told = near_told || (e.zone == Zone::ground && e.z > 20 && std::fabs(b.end_m - 9.4) < 0.3);
        EXPECT_FALSE(e.zone == Zone::dark && b.start_m > 8 && b.start_m < 9.4) << "its own shadow";
        far_told += std::fabs(b.start_m - 16) < 0.3 && std::fabs(b.end_m - 17) < 0.3;
    }
    EXPECT_TRUE(near_told);
    EXPECT_GE(far_told, 1);
}

// A grain before a boulder: the boulder's shadow touches the boulder, and is not the grain's.
TEST(Before, AShadowThatTouchesAnotherEchoIsNotTakenByTheGrainBeforeIt) {
    auto s = even(2, 11);
    fill(s, 38, 41, 8, 8.2, 14);
    fill(s, 35, 44, 11, 11.6, 20);
    fill(s, 35, 44, 11.6, 14, -10);
    const auto all = find_all(s);
    bool boulder = false, grain = false;
    for (std::size_t i = 0; i < all.echoes.size(); ++i) {
        const auto &e = all.echoes[i];
        if (e.zone != Zone::ground || e.first_line > 45 || e.last_line < 34)
            continue;
        const double at = s.slant_m(40, static_cast<double>(e.first_column));
        if (std::fabs(at - 11) < 0.3) {
            boulder = true;
            EXPECT_NEAR(all.behinds[i].end_m, 14, 0.3);
        } else if (std::fabs(at - 8) < 0.3) {
            grain = true;
            EXPECT_TRUE(!all.behinds[i].found || all.behinds[i].end_m < 11) << all.behinds[i].end_m;
        }
    }
    EXPECT_TRUE(boulder);
    EXPECT_TRUE(grain);
}

// Of ten things alike each has nine others as good; a better one has none, and an empty bottom tells of none.
TEST(Crowd, CountsThoseThatAreAsGoodAllOverTheBlock) {
    auto s = even(2, 12);
    std::vector<Echo> echoes(11);
    std::vector<ShadowBehind> behinds(11);
    for (std::size_t i = 0; i < 11; ++i) {
        echoes[i].strongest_line = 7 * i;
        echoes[i].z = 6;
        behinds[i].score = 1;
    }
    echoes[10].z = 9;
    behinds[9].score = 3;
    const auto alike = crowd_of(s, echoes, behinds, 0), bright = crowd_of(s, echoes, behinds, 10),
               dark = crowd_of(s, echoes, behinds, 9);
    // 8 m by 20 m count as 1,000 m².
    EXPECT_NEAR(alike.as_bright, 10, 1e-9);
    EXPECT_NEAR(alike.as_dark, 10, 1e-9);
    EXPECT_NEAR(alike.as_both, 10, 1e-9);
    EXPECT_NEAR(bright.as_bright, 0, 1e-9);
    EXPECT_NEAR(bright.as_both, 0, 1e-9);
    EXPECT_NEAR(dark.as_dark, 0, 1e-9);
    EXPECT_NEAR(dark.as_bright, 10, 1e-9);
    echoes[3].zone = Zone::dark;
    EXPECT_NEAR(crowd_of(s, echoes, behinds, 0).as_bright, 9, 1e-9) << "only its like count";
    const auto f = features_of(s, echoes[0], behinds[0], alike, 0.5);
    EXPECT_NEAR(f[feature_named("as both")], std::log2(11.0), 1e-9);
}

RC_GTEST_PROP(Behind, TheEndStandsBehindTheStartAndWithinTheRange, ()) {
    auto s = even(2, *rc::gen::inRange(1, 1000));
    const double at = *rc::gen::inRange(60, 200) / 10.0;
    fill(s, 35, 44, at, at + 0.4, 18);
    fill(s, 35, 44, at + 0.4, std::min(24.9, at + 0.4 + *rc::gen::inRange(0, 60) / 10.0), -9);
    for (const auto &e : test::everything_in(s)) {
        const auto b = look_behind(s, e);
        if (!b.found)
            continue;
        RC_ASSERT(b.end_m >= b.start_m);
        RC_ASSERT(b.end_m <= 25.01);
        RC_ASSERT(b.gap_m >= 0);
        RC_ASSERT(b.end_sd_m > 0);
    }
}
