// The lakes on which the reading is measured: that they are what docs/accuracy.md says of them.
#include "study/reading_scenes.hpp"
#include "study/weigh.hpp"

#include <cmath>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <set>

using namespace heron;
using namespace heron::study;

namespace {

// A short lake of one ground, level and without patches.
ReadingScene short_lake(const std::string &ground, std::uint32_t seed = 77) {
    ReadingScene r;
    r.name = "short";
    r.ground = ground;
    r.length_m = 36;
    r.range_m = 20;
    r.seed = seed;
    return r;
}

} // namespace

TEST(ReadingScenes, CoverTheGridThatIsAskedFor) {
    const auto all = reading_scenes();
    ASSERT_GE(all.size(), 120u);
    std::set<std::string> names, grounds;
    std::set<double> bands;
    std::set<int> gains;
    std::set<std::uint32_t> seeds;
    double shallowest = 99, deepest = 0, steepest = 0, nearest = 99, farthest = 0;
    int scoring = 0, curved = 0, lanes = 0;
    for (const auto &r : all) {
        names.insert(r.name);
        grounds.insert(r.ground);
        bands.insert(r.frequency_hz);
        if (r.making.samples == sim::Making().samples)
            gains.insert(r.gain);
        seeds.insert(r.seed);
        shallowest = std::min(shallowest, r.depth_m);
        deepest = std::max(deepest, r.depth_m);
        steepest = std::max(steepest, r.slope_deg);
        nearest = std::min(nearest, r.range_m);
        farthest = std::max(farthest, r.range_m);
        scoring += !r.fitting;
        curved += r.curved;
        lanes += r.lanes;
        // The fan reaches past the water under the boat.
        EXPECT_GT(r.range_m, 1.2 * r.depth_m) << r.name;
    }
    EXPECT_EQ(names.size(), all.size());
    EXPECT_EQ(seeds.size(), all.size()) << "no two alike";
    EXPECT_EQ(grounds, (std::set<std::string>{"gravel", "rock", "sand", "silt"}));
    EXPECT_EQ(bands, (std::set<double>{420e3, 770e3, 1150e3}));
    EXPECT_EQ(gains, (std::set<int>{34, 50, 66})) << "dark, right and hot";
    EXPECT_LT(shallowest, 2.5);
    EXPECT_GT(deepest, 12);
    EXPECT_GT(steepest, 8);
    EXPECT_NEAR(nearest, 12, 0.5);
    EXPECT_GT(farthest, 35);
    EXPECT_GE(scoring, 40);
    EXPECT_EQ(static_cast<std::size_t>(scoring) * 3, all.size());
    EXPECT_GT(curved, 10);
    EXPECT_GT(lanes, 10);
}

// Half of the lakes for fitting are of other makings, none of those for scoring; and there are lakes for
// scoring of which each is of a making of its own.
TEST(ReadingScenes, OtherMakingsAreDrawnForFittingAndForTravelling) {
    const auto drawn = [](const ReadingScene &r) { return r.making.grazing_power != 2; };
    int fitting = 0, other = 0;
    for (const auto &r : reading_scenes()) {
        EXPECT_FALSE(!r.fitting && drawn(r)) << r.name;
        fitting += r.fitting;
        other += drawn(r);
    }
    EXPECT_EQ(2 * other, fitting);
    std::set<double> powers;
    double least = 9, most = 0;
    for (const auto &r : drawn_scenes()) {
        EXPECT_FALSE(r.fitting);
        powers.insert(r.making.grazing_power);
        least = std::min(least, r.crowding);
        most = std::max(most, r.crowding);
        EXPECT_LE(r.making.beam_told, 1.3);
        EXPECT_GE(r.making.beam_told, 1 / 1.3);
    }
    EXPECT_EQ(powers.size(), drawn_scenes().size());
    EXPECT_LT(least, 0.3) << "from nearly nothing";
    EXPECT_GT(most, 1.5) << "to crowded";
}

TEST(ReadingScenes, AreTheSameEveryTime) {
    const auto a = reading_scenes(), b = reading_scenes();
    for (std::size_t i = 0; i < a.size(); ++i) {
        EXPECT_EQ(a[i].depth_m, b[i].depth_m);
        EXPECT_EQ(a[i].seed, b[i].seed);
        EXPECT_EQ(a[i].rises_to_deg, b[i].rises_to_deg);
    }
    auto r = short_lake("sand");
    const auto one = sound(r), two = sound(r);
    ASSERT_EQ(one.things.size(), two.things.size());
    ASSERT_EQ(one.scan.end(), two.scan.end());
    for (std::size_t i = 0; i < one.things.size(); ++i) {
        EXPECT_EQ(one.things[i].kind, two.things[i].kind);
        EXPECT_EQ(one.things[i].at.x, two.things[i].at.x);
        EXPECT_EQ(one.things[i].margin_db, two.things[i].margin_db);
    }
    const auto row = one.scan.end() / 2;
    EXPECT_EQ(one.scan.ping(row).beams[0].code, two.scan.ping(row).beams[0].code);
    r.seed += 1;
    EXPECT_NE(sound(r).scan.ping(row).beams[0].code, one.scan.ping(row).beams[0].code);
}

