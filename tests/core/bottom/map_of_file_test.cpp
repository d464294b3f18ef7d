// Charts of whole files: a log of nothing but depth and position, and what is refused.
#include "bottom/depth_grid.hpp"
#include "bottom/map_of_file.hpp"
#include "programs.hpp"

#include <cmath>
#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

using namespace heron;

namespace {

// NMEA 0183's sum over what stands between $ and *.
std::string sentence(const std::string &body) {
    unsigned sum = 0;
    for (const char c : body)
        sum ^= static_cast<unsigned char>(c);
    return fmt::format("${}*{:02X}\r\n", body, sum);
}

// A boat that runs back and forth over a bottom that falls to the north by one in ten.
std::string log_of_a_slope() {
    std::string text;
    int second = 0;
    for (int lane = 0; lane < 6; ++lane)
        for (int k = 0; k <= 40; ++k, ++second) {
            const double north = lane % 2 == 0 ? k * 1.5 : (40 - k) * 1.5, east = lane * 8.0;
            const double lat = 46.5 + north / 111'140, lon = 21.25 - east / 76'800;
            text += sentence(fmt::format(
                "GPGGA,{:02}{:02}{:02}.00,{:02}{:08.5f},N,{:03}{:08.5f},W,1,09,0.9,10.0,M,,M,,",
                8 + second / 3600, second / 60 % 60, second % 60, 46, (lat - 46) * 60, 21, (lon - 21) * 60));
            text += sentence(fmt::format(
                "GPRMC,{:02}{:02}{:02}.00,A,{:02}{:08.5f},N,{:03}{:08.5f},W,2.9,0.0,280926,,,A",
                8 + second / 3600, second / 60 % 60, second % 60, 46, (lat - 46) * 60, 21, (lon - 21) * 60));
            text += sentence(fmt::format("SDDPT,{:.2f},0.40", 2.6 + 0.1 * north));
        }
    return text;
}

} // namespace

TEST(MapOfFile, ALogOfDepthsAndPositionsIsChartedForItsDepth) {
    const test::Folder folder;
    std::ofstream(folder.file("day.nmea")) << log_of_a_slope();
    std::vector<std::string> warnings;
    const auto map = map_of_file(folder.file("day.nmea"), std::nullopt, 0.25, warnings);
    ASSERT_TRUE(map) << map.error().line();
    EXPECT_TRUE(map->empty()) << "no sonar was heard";
    ASSERT_GT(map->soundings().size(), 150u);
    const auto grid = depth_grid(map->soundings(), map->zone());
    // Worked: 3.0 m at the south, 0.1 m more a metre north.
    for (const double north : {10.0, 25.0, 45.0}) {
        const auto at = to_utm(map->zone(), {46.5 + north / 111'140, -21.25 + 20.0 / 76'800});
        const auto i = grid.raster.cell_at(at.east_m, at.north_m);
        ASSERT_TRUE(i);
        EXPECT_NEAR(static_cast<double>(grid.depth_m[*i]), 3.0 + 0.1 * north, 0.25) << north;
    }
    // A day on which the water lay half a metre over the datum.
    auto lowered = *map;
    lowered.lower_soundings(0.5);
    EXPECT_NEAR(lowered.soundings()[10].depth_m, map->soundings()[10].depth_m - 0.5, 1e-9);
}

TEST(MapOfFile, SaysWhatIsMissing) {
    const test::Folder folder;
    const auto why = [&](const std::string &name, const std::string &text) {
        std::ofstream(folder.file(name)) << text;
        std::vector<std::string> warnings;
        const auto map = map_of_file(folder.file(name), std::nullopt, 0.25, warnings);
        return map ? "charted" : map.error().line();
    };
    EXPECT_THAT(why("empty.nmea", ""), testing::HasSubstr("no sentence"));
    EXPECT_THAT(why("words.txt", "nothing here\nand here\n"), testing::HasSubstr("no sentence"));
    EXPECT_THAT(why("depth.log", sentence("SDDPT,4.2,0.4") + sentence("SDDPT,4.3,0.4")),
                testing::HasSubstr("no position"));
    std::vector<std::string> warnings;
    EXPECT_FALSE(map_of_file(folder.file("not there.nc"), std::nullopt, 0.25, warnings));
    // Broken off by whoever waits for it.
    const auto broken =
        map_of_file(test::sample(), std::nullopt, 0.25, warnings, [](double) { return false; });
    ASSERT_FALSE(broken);
    EXPECT_THAT(broken.error().happened, testing::HasSubstr("broken off"));
    EXPECT_TRUE(is_chartable("a.nc") && is_chartable("a.trip.gpkg") && is_chartable("a.nmea"));
    EXPECT_FALSE(is_chartable("read me.txt"));
}
