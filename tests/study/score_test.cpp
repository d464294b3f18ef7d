// How a reading is held against the truth: every figure of docs/accuracy.md passes through here.
#include "study/parallel.hpp"
#include "study/score.hpp"

#include <atomic>
#include <cmath>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <numeric>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;
using namespace heron::study;

namespace {

const LocalPlane &lake() {
    static const LocalPlane plane({46.5, -21.25});
    return plane;
}

Contact told(Kind kind, double east, double north, double confidence) {
    Contact c;
    c.kind = kind;
    c.family = family_of(kind);
    c.placement = c.family == Family::fish ? Placement::suspended : Placement::on_bottom;
    c.confidence = confidence;
    c.chances[static_cast<std::size_t>(kind)] = confidence;
    c.chances[0] = 1 - confidence;
    c.place = LocatedPoint{lake().to_globe({east, north}), {0.04, 0.04, 0}};
    return c;
}

TrueThing thing(Kind kind, double east, double north) {
    TrueThing t;
    t.kind = kind;
    t.at = {east, north};
    t.suspended = family_of(kind) == Family::fish;
    t.seen = t.stands_out = true;
    return t;
}

// The named cell of a line of the table; 0 is the name of the row.
std::string cell(const Score &s, std::size_t which) {
    const auto text = line("row", s);
    std::vector<std::string> cells;
    std::size_t from = text.find('|');
    while (from != std::string::npos) {
        const auto to = text.find('|', from + 1);
        if (to == std::string::npos)
            break;
        cells.push_back(text.substr(from + 2, to - from - 3));
        from = to;
    }
    return cells.at(which);
}

} // namespace

TEST(Score, APerfectReadingIsPerfect) {
    const std::vector<TrueThing> truth{thing(Kind::boulder, 0, 0), thing(Kind::fish, 10, 3),
                                       thing(Kind::hole, -8, 5)};
    std::vector<Contact> all;
    all.reserve(truth.size());
    for (const auto &t : truth)
        all.push_back(told(t.kind, t.at.x, t.at.y, 0.9));
    const auto s = score(all, truth, lake(), 0.5);
    EXPECT_EQ(s.things, 3);
    EXPECT_EQ(s.found, 3);
    EXPECT_EQ(s.contacts, 3);
    EXPECT_EQ(s.right, 3);
    EXPECT_EQ(s.family, s.family_of);
    EXPECT_EQ(s.placement, s.placement_of);
    EXPECT_EQ(s.kind, s.kind_of);
    EXPECT_EQ(s.doubles, 0);
    for (const double e : s.place_error)
        EXPECT_NEAR(e, 0, 1e-6);
    EXPECT_EQ(cell(s, 1), "3");
    EXPECT_EQ(cell(s, 2), "1.00");
    EXPECT_EQ(cell(s, 3), "1.00");
}

TEST(Score, ASecondContactAtOneThingIsADoubleAndTheLikelierAnswers) {
    const std::vector<TrueThing> truth{thing(Kind::stump, 0, 0)};
    const auto s =
        score({told(Kind::boulder, 0.1, 0, 0.6), told(Kind::stump, 0.5, 0.2, 0.9)}, truth, lake(), 0.5);
    EXPECT_EQ(s.found, 1);
    EXPECT_EQ(s.contacts, 2);
    EXPECT_EQ(s.right, 1);
    EXPECT_EQ(s.doubles, 1);
    EXPECT_EQ(s.kind, 1) << "the surer one is the stump";
    EXPECT_EQ(s.false_as.count("boulder (double)"), 1u);
}

// Within 1.4 m and half its length; in the water, where the distance aside is not known, within a third of
// the slant range more.
TEST(Score, ReachGrowsWithTheThingAndInTheWater) {
    auto log = thing(Kind::log, 0, 0);
    log.length_m = 4;
    EXPECT_EQ(score({told(Kind::log, 3.3, 0, 0.9)}, {log}, lake(), 0.5).found, 1);
    EXPECT_EQ(score({told(Kind::log, 3.5, 0, 0.9)}, {log}, lake(), 0.5).found, 0);
    auto fish = thing(Kind::fish, 0, 0);
    auto c = told(Kind::fish, 4, 0, 0.9);
    EXPECT_EQ(score({c}, {fish}, lake(), 0.5).found, 0);
    c.zone = Zone::water;
    c.slant_m = 9;
    EXPECT_EQ(score({c}, {fish}, lake(), 0.5).found, 1);
}

TEST(Score, BelowTheWorkingPointNothingIsToldButConfidenceIsStillHeldAgainstTheTruth) {
    const std::vector<TrueThing> truth{thing(Kind::boulder, 0, 0)};
    const auto s = score({told(Kind::boulder, 0, 0, 0.49)}, truth, lake(), 0.5);
    EXPECT_EQ(s.found, 0);
    EXPECT_EQ(s.contacts, 0);
    ASSERT_EQ(s.confidence.size(), 1u);
    EXPECT_TRUE(s.confidence[0].second);
}

TEST(Score, WhatDoesNotStandOutNeitherCountsAsMissedNorAsFalse) {
    auto faint = thing(Kind::fish, 0, 0), unseen = thing(Kind::log, 20, 0);
    faint.stands_out = false;
    unseen.seen = false;
    const auto missed = score({}, {faint, unseen}, lake(), 0.5);
    EXPECT_EQ(missed.things, 0);
    const auto found = score({told(Kind::fish, 0, 0, 0.8)}, {faint, unseen}, lake(), 0.5);
    EXPECT_EQ(found.things, 0);
    EXPECT_EQ(found.right, 1);
    EXPECT_EQ(found.family_of, 1);
}

