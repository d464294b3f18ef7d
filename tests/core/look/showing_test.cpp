// The chance that a thing shows: against closed forms, against counting, and against what is to be expected.
#include "look/showing.hpp"

#include <gtest/gtest.h>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

WaterState lake(BottomType bottom) {
    WaterState w;
    w.shallowest_m = w.deepest_m = 5;
    w.bottom = bottom;
    return w;
}
double shows(BottomType bottom, const SmallestThing &thing, double ground, double speed = 1.3,
             std::size_t band = 1) {
    return showing_of(usual_gear(), lake(bottom), thing, {25, band, speed}, 5, ground).either;
}

} // namespace

// One look of speckle is exponential: P(X > t) = e^−t, so once in a million is ln 10⁶ = 13.8 (textbook; from
// memory, Goodman, Speckle Phenomena in Optics).
TEST(Showing, OneLookIsExponential) {
    EXPECT_NEAR(bright_level(1, 1e-6), 13.8155, 1e-3);
    EXPECT_NEAR(dark_level(1, 1e-3), 0.0010005, 1e-6);
    // A steady echo of ratio a passes the level t by e^(−t/a).
    EXPECT_NEAR(chance_over(10, 1, 13.8155), std::exp(-1.38155), 1e-6);
}

// The stated rate of false alarms is the one that is counted on pure speckle.
TEST(Showing, FalseAlarmsAreCounted) {
    std::mt19937 random(7);
    for (const int looks : {1, 4, 12}) {
        std::gamma_distribution<double> mean(looks, 1.0 / looks);
        for (const double rate : {0.01, 0.001}) {
            constexpr int n = 400000;
            const double bright = bright_level(looks, rate), dark = dark_level(looks, rate);
            int over = 0, under = 0;
            for (int i = 0; i < n; ++i) {
                const double v = mean(random);
                over += v > bright;
                under += v < dark;
            }
            const double spread = 4 * std::sqrt(rate / n);
            EXPECT_NEAR(static_cast<double>(over) / n, rate, spread) << looks;
            EXPECT_NEAR(static_cast<double>(under) / n, rate, spread) << looks;
        }
    }
}

RC_GTEST_PROP(Showing, ChancesAreChances, ()) {
    const auto bottom = static_cast<BottomType>(*rc::gen::inRange(0, 4));
    const double ground = *rc::gen::inRange(1, 240) / 10.0;
    const auto thing = *rc::gen::inRange(0, 2) == 0 ? SmallestThing::fish(*rc::gen::inRange(15, 90) / 100.0)
                                                    : SmallestThing::bush(*rc::gen::inRange(20, 250) / 100.0);
    const auto w = showing_of(usual_gear(), lake(bottom), thing, {25, 0, 1.3}, 5, ground);
    for (const double v : {w.echo, w.shadow, w.either})
        RC_ASSERT(v >= 0 && v <= 1 + 1e-12);
    RC_ASSERT(w.either >= std::max(w.echo, w.shadow) - 1e-12);
}

// What every guide knows: on soft ground the grain shows best, on hard ground it drowns; a longer fish shows
// more; a faster boat sees less.
TEST(Showing, FishShowOnSoftGround) {
    const auto fish = SmallestThing::fish(0.5);
    EXPECT_GE(shows(BottomType::silt, fish, 12), shows(BottomType::sand, fish, 12));
    EXPECT_GT(shows(BottomType::sand, fish, 12), shows(BottomType::gravel, fish, 12));
    EXPECT_GT(shows(BottomType::gravel, fish, 12), shows(BottomType::rock, fish, 12));
    EXPECT_GT(shows(BottomType::silt, fish, 12), 0.5);
    EXPECT_LT(shows(BottomType::rock, fish, 12), 0.5);
    EXPECT_GT(shows(BottomType::gravel, SmallestThing::fish(0.8), 12), shows(BottomType::gravel, fish, 12));
    EXPECT_GE(shows(BottomType::sand, fish, 12, 0.9), shows(BottomType::sand, fish, 12, 3.5));
}

TEST(Showing, BeyondTheRangeNothingShows) {
    EXPECT_EQ(shows(BottomType::sand, SmallestThing::bush(2), 26), 0);
    EXPECT_GT(shows(BottomType::sand, SmallestThing::bush(2), 15), 0.9);
}

// Before the first return a fish stands against water: it shows there even over rock.
TEST(Showing, InTheStripOfWaterAFishShowsOverRock) {
    const auto fish = SmallestThing::fish(0.4);
    const auto w = showing_of(usual_gear(), lake(BottomType::rock), fish, {25, 1, 1.3}, 5, 2.0);
    EXPECT_TRUE(w.in_strip);
    EXPECT_GT(w.echo, shows(BottomType::rock, fish, 12));
}

TEST(Showing, LooksAddUp) {
    EXPECT_DOUBLE_EQ(shows_to_any(std::vector{0.5, 0.5}), 0.75);
    EXPECT_DOUBLE_EQ(shows_to_any({}), 0);
}
