#include "water/bounce.hpp"

#include <cmath>
#include <gtest/gtest.h>
#include <numbers>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {
constexpr double rad = std::numbers::pi / 180;
}

// The source's images over 4 m of water, half a metre down: each bounce adds the depth once more.
TEST(ImagePaths, StandWhereTheMirrorsPutThem) {
    const auto paths = image_paths(4, 0.5);
    ASSERT_EQ(paths.size(), 5u);
    const double heights[] = {3.5, 4.5, 11.5, 12.5, 19.5};
    const int bottom[] = {0, 0, 1, 1, 2}, surface[] = {0, 1, 1, 2, 2};
    for (std::size_t i = 0; i < 5; ++i) {
        EXPECT_DOUBLE_EQ(paths[i].height_m, heights[i]);
        EXPECT_EQ(paths[i].by_bottom, bottom[i]);
        EXPECT_EQ(paths[i].by_surface, surface[i]);
        EXPECT_EQ(paths[i].up_first, i % 2 == 1);
    }
}

// Rayleigh's law for a fluid, worked by hand for sand (ρ 1.85, c 1.13 over water's): all of it under the
// critical angle of 27.8°, ((Z₂ − Z₁)/(Z₂ + Z₁))² = ((2.0905 − 1)/3.0905)² from straight above.
TEST(Bounce, TheBottomReflectsAsRayleighSays) {
    const auto &sand = usual_sediment(1);
    EXPECT_EQ(reflected_by_bottom(sand, 10 * rad), 1);
    EXPECT_EQ(reflected_by_bottom(sand, std::acos(1 / 1.13) - 1e-6), 1);
    EXPECT_NEAR(reflected_by_bottom(sand, 30 * rad), 0.45036, 1e-4);
    EXPECT_NEAR(reflected_by_bottom(sand, 60 * rad), 0.13978, 1e-4);
    EXPECT_NEAR(reflected_by_bottom(sand, 90 * rad), std::pow(1.0905 / 3.0905, 2), 1e-4);
    EXPECT_LT(reflected_by_bottom(usual_sediment(0), 20 * rad), 0.02) << "soft silt is nearly water";
}

// Cox and Munk (1954): a mean square slope of 0.003 in a calm, 0.0542 at 10 m/s.
TEST(Bounce, TheSurfaceThrowsMoreAsideTheRougherItIs) {
    EXPECT_DOUBLE_EQ(surface_slope_variance(0), 0.003);
    EXPECT_NEAR(surface_slope_variance(10), 0.0542, 1e-9);
    EXPECT_NEAR(kept_at_surface(3, 29.8989 * rad, 0.8 * rad), 0.061956, 1e-5);
    EXPECT_NEAR(kept_at_bottom(usual_sediment(1), 29.8989 * rad, 0.8 * rad), 0.45791 * 0.049503, 1e-4);
    // APL-UW TR 9407: some −45 dB at 770 kHz, ten degrees and 4 m/s.
    EXPECT_NEAR(10 * std::log10(surface_backscatter(4, 770e3, 10 * rad)), -44.66, 0.01);
}

RC_GTEST_PROP(Bounce, KeepsNoMoreThanCame, ()) {
    const double wind = *rc::gen::inRange(0, 200) / 10.0, grazing = *rc::gen::inRange(1, 89) * rad,
                 along = *rc::gen::inRange(2, 40) / 10.0 * rad;
    const auto &bottom = usual_sediment(static_cast<std::size_t>(*rc::gen::inRange(0, 4)));
    for (const double kept : {kept_at_surface(wind, grazing, along), kept_at_bottom(bottom, grazing, along)})
        RC_ASSERT(kept >= 0 && kept <= 1);
    RC_ASSERT(kept_at_surface(wind + 1, grazing, along) < kept_at_surface(wind, grazing, along));
    RC_ASSERT(surface_backscatter(wind, 770e3, grazing) >= 0);
}
