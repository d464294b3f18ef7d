// Made-up lakes and their questions: the stand-in takes them, the figures follow from geometry, the schedule
// is Leitner's.
#include "practice/guest_set.hpp"
#include "practice/lesson.hpp"

#include "sim/scene.hpp"

#include <algorithm>
#include <cmath>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>
#include <set>

using namespace heron;
using testing::HasSubstr;

TEST(Practice, EachLakeIsOneThatTheStandInTakes) {
    std::set<Kind> kinds;
    for (std::uint32_t seed = 1; seed <= 40; ++seed) {
        const auto lake = practice_lake(seed, static_cast<int>(seed % 3));
        const auto scene = sim::read_scene(lake.scene, "practice");
        ASSERT_TRUE(scene) << seed << ": " << scene.error().line();
        EXPECT_EQ(scene->truth.size(), lake.things.size());
        for (const auto &t : lake.things) {
            kinds.insert(t.kind);
            EXPECT_LT(std::hypot(lake.aside_m(t), lake.altitude_m()), lake.range_m) << "in the picture";
            EXPECT_LT(t.height_m, lake.altitude_m());
        }
    }
    EXPECT_GE(kinds.size(), 7u);
    EXPECT_EQ(practice_lake(5, 1).scene, practice_lake(5, 1).scene);
}

// By hand: four metres over the bottom, three metres aside, a metre tall: the top lies √(3² + 3²) off, the
// shadow ends four metres aside, √(4² + 4²) off; 4 × (5.657 − 4.243) ÷ 5.657 = 1.
TEST(Practice, FiguresFollowFromTheTriangles) {
    PracticeLake lake;
    lake.depth_m = 4;
    lake.transducer_m = 0;
    PracticeThing t;
    t.at = {lake.track_east_m + 3, 10};
    t.height_m = 1;
    lake.things = {t};
    const auto f = shadow_figures(lake, t);
    EXPECT_NEAR(f.top_m, std::sqrt(18.0), 1e-9);
    EXPECT_NEAR(f.shadow_end_m, std::sqrt(32.0), 1e-9);
    EXPECT_NEAR(lake.altitude_m() * (f.shadow_end_m - f.top_m) / f.shadow_end_m, 1, 1e-9);
    const auto q = practice_question(lake, 0, Skill::height, 7, UnitSystem::metres);
    EXPECT_EQ(q.choices.at(q.right), "1.0 m");
    EXPECT_THAT(q.explains, HasSubstr("= 1.0 m"));
    const auto d = practice_question(lake, 0, Skill::distance, 7, UnitSystem::metres);
    EXPECT_EQ(d.choices.at(d.right), "3.0 m");
    EXPECT_THAT(d.choices, testing::Contains("5.0 m")) << "the way along the sound is what eyes take it for";
}

RC_GTEST_PROP(Practice, EveryQuestionHasOneRightAnswer, ()) {
    const auto lake = practice_lake(*rc::gen::inRange<std::uint32_t>(1, 5000), *rc::gen::inRange(0, 3));
    const auto units = *rc::gen::arbitrary<bool>() ? UnitSystem::feet : UnitSystem::metres;
    for (std::size_t i = 0; i < lake.things.size(); ++i)
        for (std::size_t s = 0; s < skill_count; ++s) { // on level ground "uphill" has an answer too
            const auto q = practice_question(lake, i, static_cast<Skill>(s), 3, units);
            RC_ASSERT(q.right < q.choices.size());
            RC_ASSERT(q.choices.size() >= 2 && q.choices.size() <= 4);
            RC_ASSERT(std::set<std::string>(q.choices.begin(), q.choices.end()).size() == q.choices.size());
            RC_ASSERT(!q.explains.empty() && !q.asks.empty());
            // Heights that no eye could tell apart are no choice.
            for (std::size_t a = 0; q.skill == Skill::height && a < q.choices.size(); ++a)
                for (std::size_t b = 0; b < a; ++b) {
                    const double x = std::stod(q.choices[a]), y = std::stod(q.choices[b]);
                    RC_ASSERT(std::fabs(x - y) > 0.1 * std::max(x, y));
                }
        }
}

