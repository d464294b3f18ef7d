// What a day was spent on, what the guide puts right of it, and with which settings things proved to be so.
#include "story/day_afloat.hpp"
#include "story/settings_tried.hpp"

#include <cmath>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

using namespace heron;
using testing::ElementsAre;
using testing::HasSubstr;
using testing::IsEmpty;

namespace {

constexpr GeoPoint jetty{46.5, -21.25};
const UnixNs seven = *parse_rfc3339("2026-05-14T07:00:00Z");

// A boat that is sailed by the minute, heard once a second.
struct Boat {
    NavTrack nav;
    std::vector<RowFacts> rows;
    UnixNs now = seven;
    GeoPoint place = jetty;
    bool sonar = true;

    void sail(double minutes, double speed_m_s, double course_deg, double turn_deg_s = 0,
              double depth_m = 4) {
        for (int s = 0; s < static_cast<int>(minutes * 60); ++s) {
            nav.add(PositionSample{.time = now, .place = place});
            if (sonar) {
                RowFacts r;
                r.time = now;
                r.bottom = {.found = true, .altitude_m = depth_m - 0.5};
                rows.push_back(r);
            }
            place = point_along(place, course_deg, speed_m_s);
            course_deg += turn_deg_s;
            now += ns_per_s;
        }
    }
    std::vector<DayStep> steps() const { return steps_of(nav, rows, 0.5); }
    std::vector<DaySpan> doings() const { return doings_of(steps()); }
};

std::vector<Doing> what(const std::vector<DaySpan> &spans) {
    std::vector<Doing> out;
    for (const auto &s : spans)
        out.push_back(s.what);
    return out;
}

double minutes(UnixNs from, UnixNs to) {
    return seconds_between(from, to) / 60;
}

} // namespace

TEST(DayAfloat, ADayIsScanRunFishAndShoreByHowTheBoatWent) {
    Boat boat;
    boat.sail(30, 1.4, 90);
    boat.sail(30, 1.4, 270);
    boat.sail(6, 9, 0);
    boat.sail(40, 0.2, 200, 0.5); // drifting
    boat.now += 3600 * ns_per_s;  // lunch ashore
    boat.sail(20, 1.2, 45, 3);    // about one spot, a ring in two minutes
    const auto spans = boat.doings();
    ASSERT_THAT(what(spans), ElementsAre(Doing::scan, Doing::run, Doing::fish, Doing::ashore, Doing::fish));
    EXPECT_NEAR(minutes(seven, spans[0].to), 60, 1.5);
    EXPECT_NEAR(minutes(spans[1].from, spans[1].to), 6, 1.5);
    EXPECT_NEAR(minutes(spans[3].from, spans[3].to), 60, 1.5);
    for (std::size_t i = 1; i < spans.size(); ++i)
        EXPECT_EQ(spans[i].from, spans[i - 1].to);
}

TEST(DayAfloat, AStopToLookAndATurnDoNotTearALaneApart) {
    Boat boat;
    boat.sail(15, 1.4, 90);
    boat.sail(1, 0.1, 90);
    boat.sail(15, 1.4, 90);
    boat.sail(0.5, 1.4, 90, 6);
    boat.sail(15, 1.4, 270);
    EXPECT_THAT(what(boat.doings()), ElementsAre(Doing::scan));
}

TEST(DayAfloat, DepthIsFromTheSurfaceAndSpeedIsFromThePositionsWhereNobodyTellsIt) {
    Boat boat;
    boat.sail(5, 1.5, 90, 0, 6);
    const auto steps = boat.steps();
    ASSERT_EQ(steps.size(), 20u);
    EXPECT_NEAR(steps[4].depth_m, 6, 1e-9);
    EXPECT_NEAR(steps[4].speed_m_s, 1.5, 0.01);
    EXPECT_NEAR(steps[4].straight, 1, 0.01);
    // Nothing but a receiver and a depth sounder.
    NavTrack nav;
    nav.add(DepthSample{.time = seven, .below_transducer_m = 3, .to_waterline_m = 0.4});
    const auto plain = steps_of(nav, {}, 0.5);
    ASSERT_EQ(plain.size(), 1u);
    EXPECT_NEAR(plain[0].depth_m, 3.4, 1e-9);
    EXPECT_TRUE(std::isnan(plain[0].speed_m_s));
    EXPECT_THAT(steps_of({}, {}, 0), IsEmpty());
    EXPECT_THAT(doings_of({}), IsEmpty());
}

TEST(DayAfloat, TimesOfOtherCenturiesAreNoDay) {
    NavTrack nav;
    std::vector<RowFacts> rows(3);
    rows[0].time = seven;
    rows[1].time = std::numeric_limits<UnixNs>::max();
    rows[2].time = seven + 150 * ns_a_year;
    EXPECT_EQ(steps_of(nav, rows, 0.5).size(), 1u);
}

TEST(DayAfloat, WhatTheGuideSaysTakesThePlaceOfTheGuess) {
    Boat boat;
    boat.sail(30, 1.4, 90);
    boat.sail(30, 0.2, 90);
    const auto guessed = boat.doings();
    ASSERT_EQ(guessed.size(), 2u);
    const DaySpan said{guessed[1].from, guessed[1].from + 600 * ns_per_s, Doing::ashore};
    const auto spans = put_right(guessed, std::vector{said});
    ASSERT_THAT(what(spans), ElementsAre(Doing::scan, Doing::ashore, Doing::fish));
    EXPECT_TRUE(spans[1].by_hand);
    EXPECT_FALSE(spans[2].by_hand);
    // Beyond the day's ends nothing is said.
    const auto wide = put_right(guessed, std::vector{DaySpan{0, seven + 24 * 3600 * ns_per_s, Doing::run}});
    ASSERT_EQ(wide.size(), 1u);
    EXPECT_EQ(wide[0].from, guessed.front().from);
    EXPECT_EQ(wide[0].to, guessed.back().to);
}

