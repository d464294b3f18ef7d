#include "tuning/watcher.hpp"

#include "lake.hpp"

#include "tuning/estimate_gear.hpp"
#include "tuning/gain_search.hpp"
#include "tuning/installation_check.hpp"
#include "tuning/range_follower.hpp"

#include <gmock/gmock.h>

using namespace heron;
using testing::HasSubstr;

namespace {

struct Watched {
    Scan scan;
    PictureHealth health;
    std::vector<std::string> topics;
    std::vector<TuningAdvice> advice;
};

Watched watch(const nlohmann::json &scene, SoundingSettings settings, double floor_db = 30,
              std::size_t rows = 150) {
    Watched w;
    test::sound(w.scan, scene, rows, settings);
    Watcher watcher;
    for (std::size_t n = 0; n < w.scan.end(); ++n)
        watcher.add(w.scan, n);
    w.health = watcher.health();
    w.advice = advice_from(w.health, w.scan.settings(w.scan.end() - 1), test::gear_of_the_stand_in(),
                           floor_db, false);
    for (const auto &a : w.advice)
        w.topics.push_back(a.topic);
    return w;
}

SoundingSettings at_gain(int gain, double range = 20) {
    SoundingSettings s;
    s.gain = gain;
    s.range_m = range;
    return s;
}

} // namespace

TEST(Watcher, AGoodPictureNeedsNoWord) {
    const auto w = watch(test::basin(), at_gain(48), 60);
    EXPECT_THAT(w.topics, testing::IsEmpty());
    EXPECT_LT(w.health.share_full, 0.01);
    EXPECT_LT(w.health.share_black, 0.05);
    EXPECT_NEAR(w.health.useful_range_m, 20, 0.1);
    EXPECT_NEAR(w.health.altitude_m, 4.7, 0.15);
}

TEST(Watcher, TooHotAndTooDarkAreToldWithStepsThatHelp) {
    for (const int gain : {95, 5}) {
        auto w = watch(test::basin(), at_gain(gain), 60);
        ASSERT_THAT(w.topics, testing::Contains(gain > 50 ? "full" : "black"));
        int now = gain;
        // Taking the advice again and again ends in a picture that needs none.
        for (int i = 0; i < 6; ++i) {
            const auto a = std::find_if(w.advice.begin(), w.advice.end(), [](const TuningAdvice &t) {
                return t.topic == "full" || t.topic == "black";
            });
            if (a == w.advice.end())
                break;
            ASSERT_TRUE(a->set);
            EXPECT_EQ(gain > 50, a->set->gain < now) << i;
            EXPECT_THAT(a->text, HasSubstr("steps"));
            now = a->set->gain;
            w = watch(test::basin(), at_gain(now), 60);
        }
        EXPECT_THAT(w.topics, testing::Not(testing::Contains("full")));
        EXPECT_THAT(w.topics, testing::Not(testing::Contains("black")));
    }
}

TEST(Watcher, AnotherSonarIsHeard) {
    auto scene = test::basin();
    scene["sounder"] = {{"streak_every", 5}};
    const auto w = watch(scene, at_gain(48), 60);
    EXPECT_THAT(w.topics, testing::Contains("streaks"));
    EXPECT_NEAR(w.health.streak_share, 0.2, 0.1);
    EXPECT_LT(watch(test::basin(), at_gain(48)).health.streak_share, 0.03);
}

// Over silt in muddy water the finest band does not carry to 45 m.
TEST(Watcher, RangeThatIsNotReachedIsTold) {
    auto scene = test::basin(3, "silt");
    scene["water"]["suspended_db"] = -66;
    auto s = at_gain(70, 45);
    s.frequency_hz = 1150e3;
    const auto w = watch(scene, s, 30);
    ASSERT_THAT(w.topics, testing::Contains("range"));
    EXPECT_LT(w.health.useful_range_m, 30);
    EXPECT_GT(w.health.useful_range_m, 5);
}

TEST(Watcher, AWeakSideIsTold) {
    auto scene = test::basin();
    scene["sounder"] = {{"weak_left_db", 10}};
    const auto w = watch(scene, at_gain(48), 60);
    EXPECT_THAT(w.topics, testing::Contains("sides"));
    EXPECT_NEAR(w.health.left_over_right_db, -10, 2);
}

TEST(Watcher, TooFastIsTold) {
    auto scene = test::basin();
    scene["boat"]["speed_m_s"] = 6;
    const auto w = watch(scene, at_gain(48, 30), 60, 90);
    ASSERT_THAT(w.topics, testing::Contains("speed"));
    EXPECT_LT(w.health.pings_on_half_metre, 3);
}

// By the median of the water column, whose suspended matter glows in muddy water.
TEST(Watcher, GrainInTheWaterStripRaisesTheFloor) {
    auto scene = test::basin(8);
    scene["water"]["suspended_db"] = -52;
    const auto w = watch(scene, at_gain(60, 20), 34);
    ASSERT_THAT(w.topics, testing::Contains("floor"));
    for (const auto &a : w.advice)
        if (a.topic == "floor")
            EXPECT_GT(*a.raise_floor_db, 34);
}

