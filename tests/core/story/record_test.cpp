// What a record supports: against scipy, worked examples of the books, and a published place of the sun.
#include "plan/round.hpp"
#include "programs.hpp"
#include "story/record.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <numeric>
#include <random>
#include <rapidcheck/gtest.h>
#include <sstream>

using namespace heron;
using testing::HasSubstr;

// Wilson's interval of 8 of 10 at 95 in 100, worked by its formula: 0.490 to 0.943.
TEST(Statistics, WilsonsIntervalIsTheFormulas) {
    const auto w = wilson(8, 10, 0.95);
    EXPECT_NEAR(w.low, 0.490, 0.001);
    EXPECT_NEAR(w.high, 0.943, 0.001);
    EXPECT_EQ(wilson(0, 0).high, 1);
    EXPECT_EQ(wilson(0, 5).low, 0);
    EXPECT_NEAR(wilson(5, 5).high, 1, 1e-9);
}

TEST(Statistics, FishersTestIsScipys) {
    std::ostringstream ask;
    const std::vector<std::array<std::size_t, 4>> tables{{8, 2, 1, 5}, {3, 1, 1, 3}, {10, 0, 0, 10},
                                                         {4, 6, 5, 5}, {0, 7, 3, 2}, {30, 20, 10, 40}};
    for (const auto &t : tables)
        ask << "print(fisher_exact([[" << t[0] << "," << t[1] << "],[" << t[2] << "," << t[3] << "]])[1]);";
    const auto ran =
        test::run("/usr/bin/python3 -c \"from scipy.stats import fisher_exact; " + ask.str() + "\"");
    ASSERT_EQ(ran.code, 0) << ran.out;
    std::istringstream lines(ran.out);
    for (const auto &t : tables) {
        double theirs = 0;
        ASSERT_TRUE(lines >> theirs);
        EXPECT_NEAR(fisher_exact(t[0], t[1], t[2], t[3]), theirs, 1e-9);
    }
}

// The fifteen values of Benjamini and Hochberg's own example (1995, section 3.2): four are taken at a rate of
// 0.05.
TEST(Statistics, TheFalseRateIsTheirOwnExamples) {
    const std::vector<double> p{0.0001, 0.0004, 0.0019, 0.0095, 0.0201, 0.0278, 0.0298, 0.0344,
                                0.0459, 0.3240, 0.4262, 0.5719, 0.6528, 0.7590, 1.0000};
    const auto q = benjamini_hochberg(p);
    EXPECT_EQ(std::count_if(q.begin(), q.end(), [](double v) { return v <= 0.05; }), 4);
    EXPECT_NEAR(q[0], 0.0015, 1e-9);
    EXPECT_TRUE(std::is_sorted(q.begin(), q.end()));
}

// J. Meeus, Astronomical Algorithms (2nd ed.), example 25.a: 1992 October 13, 0 h TD: declination −7.785°.
TEST(Sun, StandsWhereTheBooksSay) {
    const auto time = *parse_rfc3339("1992-10-13T00:00:00Z");
    EXPECT_NEAR(sun_at({0, 0}, time).declination_deg, -7.785, 0.02);
    // At the equinox of March 2026 (20 March, 14:46 UTC) it stands over the equator.
    EXPECT_NEAR(sun_at({0, 0}, *parse_rfc3339("2026-03-20T14:46:00Z")).declination_deg, 0, 0.02);
    // Rise and set in London at midsummer: 04:43 and 21:21 by summer time, as almanacs print them (from
    // memory).
    const auto day = sun_times({51.5, -0.13}, *parse_rfc3339("2026-06-21T00:00:00Z"));
    ASSERT_TRUE(day.rises && day.sets);
    EXPECT_NEAR(seconds_between(*parse_rfc3339("2026-06-21T03:43:00Z"), *day.rises), 0, 90);
    EXPECT_NEAR(seconds_between(*parse_rfc3339("2026-06-21T20:21:00Z"), *day.sets), 0, 90);
    EXPECT_FALSE(sun_times({75, 20}, *parse_rfc3339("2026-06-21T00:00:00Z")).sets) << "it stays up all day";
    // At noon of the sun on the Greenwich meridian in June it stands south, 90° − 51.5° + 23.4° high.
    const auto noon = sun_at({51.5, 0}, *parse_rfc3339("2026-06-21T12:02:00Z"));
    EXPECT_NEAR(noon.elevation_deg, 61.9, 0.1);
    EXPECT_NEAR(noon.azimuth_deg, 180, 1);
    EXPECT_EQ(daylight_at({51.5, 0}, *parse_rfc3339("2026-12-21T00:00:00Z")), Daylight::night);
    EXPECT_EQ(daylight_at({51.5, 0}, *parse_rfc3339("2026-06-21T12:00:00Z")), Daylight::high);
}