TEST(Score, UnsureIsRealButOfNoFamily) {
    auto c = told(Kind::boulder, 0, 0, 0.8);
    c.family = Family::unsure;
    const auto s = score({c}, {thing(Kind::boulder, 0, 0)}, lake(), 0.5);
    EXPECT_EQ(s.found, 1);
    EXPECT_EQ(s.family, 0);
    EXPECT_TRUE(s.confidence[0].second);
    // The wrong family is found, and wrong.
    const auto wrong = score({told(Kind::fish, 0, 0, 0.8)}, {thing(Kind::boulder, 0, 0)}, lake(), 0.5);
    EXPECT_EQ(wrong.found, 1);
    EXPECT_EQ(wrong.right, 1);
    EXPECT_EQ(wrong.family, 0);
    EXPECT_EQ(wrong.placement, 0);
    EXPECT_FALSE(wrong.confidence[0].second);
}

TEST(Score, WhatAllPositionsWanderIsTakenOutFromFourPairsOn) {
    for (const int n : {3, 6}) {
        std::vector<TrueThing> truth;
        std::vector<Contact> all;
        for (int i = 0; i < n; ++i) {
            truth.push_back(thing(Kind::boulder, 12.0 * i, 0));
            all.push_back(told(Kind::boulder, 12.0 * i + 0.9, -0.6, 0.9));
        }
        const auto s = score(all, truth, lake(), 0.5);
        ASSERT_EQ(s.place_error.size(), static_cast<std::size_t>(n));
        for (const double e : s.place_error)
            EXPECT_NEAR(e, n >= 4 ? 0 : std::hypot(0.9, 0.6), 1e-3) << n;
    }
}

TEST(Score, HeightsOfOtherFamiliesAndLeastHeightsAreNoErrors) {
    auto t = thing(Kind::stump, 0, 0);
    t.height_m = 1;
    auto c = told(Kind::stump, 0, 0, 0.9);
    c.height_m = Estimate{1.2, 0.15};
    auto s = score({c}, {t}, lake(), 0.5);
    ASSERT_EQ(s.height_error.size(), 1u);
    EXPECT_NEAR(s.height_error[0], 0.2, 1e-9);
    EXPECT_NEAR(s.height_relative.at(0), 0.2, 1e-9);
    EXPECT_EQ(s.height_within, 1);
    c.height_m->sd = 0.09;
    EXPECT_EQ(score({c}, {t}, lake(), 0.5).height_within, 0);
    c.height_at_least = true;
    EXPECT_TRUE(score({c}, {t}, lake(), 0.5).height_error.empty());
    c.height_at_least = false;
    c.family = Family::bottom;
    EXPECT_TRUE(score({c}, {t}, lake(), 0.5).height_error.empty());
}

// By hand: told 0.25 and right 1 in 2 over 4, told 0.85 and right 4 in 4 over 4: (0.25·4 + 0.15·4) ÷ 8.
TEST(Score, TheCalibrationErrorIsTheMeanGapOfTheTenths) {
    Score s;
    for (int i = 0; i < 4; ++i) {
        s.confidence.emplace_back(0.25, i % 2 == 0);
        s.confidence.emplace_back(0.85, true);
    }
    EXPECT_EQ(cell(s, 11), "0.200 (8)");
}

// What is counted together is what is counted apart and added.
RC_GTEST_PROP(Score, AddsUpAndDoesNotMindTheOrder, ()) {
    const auto seed = *rc::gen::arbitrary<std::uint32_t>();
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> share(0, 1);
    std::vector<TrueThing> truth;
    std::vector<Contact> all;
    for (int i = 0; i < 12; ++i) {
        const auto kind = static_cast<Kind>(1 + static_cast<int>(share(random) * 15.999));
        truth.push_back(thing(kind, 10.0 * i, 8 * share(random)));
        if (share(random) < 0.8)
            all.push_back(told(static_cast<Kind>(1 + static_cast<int>(share(random) * 15.999)),
                               10.0 * i + 2 * share(random) - 1, truth.back().at.y + share(random) - 0.5,
                               0.05 + 0.9 * share(random)));
        if (share(random) < 0.4)
            all.push_back(told(Kind::fish, 10.0 * i + 5, -20, 0.05 + 0.9 * share(random)));
    }
    const auto a = score(all, truth, lake(), 0.5);
    std::shuffle(all.begin(), all.end(), random);
    std::shuffle(truth.begin(), truth.end(), random);
    const auto b = score(all, truth, lake(), 0.5);
    RC_ASSERT(a.found == b.found);
    RC_ASSERT(a.contacts == b.contacts);
    RC_ASSERT(a.right == b.right);
    RC_ASSERT(a.family == b.family);
    RC_ASSERT(a.kind == b.kind);
    RC_ASSERT(a.doubles == b.doubles);
    RC_ASSERT(cell(a, 11) == cell(b, 11));
    RC_ASSERT(a.found <= a.things && a.right <= a.contacts);
    RC_ASSERT(a.confidence.size() == all.size());
    Score twice;
    twice.add(a);
    twice.add(b);
    RC_ASSERT(twice.things == 2 * a.things);
    RC_ASSERT(cell(twice, 2) == cell(a, 2));
    RC_ASSERT(cell(twice, 3) == cell(a, 3));
    RC_ASSERT(cell(twice, 11).substr(0, 5) == cell(a, 11).substr(0, 5));
}

TEST(InParallel, EachNumberOnceOnAnyNumberOfThreads) {
    for (const unsigned threads : {1U, 2U, 7U}) {
        std::vector<std::atomic<int>> times(101);
        in_parallel(times.size(), threads, [&](std::size_t i) { ++times.at(i); });
        for (const auto &n : times)
            EXPECT_EQ(n, 1) << threads;
        in_parallel(0, threads, [](std::size_t) { FAIL() << "there is nothing to do"; });
    }
}