TEST(Watcher, ForgetsLevelsAfterAChange) {
    Scan scan;
    test::sound(scan, test::basin(), 60, at_gain(95));
    Watcher watcher;
    for (std::size_t n = 0; n < scan.end(); ++n)
        watcher.add(scan, n);
    EXPECT_GT(watcher.health().share_full, 0.1);
    watcher.forget_levels();
    EXPECT_EQ(watcher.health().rows, 0u);
    EXPECT_TRUE(advice_from(watcher.health(), {}, test::gear_of_the_stand_in(), 0, false).empty());
}

namespace {

// Sounds on while the search turns the gain; where it ends, and in how many steps.
std::pair<int, int> searched(const nlohmann::json &scene, int from, std::optional<TuningSpot> spot = {}) {
    Scan scan;
    GainSearch search(test::gear_of_the_stand_in(), from, spot);
    test::sound(scan, scene, 160, at_gain(from), [&](sim::Sounder &sounder) {
        if (search.done())
            return;
        if (const auto to = search.look(scan, scan.end() - 1)) {
            auto s = sounder.settings();
            s.gain = *to;
            sounder.ask(s);
        }
    });
    EXPECT_TRUE(search.done());
    return {search.gain(), search.steps()};
}

} // namespace

TEST(GainSearch, EndsAtTheSameGainFromBothEnds) {
    for (const auto *ground : {"silt", "gravel"}) {
        const auto [hot, hot_steps] = searched(test::basin(5, ground), 100);
        const auto [dark, dark_steps] = searched(test::basin(5, ground), 0);
        EXPECT_LE(std::abs(hot - dark), 5) << ground;
        EXPECT_LE(hot_steps, GainSearch::most_steps);
        EXPECT_LE(dark_steps, GainSearch::most_steps);
        const auto w = watch(test::basin(5, ground), at_gain(hot), 60);
        EXPECT_LT(w.health.share_full, 0.01) << ground;
        EXPECT_LT(w.health.share_black, 0.1) << ground;
    }
}

TEST(GainSearch, ARightGainStays) {
    const auto [found, steps] = searched(test::basin(), 100);
    const auto [again, more] = searched(test::basin(), found);
    EXPECT_LE(std::abs(again - found), 2);
    EXPECT_LE(more, 1);
}

TEST(GainSearch, AHardSpotIsBroughtJustUnderFull) {
    auto scene = test::basin(5, "silt");
    scene["things"] = {
        {{"kind", "wall"}, {"path", {{68, 5}, {68, 115}}}, {"width_m", 0.6}, {"height_m", 1.2}}};
    // Its face stands 8 m aside; the transducer hangs 0.3 m to starboard.
    TuningSpot spot;
    spot.side = Side::starboard;
    spot.slant_m = std::hypot(7.4, 4.0);
    spot.hard = true;
    const auto [gain, steps] = searched(scene, 90, spot);
    Scan scan;
    test::sound(scan, scene, 60, at_gain(gain));
    const auto lost = lost_by_gain(scan, 0, scan.end(), spot);
    EXPECT_LT(lost.share_full, 0.1);
    const auto everywhere = searched(scene, 90).first;
    EXPECT_LT(gain, everywhere) << "the soft bottom alone would have it brighter";
}

TEST(GainSearch, WhatIsLostForGoodIsTold) {
    Scan hot, right;
    test::sound(hot, test::basin(), 40, at_gain(90));
    test::sound(right, test::basin(), 40, at_gain(48));
    const auto lost = lost_by_gain(hot, 0, hot.end());
    EXPECT_GT(lost.share_full, 0.05);
    EXPECT_THAT(lost.say(), HasSubstr("lost for good"));
    EXPECT_THAT(lost_by_gain(right, 0, right.end()).say(), HasSubstr("can still be levelled"));
    EXPECT_THAT(LostByGain().say(), HasSubstr("Nothing"));
    // From what is stored a gain is told without touching the device.
    GainSearch search(test::gear_of_the_stand_in(), 90);
    EXPECT_LT(search.from_stored(hot, 0, hot.end()).value_or(200), 75);
}

TEST(RangeFollower, WaitsAndDoesNotTwitch) {
    RangeFollower follower;
    const std::vector<double> steps{6, 9, 12, 15, 18, 22, 26, 30, 36};
    double range = 15, time = 0;
    int changes = 0;
    std::mt19937 random(2);
    std::normal_distribution<double> noise(0, 0.15);
    const auto run = [&](double depth, int seconds) {
        for (int i = 0; i < seconds * 10; ++i, time += 0.1)
            if (const auto to = follower.follow(time, depth + noise(random), range, steps)) {
                range = *to;
                ++changes;
            }
    };
    run(5.0, 60); // exactly at a step: noise must not move it
    EXPECT_LE(changes, 1);
    changes = 0;
    run(8.4, 20);
    EXPECT_EQ(range, 26);
    EXPECT_LE(changes, 2);
    const auto before = time;
    while (range != 9 && time < before + 30)
        run(2.9, 1);
    EXPECT_GE(time - before, 4) << "patience";
    EXPECT_EQ(range, 9);
    EXPECT_FALSE(follower.follow(time, std::nan(""), range, steps));
    EXPECT_FALSE(follower.follow(time, 3, range, {}));
}

