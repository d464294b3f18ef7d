// What reaches near the surface today: worked by hand.
#include "marks/near_surface.hpp"

#include <gtest/gtest.h>

using namespace heron;

namespace {

// Seen in spring with the lake full (level 0): a stump 1.2 m tall in 4.0 m of water.
Mark in_spring() {
    Mark m;
    m.family = Family::structure;
    m.kind = Kind::stump;
    m.depth_m = Estimate{4.0, 0.1};
    m.height_m = Estimate{1.2, 0.1};
    m.lake_level_m = 0;
    return m;
}

} // namespace

TEST(NearSurface, ALakeThatFallsMakesHazards) {
    const auto m = in_spring();
    // 4.0 − 1.2 = 2.8 m down in spring; the lake has fallen by 2.2 m: 0.6 m.
    EXPECT_NEAR(*top_depth_today(m, 0), 2.8, 1e-9);
    EXPECT_NEAR(*top_depth_today(m, -2.2), 0.6, 1e-9);
    EXPECT_NEAR(*top_depth_today(m, -3), -0.2, 1e-9) << "it stands out of the water";
    EXPECT_NEAR(*top_depth_today(m, 1), 3.8, 1e-9);
    EXPECT_FALSE(endangers(m, 0));
    EXPECT_TRUE(endangers(m, -2.2));
    EXPECT_FALSE(endangers(m, std::nullopt)) << "no level told: as it was seen";
}

TEST(NearSurface, DoubtCountsAgainstIt) {
    auto m = in_spring();
    // 1.3 m down for the middle; two sigmas of √(0.1² + 0.1²) leave 1.02 m, of √(0.1² + 0.3²) 0.67 m.
    EXPECT_FALSE(endangers(m, -1.5));
    m.height_m->sd = 0.3;
    EXPECT_TRUE(endangers(m, -1.5));
}

TEST(NearSurface, HazardsAlwaysFishNeverAndWhatIsNotMeasuredNot) {
    auto m = in_spring();
    m.family = Family::hazard;
    EXPECT_TRUE(endangers(m, 0)) << "the guide said so";
    m = in_spring();
    m.family = Family::fish;
    EXPECT_FALSE(endangers(m, -2.2));
    m = in_spring();
    m.height_m.reset();
    EXPECT_FALSE(top_depth_today(m, 0));
    EXPECT_FALSE(endangers(m, -2.2));
    m = in_spring();
    m.lake_level_m.reset();
    EXPECT_NEAR(*top_depth_today(m, -2.2), 2.8, 1e-9) << "nobody knows what level it was seen at";
}
