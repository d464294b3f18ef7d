#include "around/rings.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

using namespace heron;
using testing::DoubleNear;
using testing::ElementsAre;

namespace {

std::vector<double> feet(double range_ft, RingStyle style) {
    auto all = rings(metres_from_feet(range_ft), style, UnitSystem::feet);
    for (auto &r : all)
        r = feet_from_metres(r);
    return all;
}
auto about(double x) {
    return DoubleNear(x, 1e-9);
}

} // namespace

// Common practice, no published source.
TEST(Rings, StandAtQuartersOfTheRange) {
    EXPECT_THAT(feet(55, RingStyle::quarters),
                ElementsAre(about(13.75), about(27.5), about(41.25), about(55)));
    EXPECT_THAT(feet(120, RingStyle::quarters), ElementsAre(about(30), about(60), about(90), about(120)));
}

TEST(Rings, OrAtRoundDistances) {
    EXPECT_THAT(feet(60, RingStyle::round), ElementsAre(about(20), about(40), about(60)));
    EXPECT_THAT(feet(55, RingStyle::round), ElementsAre(about(20), about(40)));
    EXPECT_THAT(feet(100, RingStyle::round),
                ElementsAre(about(20), about(40), about(60), about(80), about(100)));
    EXPECT_THAT(rings(18, RingStyle::round, UnitSystem::metres), ElementsAre(5, 10, 15));
    EXPECT_TRUE(rings(0, RingStyle::round, UnitSystem::metres).empty());
    for (double range = 15; range <= 150; range += 0.5) {
        const auto all = feet(range, RingStyle::round);
        EXPECT_GE(all.size(), 2u) << range;
        EXPECT_LE(all.size(), 5u) << range;
        EXPECT_LE(all.back(), range * 1.001);
    }
}
