// Why a place is good: worked by hand on a made-up chart; wishes in words.
#include "bottom/spot_filter.hpp"

#include <cmath>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <limits>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

// A hundred metres square: hard east of 50, a drop of 2 m at north 70 (deeper to the north), a patch of weeds
// between 10 and 30 east, 10 and 30 north, with an opening of 4 m in its middle.
struct Made {
    Hardness h;
    DepthGrid d;
    std::vector<Transition> lines;
    Made() {
        h.raster = {{27, true}, 0.5, 0, 100, 200, 200};
        h.hardness.resize(h.raster.cells());
        h.ground.resize(h.raster.cells());
        for (std::size_t i = 0; i < h.raster.cells(); ++i) {
            const double e = h.raster.east_of(i % 200), n = h.raster.north_of(i / 200);
            const bool weeds =
                std::fabs(e - 20) < 10 && std::fabs(n - 20) < 10 && std::hypot(e - 20, n - 20) > 4;
            h.hardness[i] = e > 50 ? 0.8F : 0.2F;
            h.ground[i] = weeds ? GroundClass::weeds : e > 50 ? GroundClass::rock : GroundClass::silt;
        }
        d.raster = {{27, true}, 1, 0, 100, 100, 100};
        d.depth_m.resize(d.raster.cells());
        d.sd_m.assign(d.raster.cells(), 0.1F);
        for (std::size_t i = 0; i < d.raster.cells(); ++i)
            d.depth_m[i] = d.raster.north_of(i / 100) > 70 ? 6.0F : 4.0F;
        Transition t;
        t.line = {{50, 0}, {50, 100}};
        lines.push_back(t);
    }
};

SpotThing stone(const char *id, double east, double north, double height) {
    return {id, SpotMatter::stone, {east, north}, height, 1.0};
}

} // namespace

TEST(Spot, SaysHowFarWhatIsAndWhatStandsAboutIt) {
    const Made m;
    const SpotGround ground(m.h, m.lines, m.d);
    const std::vector<SpotThing> all{stone("a", 42, 60, 1.0),
                                     stone("b", 60, 20, 0.5),
                                     stone("c", 66, 20, 0.9),
                                     {"w", SpotMatter::wood, {63, 21}, 0.4, 2.0}};
    const auto a = ground.facts_of(all[0], all);
    ASSERT_TRUE(a.to_transition_m);
    EXPECT_NEAR(*a.to_transition_m, 8, 0.3);
    ASSERT_TRUE(a.to_drop_m);
    EXPECT_NEAR(*a.to_drop_m, 10, 2) << "the drop lies ten metres north";
    EXPECT_NEAR(*a.drop_m, 2, 1e-6);
    ASSERT_TRUE(a.to_deep_m);
    EXPECT_NEAR(*a.to_deep_m, 10.5, 1);
    EXPECT_NEAR(*a.deep_by_m, 2, 1e-6);
    EXPECT_TRUE(a.lone());
    EXPECT_FALSE(a.bigger) << "nothing near to be bigger than";
    ASSERT_TRUE(a.hardness);
    EXPECT_NEAR(*a.hardness, 0.2, 1e-6);
    EXPECT_EQ(a.ground, GroundClass::silt);
    EXPECT_NEAR(*a.depth_m, 4, 1e-6);
    const auto c = ground.facts_of(all[2], all);
    EXPECT_EQ(c.neighbours, 2);
    EXPECT_TRUE(c.bigger) << "0.9 m against 0.5 and 0.4";
    EXPECT_TRUE(c.wood_with_stone);
    EXPECT_EQ(c.ground, GroundClass::rock);
    EXPECT_FALSE(c.to_drop_m && *c.to_drop_m < 40);
}

TEST(Spot, OpeningsAndEdgesOfWeeds) {
    const Made m;
    const SpotGround ground(m.h, m.lines, m.d);
    const auto at = [&](double e, double n) {
        const auto thing = stone("x", e, n, 0.5);
        return ground.facts_of(thing, std::span(&thing, 1));
    };
    EXPECT_TRUE(at(20, 20).in_weed_opening);
    EXPECT_FALSE(at(45, 20).in_weed_opening);
    EXPECT_TRUE(at(31.5, 20).on_weed_edge);
    EXPECT_FALSE(at(45, 20).on_weed_edge);
    EXPECT_TRUE(at(29.4, 29.4).on_weed_point) << "the corner of the bed";
    EXPECT_FALSE(at(29.4, 20).on_weed_point);
}