namespace {

InstallationCheck::Verdict checked(const nlohmann::json &sounder) {
    auto scene = test::basin(4);
    // A dock wall to starboard all along.
    scene["things"] = {{{"kind", "wall"}, {"path", {{72, 2}, {72, 118}}}, {"width_m", 1}, {"height_m", 3}}};
    scene["sounder"] = sounder;
    Scan scan;
    test::sound(scan, scene, 960, at_gain(48));
    InstallationCheck check(Side::starboard);
    for (std::size_t n = 0; n < scan.end(); ++n)
        check.add(scan, n);
    EXPECT_TRUE(check.enough());
    return check.verdict();
}

} // namespace

TEST(InstallationCheck, RightSwappedTiltedAndWeak) {
    using Sides = InstallationCheck::Verdict::Sides;
    const auto right = checked(nlohmann::json::object());
    EXPECT_EQ(right.sides, Sides::right);
    EXPECT_FALSE(right.tilted);
    EXPECT_THAT(right.say(), HasSubstr("Left is left"));
    const auto swapped = checked({{"swapped", true}});
    EXPECT_EQ(swapped.sides, Sides::swapped);
    EXPECT_THAT(swapped.say(), HasSubstr("swapped"));
    const auto tilted = checked({{"roll_deg", 12}});
    EXPECT_TRUE(tilted.tilted) << tilted.tilt_deg;
    EXPECT_GT(std::fabs(tilted.tilt_deg), 6);
    EXPECT_LT(checked({{"roll_deg", -12}}).tilt_deg * tilted.tilt_deg, 0) << "the other way";
    const auto weak = checked({{"weak_left_db", 8}});
    EXPECT_TRUE(weak.uneven);
    EXPECT_THAT(weak.say(), HasSubstr("left side is"));
}

TEST(InstallationCheck, OpenWaterTellsNoSide) {
    Scan scan;
    test::sound(scan, test::basin(), 960, at_gain(48));
    InstallationCheck check(Side::port);
    for (std::size_t n = 0; n < scan.end(); ++n)
        check.add(scan, n);
    EXPECT_EQ(check.verdict().sides, InstallationCheck::Verdict::Sides::unsure);
}

// At a short range nothing but the surface and what is suspended is heard: the source is told as a bound, and
// what was known of it stays.
TEST(EstimateGear, WhatIsNotHeardIsNotMadeUp) {
    Scan scan;
    auto s = at_gain(55, 15);
    test::sound(scan, test::basin(), 120, s);
    WaterState water;
    water.shallowest_m = water.deepest_m = 5;
    Gear known = test::gear_of_the_stand_in();
    const auto e = estimate_gear(scan, 0, scan.end(), known, water);
    EXPECT_EQ(e.gear.bands[1].source_db, known.bands[1].source_db);
    EXPECT_NE(e.said.back().find("or more"), std::string::npos) << e.said.back();
}

// The stand-in's own figures are known; they are found again from what it sounded.
TEST(EstimateGear, FindsTheStandInsFigures) {
    const auto truth = test::gear_of_the_stand_in();
    WaterState water;
    water.shallowest_m = water.deepest_m = 5;
    water.suspended_db = -78;
    water.temperature_c = 14;
    for (std::size_t band = 0; band < truth.bands.size(); ++band) {
        Scan scan;
        auto s = at_gain(45, 60); // so far that the bottom sinks into the receiver's own noise
        s.frequency_hz = truth.bands[band].frequency_hz;
        auto scene = test::basin();
        scene["water"]["suspended_db"] = -90;
        test::sound(scan, scene, 150, s);
        Gear known;
        known.bands = {};
        const auto e = estimate_gear(scan, 0, scan.end(), known, water);
        ASSERT_EQ(e.gear.bands.size(), 1u);
        EXPECT_NEAR(e.gear.bands[0].frequency_hz, truth.bands[band].frequency_hz, 1e3);
        EXPECT_NEAR(e.gear.bands[0].along_deg, truth.bands[band].along_deg, 1e-6);
        EXPECT_NEAR(e.gear.bands[0].bandwidth_hz, truth.bands[band].bandwidth_hz, 1);
        EXPECT_NEAR(e.gear.bands[0].source_db, truth.bands[band].source_db, 6) << "band " << band;
        EXPECT_GT(e.gear.most_pings_a_second, 8);
        EXPECT_FALSE(e.said.empty());
    }
}