// However a guide corrects, the day stays whole: no hole, no overlap, and the last word holds where it was
// said.
RC_GTEST_PROP(DayAfloat, PuttingRightLeavesTheDayWhole, ()) {
    const auto stretch = rc::gen::pair(rc::gen::inRange(-5, 125), rc::gen::inRange(1, 60));
    const auto said = *rc::gen::container<std::vector<std::pair<int, int>>>(stretch);
    const auto minute = 60 * ns_per_s;
    const std::vector<DaySpan> guessed{{seven, seven + 40 * minute, Doing::scan},
                                       {seven + 40 * minute, seven + 120 * minute, Doing::fish}};
    std::vector<DaySpan> by_hand;
    for (std::size_t i = 0; i < said.size(); ++i)
        by_hand.push_back({seven + said[i].first * minute, seven + (said[i].first + said[i].second) * minute,
                           static_cast<Doing>(i % 4)});
    const auto spans = put_right(guessed, by_hand);
    RC_ASSERT(spans.front().from == seven);
    RC_ASSERT(spans.back().to == seven + 120 * minute);
    for (std::size_t i = 1; i < spans.size(); ++i)
        RC_ASSERT(spans[i].from == spans[i - 1].to);
    for (const auto &s : spans)
        RC_ASSERT(s.to > s.from);
    if (!by_hand.empty()) {
        const auto &last = by_hand.back();
        for (const auto &s : spans)
            if (s.from < last.to && s.to > last.from)
                RC_ASSERT(s.what == last.what && s.by_hand);
    }
}

TEST(DayAfloat, NotesOfDaysComeBackAsTheyWereAndOthersAreRefused) {
    DaysNotes days;
    days["2026-05-14"] = {"Ida and Bram", {{seven, seven + 600 * ns_per_s, Doing::fish, true}}, {}};
    days["2026-05-15"] = {};
    days["2026-05-16"].conditions = {"light", "", "stained", "low", 12.5, -1.2};
    const auto back = days_from_json(days_to_json(days));
    ASSERT_TRUE(back) << back.error().happened;
    EXPECT_EQ(back->at("2026-05-14"), days["2026-05-14"]);
    EXPECT_EQ(back->at("2026-05-16"), days["2026-05-16"]);
    EXPECT_FALSE(back->contains("2026-05-15")) << "nothing was written of it";
    for (const char *bad :
         {"[]", "{", R"({"noon":{}})", R"({"2026-05-14":7})", R"({"2026-05-14":{"conditions":7}})",
          R"({"2026-05-14":{"conditions":{"wind":3}}})",
          R"({"2026-05-14":{"conditions":{"temperature_c":80}}})",
          R"({"2026-05-14":{"conditions":{"level_m":1e300}}})",
          R"({"2026-05-14":{"conditions":{"temperature_c":"warm"}}})", R"({"2026-05-14":{"aboard":7}})",
          R"({"2026-05-14":{"doing":[{"from":"x"}]}})",
          R"({"2026-05-14":{"doing":[{"from":"2026-05-14T08:00:00Z",
                               "to":"2026-05-14T07:00:00Z","what":"fish"}]}})",
          R"({"2026-05-14":{"doing":[{"from":"2026-05-14T07:00:00Z",
                               "to":"2026-05-14T08:00:00Z","what":"sleep"}]}})"})
        EXPECT_FALSE(days_from_json(bad)) << bad;
    EXPECT_FALSE(days_from_json(R"({"2026-05-14":{"aboard":")" + std::string(500, 'x') + "\"}}"));
}

namespace {

Mark seen(double range_m, Family family, UnixNs time = seven) {
    Mark m;
    m.lake = "Ellemoor Water";
    m.family = family;
    m.time = time;
    m.range_setting_m = range_m;
    m.frequency_hz = 770e3;
    m.depth_m = Estimate{4, 0.1};
    return m;
}

} // namespace

TEST(SettingsTried, SecondLooksAndWhatWasFoundOutJudgeThem) {
    std::vector<Mark> marks;
    for (int i = 0; i < 6; ++i) {
        auto m = seen(25, Family::structure);
        m.confirmed = Confirmed::camera;
        m.turned_out = i == 0 ? Kind::fish : i == 1 ? Kind::none : Kind::stump;
        marks.push_back(m);
    }
    auto again = seen(40, Family::fish);
    again.sightings = {sighting_of(again), sighting_of(again)};
    again.sightings[1].time += 3600 * ns_per_s;
    again.sightings[1].family = Family::structure;
    marks.push_back(again);
    auto at_once = seen(40, Family::fish);
    at_once.sightings = {sighting_of(at_once), sighting_of(at_once)};
    at_once.sightings[1].time += 60 * ns_per_s;
    marks.push_back(at_once);
    marks.push_back(seen(40, Family::structure)); // never looked at again
    const auto tried = settings_tried(marks, UnitSystem::feet);
    ASSERT_EQ(tried.size(), 2u);
    EXPECT_EQ(tried[0].range_m, 25);
    EXPECT_EQ(tried[0].looked, 6u);
    EXPECT_EQ(tried[0].borne_out, 5u);
    EXPECT_EQ(tried[0].depth, "10 to 15 ft");
    EXPECT_FALSE(tried[0].too_few);
    EXPECT_EQ(tried[1].looked, 1u);
    EXPECT_EQ(tried[1].borne_out, 0u);
    EXPECT_TRUE(tried[1].too_few);
}
