// How much a swath holds, whatever the depth is told to be.
#include "reading/swath.hpp"

#include <gtest/gtest.h>

using namespace heron;

namespace {

constexpr double range_m = 12, at_speed_m_s = 1.5;

// A few metres run over a level bottom at 3 m, while a sounder of its own tells another depth.
Scan told_to_be(double depth_m) {
    Scan scan;
    for (std::size_t n = 0; n < 200; ++n) {
        const auto time = static_cast<UnixNs>(n) * ns_per_s / 20;
        if (n % 10 == 0)
            scan.nav.add(DepthSample{time, depth_m + 0.001 * static_cast<double>(n % 3), {}});
        scan.nav.add_speed(time, at_speed_m_s);
        SoundedRow row;
        auto &p = row.ping;
        p.time = time;
        p.sound_speed_m_s = 1450;
        p.sample_interval_s = 0.04 / 725;
        p.frequency_hz = 770e3;
        for (const auto side : {Side::port, Side::starboard}) {
            Beam b;
            b.side = side;
            b.scale = {-60, 0.3, 0, 255};
            for (std::size_t k = 0; p.slant_m(static_cast<double>(k)) < range_m; ++k)
                b.code.push_back(static_cast<std::uint16_t>(
                    (p.slant_m(static_cast<double>(k)) > 3 ? 120 : 20) + (k * 7919 + n * 104729) % 13));
            p.beams.push_back(std::move(b));
        }
        scan.push(std::move(row));
    }
    return scan;
}

} // namespace

TEST(Swath, HoldsNoMoreWaterThanThePictureReaches) {
    for (const double told_m : {3.0, 40.0, 1900.0}) {
        const auto scan = told_to_be(told_m);
        ASSERT_NEAR(scan.bottom(100).altitude_m, told_m, 0.3);
        const auto s = prepare_swath(scan, Side::starboard, 0, scan.end());
        ASSERT_GT(s.lines(), 100u);
        EXPECT_LE(static_cast<double>(s.water.columns) * s.cell_m, range_m + s.cell_m) << told_m;
        EXPECT_LE(static_cast<double>(s.ground.columns) * s.cell_m, range_m + s.cell_m) << told_m;
    }
}
