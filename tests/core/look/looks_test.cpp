// Why it looks so, where the fish are, fish it or leave it.
#include "lake.hpp"
#include "look/fish_or_leave.hpp"
#include "look/tally.hpp"
#include "look/why_so.hpp"

#include <gmock/gmock.h>

using namespace heron;
using testing::Contains;
using testing::HasSubstr;
using testing::Not;

namespace {

const Scan &lake_scan() {
    static Scan scan;
    if (scan.empty()) {
        auto j = test::basin();
        j["terrain"]["features"] = {
            {{"type", "slope"}, {"at", {60, 60}}, {"bearing_deg", 90}, {"slope_deg", 3}}};
        j["boat"]["route"] = {{60, 20}, {60, 80}, {70, 80}, {70, 20}};
        test::sound(scan, j, 1950);
    }
    return scan;
}
Contact fish_at(std::size_t row, Side side, double ground, double depth) {
    Contact c;
    c.family = Family::fish;
    c.kind = Kind::fish;
    c.confidence = 0.9;
    c.row = row;
    c.side = side;
    c.ground_m = {ground, 0.4};
    c.depth_m = depth;
    c.place = place_beside(lake_scan(), row, side, c.ground_m).at;
    return c;
}
Contact stump_at(std::size_t row, Side side, double ground) {
    auto c = fish_at(row, side, ground, 5);
    c.family = Family::structure;
    c.kind = Kind::stump;
    return c;
}

} // namespace

// The worked case of 15 m off, 5 m deep, 8°, 0.3 m tall: uphill a shadow of 0.66 m, downhill of 1.74 m on a
// bottom some 8 dB weaker (computed by hand from the ray's geometry and Lambert's law; from memory).
TEST(WhySo, SlopeEffectsAreTheHandWorkedOnes) {
    BottomPlane up, down;
    up.slope_deg = 8;
    up.altitude_m = 5 + 15 * std::tan(8 / degrees_per_radian);
    down.slope_deg = -8;
    down.altitude_m = 5 - 15 * std::tan(8 / degrees_per_radian);
    EXPECT_NEAR(up.depth_at(15), 5, 1e-9);
    const double level = 15 * 5 / 4.7 - 15;
    EXPECT_NEAR(slope_effect(up, 15, 0.3).shadow_ratio * level, 0.66, 0.01);
    EXPECT_NEAR(slope_effect(down, 15, 0.3).shadow_ratio * level, 1.74, 0.01);
    const double weaker = slope_effect(up, 15, 0.3).brighter_db - slope_effect(down, 15, 0.3).brighter_db;
    EXPECT_NEAR(weaker, 8, 0.6);
    // A bottom that falls faster than the ray: no end.
    down.slope_deg = -20;
    down.altitude_m = 5 - 15 * std::tan(20 / degrees_per_radian) + 4;
    EXPECT_GT(slope_effect(down, 15, 0.3).shadow_ratio, 1);
    EXPECT_EQ(slope_effect(up, 15, 0).shadow_ratio, 1);
}

TEST(WhySo, TellsWhatMadeThePicture) {
    auto c = stump_at(200, Side::starboard, 12);
    c.height_m = Estimate{0.8, 0.1};
    c.slant_m = 13;
    c.first_row = 199;
    c.last_row = 200;
    c.behind.found = true;
    c.placement = Placement::on_bottom;
    c.bottom.altitude_m = 5 + 12 * std::tan(4 / degrees_per_radian);
    c.bottom.slope_deg = 4;
    c.bottom.slope_sd_deg = 0.5;
    auto said = why_so(lake_scan(), c, usual_gear(), UnitSystem::metres);
    EXPECT_THAT(said, Contains(HasSubstr("grazes the bottom at 23 degrees")));
    EXPECT_THAT(said, Contains(HasSubstr("Seen uphill (4 degrees)")));
    EXPECT_THAT(said, Contains(HasSubstr("Fewer than three pings")));
    c.bottom.slope_deg = -4;
    c.placement = Placement::suspended;
    c.behind.gap_m = 2;
    said = why_so(lake_scan(), c, usual_gear(), UnitSystem::metres);
    EXPECT_THAT(said, Contains(HasSubstr("Seen downhill")));
    EXPECT_THAT(said, Contains(HasSubstr("hangs")));
    // Without a height none is told, and a slope within its own doubt is none.
    c.height_m.reset();
    c.bottom.slope_deg = 1.4;
    c.bottom.slope_sd_deg = 1.5;
    said = why_so(lake_scan(), c, usual_gear(), UnitSystem::metres);
    EXPECT_THAT(said, Contains(HasSubstr("too weak to tell how far off the bottom")));
    EXPECT_THAT(said, Not(Contains(HasSubstr("since it hangs"))));
    EXPECT_THAT(said, Not(Contains(HasSubstr("Seen uphill"))));
    c.zone = Zone::water;
    EXPECT_THAT(why_so(lake_scan(), c, usual_gear(), UnitSystem::metres),
                Contains(HasSubstr("before the first return")));
}