namespace {

Mark visited(const std::string &id, Kind kind, std::vector<std::pair<const char *, Outcome::What>> outcomes,
             double depth = 4) {
    Mark m;
    m.id = id;
    m.kind = kind;
    m.family = family_of(kind);
    m.place = GeoPoint{46.5, -21.25};
    m.depth_m = Estimate{depth, 0.1};
    for (const auto &[time, what] : outcomes) {
        Outcome o;
        o.time = *parse_rfc3339(time);
        o.what = what;
        m.outcomes.push_back(o);
    }
    return m;
}

} // namespace

TEST(Record, CountsVisitsNotWords) {
    using What = Outcome::What;
    const auto visits = visits_of({visited("a", Kind::stump,
                                           {{"2026-05-14T06:00:00Z", What::looked},
                                            {"2026-05-14T06:30:00Z", What::fished},
                                            {"2026-05-14T07:00:00Z", What::landed},
                                            {"2026-05-15T18:00:00Z", What::fished}})},
                                  {{"2026-05-14", {"south west", "overcast", "", "", 12.9, -1.2}}});
    ASSERT_EQ(visits.size(), 2u) << "a look is none, and half an hour later is the same visit";
    EXPECT_TRUE(visits[0].bitten);
    EXPECT_FALSE(visits[1].bitten);
    EXPECT_EQ(visits[0].of.at("kind"), "stump");
    EXPECT_EQ(visits[0].of.at("depth"), "4 to 6 m");
    EXPECT_EQ(visits[0].of.at("wind"), "south west");
    EXPECT_FALSE(visits[1].of.contains("wind"));
    EXPECT_EQ(visits[0].of.at("water temperature"), "12 to 14 °C");
    EXPECT_EQ(visits[0].of.at("lake level"), "-1.5 to -1 m");
    EXPECT_EQ(temperature_band(12.9, UnitSystem::feet), "52 to 56 °F");
    EXPECT_EQ(temperature_band(-0.5, UnitSystem::metres), "-2 to 0 °C");
    EXPECT_EQ(level_band(0.2, UnitSystem::metres), "0 to 0.5 m");
    EXPECT_EQ(level_band(-0.1, UnitSystem::feet), "-2 to 0 ft");
    EXPECT_EQ(visits[0].of.at("month"), "05");
}

