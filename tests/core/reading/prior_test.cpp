// How much of what was found is real, learned from the recording itself.
#include "reading/prior.hpp"

#include <cmath>
#include <gtest/gtest.h>
#include <numeric>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;

TEST(RecordingPrior, NothingFoundOrNothingKnownShiftsNothing) {
    RecordingPrior prior;
    EXPECT_DOUBLE_EQ(prior.shift(Zone::ground, 0.2), 0);
    for (int i = 0; i < 100; ++i)
        prior.add(Zone::ground, 0.9);
    EXPECT_DOUBLE_EQ(prior.shift(Zone::ground, 0), 0) << "weights that tell no share";
    EXPECT_DOUBLE_EQ(prior.shift(Zone::water, 0.2), 0) << "each zone by itself";
    EXPECT_DOUBLE_EQ(prior.shift(Zone::track, 0.2), 0);
}

TEST(RecordingPrior, EmptyWaterIsBelievedLessAndFullWaterMore) {
    RecordingPrior empty, few, full;
    for (int i = 0; i < 150; ++i) {
        empty.add(Zone::dark, 0.05);
        full.add(Zone::dark, i % 2 == 0 ? 0.95 : 0.1);
    }
    few.add(Zone::dark, 0.05);
    EXPECT_LT(empty.shift(Zone::dark, 0.2), -0.8);
    EXPECT_GT(full.shift(Zone::dark, 0.2), 0.7);
    EXPECT_NEAR(few.shift(Zone::dark, 0.2), 0, 0.1) << "one says little";
    // Thirty pseudo-counts hold it, however empty.
    EXPECT_GT(empty.shift(Zone::dark, 0.2), -2.5);
}

// Candidates drawn with another share of real ones than the chances were made for: the share that is found
// lies between the one that was expected and the true one, and near the true one where there are many.
TEST(RecordingPrior, FindsTheShareThatIsTrue) {
    constexpr double expected = 0.2;
    for (const double truth : {0.05, 0.2, 0.5}) {
        std::mt19937 random(3);
        std::normal_distribution<double> spread(0, 1);
        RecordingPrior prior;
        for (int i = 0; i < 1500; ++i) {
            const bool real = std::uniform_real_distribution<double>(0, 1)(random) < truth;
            // Two bells two apart: the log odds by Bayes' rule.
            const double x = spread(random) + (real ? 2 : 0);
            const double odds = std::exp(2 * x - 2) * expected / (1 - expected);
            prior.add(Zone::ground, odds / (1 + odds));
        }
        const double odds = std::exp(prior.shift(Zone::ground, expected)) * expected / (1 - expected);
        EXPECT_NEAR(odds / (1 + odds), truth, 0.05) << truth;
    }
}

RC_GTEST_PROP(RecordingPrior, ShiftedChancesAreChancesAndKindsKeepTheirShares, (int a, int b, int c)) {
    KindChances p{};
    p[0] = 1 + std::abs(a % 100);
    p[1] = 1 + std::abs(b % 100);
    p[2] = 1 + std::abs(c % 100);
    const double sum = p[0] + p[1] + p[2];
    for (auto &v : p)
        v /= sum;
    for (const double by : {-3.0, 0.0, 2.0}) {
        const auto q = shifted(p, by);
        RC_ASSERT(std::fabs(std::accumulate(q.begin(), q.end(), 0.0) - 1) < 1e-9);
        RC_ASSERT(std::fabs(q[1] * p[2] - q[2] * p[1]) < 1e-9);
        const double before = std::log((1 - p[0]) / p[0]), after = std::log((1 - q[0]) / q[0]);
        RC_ASSERT(std::fabs(after - before - by) < 1e-6);
    }
}