// Table of the binomial distribution: P(X ≥ 8) of 10 at one half is 56/1024.
TEST(Tally, BinomialTail) {
    EXPECT_NEAR(binomial_tail(8, 10, 0.5), 56.0 / 1024, 1e-12);
    EXPECT_NEAR(binomial_tail(10, 10, 0.5), 1.0 / 1024, 1e-12);
    EXPECT_EQ(binomial_tail(0, 10, 0.5), 1);
    EXPECT_EQ(binomial_tail(11, 10, 0.5), 0);
}

TEST(Tally, LeansOnlyWhereChanceWouldNot) {
    std::vector<Contact> all;
    all.reserve(9);
    for (int i = 0; i < 9; ++i)
        all.push_back(
            fish_at(100u + 20u * static_cast<std::size_t>(i), Side::port, 8 + i % 3, 5.5 + 0.1 * (i % 3)));
    auto t = tally_fish(lake_scan(), all, 0, lake_scan().end(), UnitSystem::metres);
    EXPECT_EQ(t.left, 9);
    EXPECT_TRUE(t.leans_left());
    EXPECT_THAT(t.leans, HasSubstr("9 of 9 on the left"));
    EXPECT_NEAR(t.chance_of_side, 2.0 / 512, 1e-9);
    // Three on the one and two on the other side say nothing.
    all.resize(5);
    for (int i = 0; i < 2; ++i)
        all[static_cast<std::size_t>(i)].side = Side::starboard;
    t = tally_fish(lake_scan(), all, 0, lake_scan().end(), UnitSystem::metres);
    EXPECT_FALSE(t.leans_left() || t.leans_right());
    EXPECT_TRUE(tally_fish(lake_scan(), {}, 0, lake_scan().end(), UnitSystem::metres).leans.empty());
    // Only those of the rows asked for.
    EXPECT_EQ(tally_fish(lake_scan(), all, 0, 130, UnitSystem::metres).seen, 2);
}

// The contour of a bottom that falls east or west runs north and south.
TEST(Tally, OffersTheContour) {
    std::vector<Contact> all;
    all.reserve(8);
    for (int i = 0; i < 8; ++i)
        all.push_back(fish_at(150u + 30u * static_cast<std::size_t>(i), Side::starboard, 5, 5.0));
    const auto t = tally_fish(lake_scan(), all, 0, lake_scan().end(), UnitSystem::feet);
    ASSERT_TRUE(t.heading_deg);
    EXPECT_NEAR(std::fabs(std::sin(*t.heading_deg / degrees_per_radian)), 0, 0.15) << *t.heading_deg;
    EXPECT_THAT(t.offer, HasSubstr("heading"));
}