TEST(Spot, WhereNothingIsKnownNothingIsSaid) {
    const SpotGround ground;
    const auto thing = stone("x", 1, 2, 0.5);
    const auto f = ground.facts_of(thing, std::span(&thing, 1));
    EXPECT_FALSE(f.depth_m || f.hardness || f.to_transition_m || f.to_drop_m || f.to_deep_m || f.to_next_m);
}

TEST(Wish, TheOneThatGuidesSayMostIsOneFilter) {
    const auto f =
        spot_filter_of("Show me lone big stones within 10 m of a seam in 6-8 ft", UnitSystem::feet);
    EXPECT_THAT(f.not_understood, testing::IsEmpty());
    EXPECT_EQ(f.lone, true);
    EXPECT_TRUE(f.bigger);
    ASSERT_THAT(f.matters, testing::ElementsAre(SpotMatter::stone));
    EXPECT_NEAR(f.transition_m.value(), 10, 1e-9);
    EXPECT_NEAR(f.depth_from_m.value(), 6 * 0.3048, 1e-9);
    EXPECT_NEAR(f.depth_to_m.value(), 8 * 0.3048, 1e-9);
    SpotFacts facts;
    facts.to_transition_m = 7;
    facts.depth_m = 2.1;
    const auto lone = stone("a", 0, 0, 0.8);
    EXPECT_TRUE(meets(f, lone, facts, {}, ""));
    facts.neighbours = 2;
    EXPECT_FALSE(meets(f, lone, facts, {}, "")) << "in a pile";
    facts.neighbours = 0;
    facts.depth_m = 3;
    EXPECT_FALSE(meets(f, lone, facts, {}, "")) << "too deep";
    facts.depth_m.reset();
    EXPECT_TRUE(meets(f, lone, facts, 2.0, "")) << "the depth it was read with serves";
    facts.to_transition_m.reset();
    EXPECT_FALSE(meets(f, lone, facts, 2.0, "")) << "no transition is known near";
}

TEST(Wish, OtherWordsOfTheTrade) {
    const auto one = [](const char *words) { return spot_filter_of(words, UnitSystem::metres); };
    EXPECT_NEAR(one("stumps near a drop").drop_m.value(), 10, 1e-9);
    EXPECT_THAT(one("stumps near a drop").names, testing::ElementsAre("stump"));
    EXPECT_NEAR(one("wood within 30ft of deep water").deep_m.value(), 30 * 0.3048, 1e-9);
    EXPECT_EQ(one("on gravel").ground, GroundClass::gravel);
    EXPECT_EQ(one("fish on soft bottom").hard, false);
    EXPECT_NEAR(one("taller than 80 cm").taller_m.value_or(-1), 0.8, 1e-9);
    EXPECT_NEAR(one("deeper than 4").depth_from_m.value(), 4, 1e-9);
    EXPECT_TRUE(one("in a weed opening").weed_opening);
    EXPECT_TRUE(one("weed edge").weed_edge);
    EXPECT_TRUE(one("wood with stone").wood_with_stone);
    EXPECT_EQ(one("stones in piles").lone, false);
    EXPECT_NEAR(one("2–3.5 m").depth_to_m.value(), 3.5, 1e-9);
    EXPECT_THAT(one("lone blue stones").not_understood, testing::ElementsAre("blue"));
    EXPECT_TRUE(one("").empty());
    EXPECT_TRUE(one("show me all").empty());
}

RC_GTEST_PROP(Wish, AnyWordsAreReadOrTold, (const std::string &words)) {
    const auto f = spot_filter_of(words, UnitSystem::feet);
    RC_ASSERT(f.not_understood.size() <= words.size());
    (void)meets(f, stone("a", 0, 0, 0.5), {}, {}, words);
}