TEST(Record, SaysHowSureAndWhatElseItMayBe) {
    using What = Outcome::What;
    std::vector<Mark> marks;
    // Stumps in the morning, eight of ten bitten; boulders in the evening, two of twelve.
    for (int i = 0; i < 10; ++i)
        marks.push_back(visited(fmt::format("s{}", i), Kind::stump,
                                {{"2026-05-14T07:00:00Z", i < 8 ? What::bite : What::fished}}));
    for (int i = 0; i < 12; ++i)
        marks.push_back(visited(fmt::format("b{}", i), Kind::boulder,
                                {{"2026-05-14T19:00:00Z", i < 2 ? What::bite : What::fished}}));
    marks.push_back(visited("l", Kind::log, {{"2026-05-14T19:00:00Z", What::bite}}));
    const auto r = record_of(visits_of(marks));
    EXPECT_EQ(r.visits, 23u);
    EXPECT_EQ(r.bitten, 11u);
    const auto stump = std::find_if(r.findings.begin(), r.findings.end(), [](const Finding &f) {
        return f.factor == "kind" && f.value == "stump";
    });
    ASSERT_NE(stump, r.findings.end());
    EXPECT_EQ(stump->k, 8u);
    EXPECT_EQ(stump->n, 10u);
    EXPECT_EQ(stump->rest_k, 3u);
    EXPECT_EQ(stump->rest_n, 13u);
    EXPECT_NEAR(stump->chance, fisher_exact(8, 2, 3, 10), 1e-12);
    EXPECT_GE(stump->false_rate, stump->chance);
    EXPECT_THAT(stump->rival, HasSubstr("hour")) << "the stumps were all visited in the morning";
    const auto log =
        std::find_if(r.findings.begin(), r.findings.end(), [](const Finding &f) { return f.value == "log"; });
    EXPECT_TRUE(log->too_few);
    EXPECT_TRUE(r.findings.back().too_few) << "what has too few visits stands last";
    EXPECT_TRUE(record_of({}).findings.empty());
}

// Pure chance is told as such: over many records the smallest false rate is hardly ever small.
TEST(Record, ChanceAloneIsSeldomToldAsMore) {
    using What = Outcome::What;
    std::mt19937 random(5);
    int told = 0;
    constexpr int records = 200;
    for (int k = 0; k < records; ++k) {
        std::vector<Mark> marks;
        constexpr std::array<Kind, 3> kinds{Kind::stump, Kind::boulder, Kind::log};
        for (int i = 0; i < 40; ++i)
            marks.push_back(visited(fmt::format("m{}", i), kinds[random() % 3],
                                    {{random() % 2 == 0 ? "2026-05-14T07:00:00Z" : "2026-08-14T19:00:00Z",
                                      random() % 3 == 0 ? What::bite : What::fished}},
                                    1 + static_cast<double>(random() % 8)));
        const auto r = record_of(visits_of(marks));
        told += !r.findings.empty() && r.findings[0].false_rate < 0.1;
    }
    EXPECT_LE(told, records / 8) << "asked for is a tenth";
}

TEST(Round, AgreesWithAllOrdersTriedAndMendsLongerOnes) {
    std::mt19937 random(3);
    const auto somewhere = [&] {
        return GeoPoint{46.5 + static_cast<double>(random() % 1000) / 1e5,
                        -21.25 + static_cast<double>(random() % 1000) / 1e5};
    };
    for (int k = 0; k < 5; ++k) {
        const auto start = somewhere();
        std::vector<GeoPoint> places;
        for (int i = 0; i < 7; ++i)
            places.push_back(somewhere());
        std::vector<std::size_t> order(7);
        std::iota(order.begin(), order.end(), 0);
        double least = 1e300;
        do
            least = std::min(least, length_of_round(start, places, order));
        while (std::next_permutation(order.begin(), order.end()));
        EXPECT_NEAR(length_of_round(start, places, round_over(start, places)), least, 1e-6);
        for (int i = 0; i < 33; ++i)
            places.push_back(somewhere());
        const auto many = round_over(start, places);
        std::vector<std::size_t> plain(places.size()), sorted = many;
        std::iota(plain.begin(), plain.end(), 0);
        std::sort(sorted.begin(), sorted.end());
        EXPECT_EQ(sorted, plain) << "each once";
        EXPECT_LT(length_of_round(start, places, many), 0.5 * length_of_round(start, places, plain));
    }
    EXPECT_TRUE(round_over({46.5, -21.25}, {}).empty());
}