TEST(FishOrLeave, AsksForLooksUntilTheyTell) {
    const auto &scan = lake_scan();
    const auto stump = stump_at(300, Side::starboard, 12);
    ASSERT_TRUE(stump.place);
    const auto looks = passes_at(scan, stump.place->place, scan.end());
    ASSERT_EQ(looks.size(), 2u);
    WaterState rock;
    rock.bottom = BottomType::rock;
    WaterState silt = rock;
    silt.bottom = BottomType::silt;
    const auto hard = fish_or_leave(scan, stump, looks, {}, usual_gear(), rock, 0.2);
    EXPECT_EQ(hard.answer, FishThere::not_looked_at);
    const auto soft = fish_or_leave(scan, stump, looks, {}, usual_gear(), silt, 0.6);
    EXPECT_GT(soft.chance, hard.chance);
    // Fish at the first look, none at the second.
    const std::vector<Contact> first{fish_at(looks[0].row + 5, looks[0].side, looks[0].ground_m + 2, 5)};
    const auto gone = fish_or_leave(scan, stump, looks, first, usual_gear(), silt, 0.6);
    EXPECT_TRUE(gone.looks[0].fish);
    EXPECT_FALSE(gone.looks[1].fish);
    EXPECT_EQ(gone.answer, FishThere::gone);
    // At the last look.
    const std::vector<Contact> last{fish_at(looks[1].row + 5, looks[1].side, looks[1].ground_m + 2, 5)};
    EXPECT_EQ(fish_or_leave(scan, stump, looks, last, usual_gear(), silt, 0.6).answer, FishThere::yes);
    // In wood most of them hide, whatever the ground.
    auto tree = stump;
    const auto name = [&](Kind kind) {
        tree.kind = kind;
        tree.chances.fill(0);
        tree.chances[static_cast<std::size_t>(kind)] = 1;
    };
    const auto chance_in = [&](Kind kind, const WaterState &water) {
        name(kind);
        return fish_or_leave(scan, tree, looks, {}, usual_gear(), water, 0.6).looks[0].chance;
    };
    EXPECT_NEAR(chance_in(Kind::tree, silt) / soft.looks[0].chance,
                told_from_wood / told_from_ground(BottomType::silt), 1e-9);
    EXPECT_NEAR(chance_in(Kind::weeds, silt), soft.looks[0].chance / 2, 1e-9);
    // A grain in it is neither a fish nor none, until a later look shows one or would have.
    name(Kind::tree);
    tree.row = looks[1].row;
    tree.maybe_fish = {{looks[1].row + 2, 12, 0.6}};
    const auto perhaps = fish_or_leave(scan, tree, looks, {}, usual_gear(), silt, 0.6);
    EXPECT_EQ(perhaps.answer, FishThere::perhaps);
    EXPECT_DOUBLE_EQ(perhaps.looks[1].grain, 0.6);
    EXPECT_DOUBLE_EQ(perhaps.looks[0].grain, 0);
    EXPECT_NEAR(perhaps.chance, perhaps.looks[0].chance, 1e-9) << "only the look without one counts";
    EXPECT_EQ(fish_or_leave(scan, tree, looks, last, usual_gear(), silt, 0.6).answer, FishThere::yes);
    name(Kind::boulder);
    EXPECT_EQ(fish_or_leave(scan, tree, looks, {}, usual_gear(), silt, 0.6).looks[1].grain, 0)
        << "what is no wood any more";
}

// Of a drop and of a shadow without an echo it tells what is so, and nothing that only a shadow's thing has.
TEST(WhySo, DropsAndLoneShadowsAreToldForWhatTheyAre) {
    auto drop = stump_at(200, Side::starboard, 0);
    drop.zone = Zone::track;
    drop.family = Family::bottom;
    drop.kind = Kind::ledge;
    drop.slant_m = 5;
    drop.height_m = Estimate{1, 0.1};
    const auto said = why_so(lake_scan(), drop, usual_gear(), UnitSystem::metres);
    EXPECT_THAT(said, Contains(HasSubstr("ran right over it")));
    EXPECT_THAT(said, Not(Contains(HasSubstr("grazes"))));
    EXPECT_THAT(said, Not(Contains(HasSubstr("across the track is not known"))));
    auto lone = stump_at(200, Side::starboard, 12);
    lone.zone = Zone::dark;
    lone.placement = Placement::on_bottom;
    lone.slant_m = 13;
    lone.behind.found = true;
    const auto about = why_so(lake_scan(), lone, usual_gear(), UnitSystem::metres);
    EXPECT_THAT(about, Contains(HasSubstr("Nothing bright was found")));
    EXPECT_THAT(about, Not(Contains(HasSubstr("touches the bright"))));
}