// From the stern of the usual boat, worked by hand from its own measures: whatever the circle shows, the
// answer lies as much farther ahead as the seat sits aft of the head.
RC_GTEST_PROP(Practice, WhoSitsAtTheSternCastsAnotherWayThanTheCircleShows, ()) {
    const auto lake = practice_lake(3, 0);
    const auto q = practice_question(lake, 0, Skill::cast, *rc::gen::inRange<std::uint32_t>(1, 100'000),
                                     UnitSystem::metres);
    RC_ASSERT(q.riddle.has_value());
    const auto &r = *q.riddle;
    const double aft = r.boat.seats[r.seat].at.behind_bow_m - r.boat.head.behind_bow_m,
                 ahead = r.at.ahead_m + aft,
                 right = r.at.right_m - (r.boat.seats[r.seat].at.right_m - r.boat.head.right_m);
    const double hours = std::fmod(std::atan2(right, ahead) * degrees_per_radian / 30 + 12, 12);
    const auto &told = q.choices[q.right];
    const double told_hours = std::fmod(
        std::stod(told.substr(0, told.find(':'))) + std::stod(told.substr(told.find(':') + 1, 2)) / 60, 12);
    RC_ASSERT(std::fabs(std::remainder(told_hours - hours, 12)) <= 0.126);
    const auto comma = told.find(", ");
    RC_ASSERT(std::fabs(std::stod(told.substr(comma + 2)) - std::hypot(ahead, right)) <= 0.51);
}

TEST(Practice, ProgressOfFewerSkillsIsRead) {
    const auto p = PracticeProgress::of("5 1 1 2 1 1 0 1 2 1 1 2 3 1 1 2 4 1 0 1 5");
    EXPECT_EQ(p.questions, 5u);
    EXPECT_EQ(p.skills[4].asked, 1u);
    EXPECT_EQ(p.skills[5].asked, 0u);
    EXPECT_EQ(p.next(), Skill::cast) << "what was never asked comes first";
}

TEST(Practice, WhatIsMissedComesBackSoonWhatIsKnownSeldom) {
    PracticeProgress p;
    std::array<int, skill_count> asked{};
    // Heights are always missed, all else is known.
    for (int i = 0; i < 60; ++i) {
        const auto s = p.next();
        ++asked[static_cast<std::size_t>(s)];
        p.answer(s, s != Skill::height);
    }
    for (std::size_t i = 1; i < skill_count; ++i)
        EXPECT_GT(asked[0], 2 * asked[i]);
    EXPECT_EQ(p.skills[0].right, 0u);
    const auto back = PracticeProgress::of(p.text());
    EXPECT_EQ(back.text(), p.text());
    for (const char *bad : {"", "x", "3 1 2", "5 1 9 1 1 0 0 1 0 0 0 1 0 0 0 1 0 0 0 1 0"})
        EXPECT_EQ(PracticeProgress::of(bad).questions, 0u) << bad;
}

TEST(Practice, OnesOwnMarksAskWhatTheyTurnedOutToBe) {
    Mark m;
    m.name = "The secret gate";
    m.place = GeoPoint{46.5, -21.25};
    m.chip = {2, 2, {1, 2, 3, 4}};
    m.kind = Kind::boulder;
    EXPECT_FALSE(teaches(m)) << "nobody knows";
    m.confirmed = Confirmed::camera;
    EXPECT_FALSE(teaches(m));
    m.turned_out = Kind::built;
    EXPECT_TRUE(teaches(m));
    for (std::uint32_t seed = 0; seed < 20; ++seed) {
        const auto q = own_question(m, seed);
        EXPECT_EQ(q.choices.at(q.right), "built");
        EXPECT_EQ(std::set<std::string>(q.choices.begin(), q.choices.end()).size(), q.choices.size());
        EXPECT_THAT(q.explains, HasSubstr("camera"));
        EXPECT_THAT(q.asks + q.explains, testing::Not(HasSubstr("gate"))) << "no name is in it";
        EXPECT_EQ(q.picture, *m.chip.look());
    }
}

// The stand-in's bottom is the plane that the question is about, and its figures are those of the plane: by
// hand, 15 m off a thing of 0.3 m in 5 m of water on 8°, seen uphill from 7.1 m the shadow is 0.66 m long,
// downhill from 2.9 m 1.74 m over ground.
TEST(Practice, WhichLookIsUphillFollowsTheBottomThatIsSounded) {
    std::array<int, 3> told{};
    for (std::uint32_t seed = 1; seed <= 60; ++seed) {
        const auto lake = sloping_lake(seed, static_cast<int>(seed % 3));
        const auto scene = sim::read_scene(lake.scene, "practice");
        ASSERT_TRUE(scene) << scene.error().line();
        ASSERT_EQ(lake.things.size(), 1u);
        const auto &t = lake.things[0];
        const auto altitude = [&](double aside) {
            return scene->depth_m({t.at.east_m + aside, t.at.north_m}) - lake.transducer_m;
        };
        const auto q = practice_question(lake, 0, Skill::uphill, seed, UnitSystem::metres);
        ++told[q.right];
        const double first = altitude(-lake.passes_off_m), second = altitude(lake.passes_off_m);
        EXPECT_NEAR(lake.altitude_on(false), first, 0.12) << "but for the waves of the bottom";
        EXPECT_NEAR(lake.altitude_on(true), second, 0.12);
        EXPECT_GT(std::min(first, second), 1.8);
        if (q.right == 2)
            EXPECT_NEAR(first, second, 0.2);
        else
            EXPECT_GT(q.right == 0 ? first - second : second - first, 0.6)
                << "uphill is looked at from deeper water";
        EXPECT_LT(std::hypot(lake.passes_off_m, lake.altitude_m()), lake.range_m - 2);
    }
    for (const int n : told)
        EXPECT_GT(n, 8);
    PracticeLake by_hand;
    by_hand.depth_m = 5;
    by_hand.transducer_m = 0;
    by_hand.passes_off_m = 15;
    by_hand.rises_deg = 8;
    by_hand.things.resize(1);
    by_hand.things[0].height_m = 0.3;
    EXPECT_NEAR(by_hand.altitude_on(false), 7.1, 0.05);
    EXPECT_NEAR(by_hand.altitude_on(true), 2.9, 0.05);
    const auto q = practice_question(by_hand, 0, Skill::uphill, 1, UnitSystem::metres);
    EXPECT_EQ(q.right, 0u);
    EXPECT_THAT(q.explains, HasSubstr("0.7 m long"));
    EXPECT_THAT(q.explains, HasSubstr("1.8 m long")) << "1.74 over ground is 1.82 along the sound";
    // asin(7.1 cos 8° ÷ 15.8) and asin(2.9 cos 8° ÷ 15.8).
    EXPECT_THAT(q.explains, HasSubstr("26°"));
    EXPECT_THAT(q.explains, HasSubstr("10°"));
}

TEST(GuestSet, IsReadAsItWasWrittenAndHoldsNothingOfThePlace) {
    Mark m;
    m.name = "The secret gate";
    m.note = "by the third willow";
    m.place = GeoPoint{46.5, -21.25};
    m.chip = {2, 2, {1, 2, 3, 4}};
    m.kind = m.turned_out = Kind::boulder;
    m.confirmed = Confirmed::rod;
    GuestSet set{"Ellemoor", {own_question(m, 1), own_question(m, 2)}};
    const auto text = text_of(set);
    for (const char *secret : {"gate", "willow", "46.5", "-21.25"})
        EXPECT_THAT(text, testing::Not(HasSubstr(secret)));
    const auto back = guest_set_of(text, "a");
    ASSERT_TRUE(back) << back.error().line();
    EXPECT_EQ(back->title, "Ellemoor");
    ASSERT_EQ(back->questions.size(), 2u);
    for (std::size_t i = 0; i < 2; ++i) {
        EXPECT_EQ(back->questions[i].choices, set.questions[i].choices);
        EXPECT_EQ(back->questions[i].right, set.questions[i].right);
        EXPECT_EQ(back->questions[i].picture, set.questions[i].picture);
    }
}

TEST(GuestSet, WhatIsNoneIsRefusedWithItsField) {
    Mark m;
    m.chip = {2, 2, {1, 2, 3, 4}};
    m.turned_out = Kind::boulder;
    m.confirmed = Confirmed::rod;
    const auto good = text_of({"Ellemoor", {own_question(m, 1)}});
    const auto with = [&](const std::string &from, const std::string &to) {
        auto text = good;
        const auto at = text.find(from);
        EXPECT_NE(at, std::string::npos) << from;
        return text.replace(at, from.size(), to);
    };
    const std::pair<std::string, const char *> bad[] = {
        {"", "no set"},
        {"[1,2]", "no set"},
        {with("heron-practice", "other"), "no set"},
        {with("\"version\": 1", "\"version\": 9"), "version"},
        {with("Ellemoor", ""), "title"},
        {with("Ellemoor", std::string(501, 'x')), "title"},
        {with("\"right\":", "\"right\": 4, \"r\":"), "right"},
        {with("\"right\":", "\"right\": -1, \"r\":"), "right"},
        {with("iVBOR", "iVBOT"), "picture"},
        {with("\"boulder\"", "\"stump\""), "twice"},
        {with("\"asks\": \"What is it?\"", "\"asks\": 7"), "asks"}};
    for (const auto &[text, field] : bad) {
        const auto read = guest_set_of(text, "set");
        ASSERT_FALSE(read) << text.substr(0, 200);
        EXPECT_THAT(read.error().line(), HasSubstr(field));
    }
}