// The boat ran where it is said to have run, its rows grow, and the depth that is told is the depth.
TEST(ReadingScenes, TheBoatIsKnownAtItsRows) {
    const auto s = sound(short_lake("sand"));
    ASSERT_GT(s.boats.size(), 100u);
    for (std::size_t i = 1; i < s.boats.size(); ++i) {
        EXPECT_GT(s.boats[i].first, s.boats[i - 1].first);
        EXPECT_GT(s.boats[i].second.at.y, s.boats[i - 1].second.at.y) << "due north";
    }
    EXPECT_NEAR(s.boats.front().second.at.x, keel_east, 0.6);
    EXPECT_NEAR(s.km, 0.036, 1e-9);
    for (const auto &t : s.things)
        if (t.seen) {
            EXPECT_LT(t.row, s.scan.end());
            EXPECT_NEAR(t.ground_m, std::fabs(t.at.x - keel_east), 1.2) << name_of(t.kind);
            EXPECT_GT(t.depth_m, 3);
        }
}

TEST(ReadingScenes, NothingLiesInAnEmptyLakeAndTheSameGroundIsUnderIt) {
    auto r = short_lake("gravel");
    r.empty = true;
    const auto s = sound(r);
    EXPECT_TRUE(s.things.empty());
    int found = 0;
    for (std::size_t row = 0; row < s.scan.end(); ++row)
        found += s.scan.bottom(row).found;
    EXPECT_GT(found, static_cast<int>(s.scan.end()) * 9 / 10);
}

TEST(ReadingScenes, InLakesOfWoodFishLieWithinEverySecondCrown) {
    auto r = short_lake("sand");
    r.length_m = 70;
    r.depth_m = 4;
    r.wood = true;
    const auto s = sound(r);
    int woods = 0, with_fish = 0;
    const TrueThing *wood = nullptr;
    bool counted = false;
    for (const auto &t : s.things) {
        if (t.kind != Kind::fish) {
            EXPECT_THAT(t.kind, testing::AnyOf(Kind::tree, Kind::brush));
            wood = &t;
            counted = false;
            ++woods;
            continue;
        }
        ASSERT_NE(wood, nullptr);
        EXPECT_LT(std::hypot(t.at.x - wood->at.x, t.at.y - wood->at.y), wood->length_m / 2 + 1e-9);
        EXPECT_LE(t.height_m, wood->height_m);
        with_fish += !counted;
        counted = true;
    }
    EXPECT_GE(woods, 6);
    EXPECT_NEAR(with_fish, woods / 2.0, 1);
}

// A thing of one size stands out the more, the smoother its ground: what the texture reaches by itself is
// what it is held against.
TEST(Weigh, StandingOutIsAgainstTheOwnGround) {
    const auto of = [](const std::string &ground) {
        double sum = 0;
        int n = 0, out = 0;
        for (const std::uint32_t seed : {77U, 91U, 105U}) {
            const auto s = sound(short_lake(ground, seed));
            for (const auto &t : s.things)
                if (t.seen && (t.kind == Kind::boulder || t.kind == Kind::stump)) {
                    sum += t.margin_db;
                    out += t.stands_out;
                    ++n;
                    EXPECT_EQ(t.stands_out, t.margin_db >= 0) << name_of(t.kind);
                }
        }
        EXPECT_GT(n, 4);
        return std::pair{sum / n, static_cast<double>(out) / n};
    };
    const auto sand = of("sand"), rock = of("rock");
    EXPECT_GT(sand.first, rock.first + 4);
    EXPECT_GT(sand.second, 0.8);
    EXPECT_LE(rock.second, sand.second);
}

TEST(FromBoat, AheadAndToStarboardTurnWithTheHeading) {
    sim::BoatState boat;
    boat.at = {10, 20};
    Installation bare;
    bare.transducer = {};
    for (const double heading : {0.0, 90.0, 217.0}) {
        boat.heading_deg = heading;
        const double h = heading / degrees_per_radian;
        // Five metres ahead and three to starboard.
        const sim::Point p{10 + 5 * std::sin(h) + 3 * std::cos(h), 20 + 5 * std::cos(h) - 3 * std::sin(h)};
        const auto from = from_boat(boat, bare, p);
        EXPECT_NEAR(from.ahead_m, 5, 1e-9) << heading;
        EXPECT_NEAR(from.starboard_m, 3, 1e-9) << heading;
    }
}
