// Levels that mean something, hardness, transitions, depth: on pings worked from Lambert's law, and against
// GDAL's own programs.
#include "bottom/depth_grid.hpp"
#include "bottom/hardness.hpp"
#include "bottom/transitions.hpp"
#include "exchange/chart_files.hpp"
#include "files/json.hpp"
#include "programs.hpp"

#include <cmath>
#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <random>

using namespace heron;

namespace {

constexpr UnixNs start = 1'800'000'000LL * ns_per_s;
const LocalPlane plane({46.5, -21.25});
constexpr double altitude_m = 4, range_m = 20;

// A boat that runs north over ground that is soft to the south of a line and hard to the north of it. The
// device has a beam pattern, a gain over time and a pulse of its own; speckle is exponential.
Scan sail(double hard_north_of_m, int gain, double band_offset_db = 0, unsigned seed = 5) {
    Scan scan;
    std::mt19937 random(seed);
    std::exponential_distribution<double> speckle(1);
    for (double t = 0; t < 62; t += 0.2) {
        const auto time = start + static_cast<UnixNs>(t * 1e9);
        scan.nav.add(PositionSample{time, plane.to_globe({0, t}), 0.3, 1, false});
        scan.nav.add(AttitudeSample{time, 0, 0, 0, false});
        scan.nav.add(DepthSample{time, altitude_m, std::nullopt});
    }
    constexpr std::size_t samples = 400;
    for (double t = 1; t < 61; t += 0.1) {
        Ping p;
        p.time = start + static_cast<UnixNs>(t * 1e9);
        p.sound_speed_m_s = 1450;
        p.sample_interval_s = range_m / samples * 2 / 1450;
        p.first_sample_s = p.sample_interval_s / 2;
        p.frequency_hz = 770e3;
        for (const auto side : {Side::port, Side::starboard}) {
            Beam b;
            b.side = side;
            b.azimuth_deg = nominal_azimuth_deg(side);
            b.gain_db = 0.5 * gain;
            b.scale = {-60, 0.25, 0, 60000};
            for (std::size_t k = 0; k < samples; ++k) {
                const double r = p.slant_m(static_cast<double>(k));
                double db = -40;
                if (r > altitude_m) {
                    const double sine = altitude_m / r, off = std::asin(sine) * degrees_per_radian - 32;
                    // Coarse ground is uneven over half metres, as gravel is.
                    const double g =
                        std::sqrt(r * r - altitude_m * altitude_m) * (side == Side::port ? -1 : 1);
                    const bool hard = t > hard_north_of_m;
                    db = 20 * std::log10(sine) - 10 * std::log10(r) - 0.004 * off * off + 0.2 * r +
                         band_offset_db + (hard ? 8 + test::uneven_db(g, t, 4) : 0) +
                         10 * std::log10(speckle(random));
                }
                b.code.push_back(static_cast<std::uint16_t>(
                    std::clamp(std::lround((db + b.gain_db + 60) / 0.25), 1L, 59999L)));
            }
            p.beams.push_back(std::move(b));
        }
        scan.push({std::move(p), std::nullopt, {}});
    }
    return scan;
}

GroundMap map_of(const Scan &scan) {
    GroundCurve curve;
    for (auto row = scan.first(); row < scan.end(); ++row)
        curve.add(scan, row);
    curve.settle();
    GroundMap map(*utm_zone_of(plane.origin()), 0.25);
    for (auto row = scan.first(); row < scan.end(); ++row)
        map.add(scan, row, curve);
    return map;
}

float value_at(const Hardness &h, const std::vector<float> &of, double east, double north) {
    const auto on = to_utm(h.raster.zone, plane.to_globe({east, north}));
    const auto i = h.raster.cell_at(on.east_m, on.north_m);
    return i ? of[*i] : std::nanf("");
}

} // namespace

// A day's chart holds tens of millions of cells.
TEST(Ground, ACellIsSmallAndKeepsItsMeanToAHundredthOfADecibel) {
    static_assert(sizeof(GroundMap::Cell) == 10);
    std::mt19937 random(5);
    std::normal_distribution<float> level(-23, 5);
    std::uniform_real_distribution<float> well(0.05F, 1);
    for (const int looks : {1, 3, 40, 900}) {
        GroundMap::Cell cell, half, other_half;
        double sum = 0, weight = 0;
        for (int i = 0; i < looks; ++i) {
            const float db = level(random), w = well(random);
            cell.hear(db, w);
            (i % 2 == 0 ? half : other_half).hear(db, w);
            sum += static_cast<double>(db) * static_cast<double>(w);
            weight += static_cast<double>(w);
        }
        EXPECT_NEAR(static_cast<double>(cell.mean_db()), sum / weight, looks < 100 ? 0.05 : 0.1) << looks;
        EXPECT_NEAR(static_cast<double>(cell.weight()), weight, 0.01 * looks);
        half.take(other_half, 0);
        EXPECT_NEAR(static_cast<double>(half.mean_db()), sum / weight, 0.1);
        half.take(GroundMap::Cell(), 7);
        EXPECT_NEAR(static_cast<double>(half.mean_db()), sum / weight, 0.1) << "nothing heard weighs nothing";
    }
    GroundMap::Cell best;
    best.show(-30, 0.5F);
    best.show(-10, 0.2F);
    EXPECT_FLOAT_EQ(best.best_db(), -30);
    best.show(-20, 0.5F);
    EXPECT_FLOAT_EQ(best.best_db(), -20) << "of two that show alike the newer";
    for (int i = 0; i < 400; ++i)
        best.pass(static_cast<std::uint8_t>(1 + i / 2 % 255));
    EXPECT_EQ(best.looks(), 200) << "a pass is counted once";
}

TEST(Ground, CopiesOfATileShareItsCellsUntilOneIsWrittenTo) {
    GroundMap::Tile one;
    one.own()[7].hear(-12, 1);
    auto two = one;
    EXPECT_EQ(one.cells().data(), two.cells().data());
    two.own()[7].hear(-20, 1);
    EXPECT_NE(one.cells().data(), two.cells().data());
    one.let_go();
    EXPECT_FLOAT_EQ(one.cells()[7].mean_db(), -12);
    EXPECT_FLOAT_EQ(two.cells()[7].mean_db(), -16);
}

TEST(Ground, TheSameBottomReadsTheSameNearAndFarLeftAndRight) {
    const auto h = hardness_of(map_of(sail(30, 50)));
    std::vector<double> soft, hard;
    for (const double east : {-16.0, -11.0, -7.0, 7.0, 11.0, 16.0})
        for (const double north : {12.0, 18.0, 24.0})
            soft.push_back(static_cast<double>(value_at(h, h.level_db, east, north)));
    for (const double east : {-16.0, -11.0, -7.0, 7.0, 11.0, 16.0})
        for (const double north : {38.0, 45.0, 52.0})
            hard.push_back(static_cast<double>(value_at(h, h.level_db, east, north)));
    const auto [least, most] = std::minmax_element(soft.begin(), soft.end());
    EXPECT_LT(*most - *least, 4) << "the same ground at all distances";
    double difference = 0;
    for (std::size_t i = 0; i < soft.size(); ++i)
        difference += (hard[i] - soft[i]) / static_cast<double>(soft.size());
    EXPECT_NEAR(difference, 8, 1);
    EXPECT_LT(value_at(h, h.hardness, 10, 15), 0.5F);
    EXPECT_GT(value_at(h, h.hardness, 10, 45), 0.5F);
    EXPECT_GT(value_at(h, h.hardness_sd, 10, 45), 0);
}

TEST(Ground, AStepOfGainAndAnotherBandAreNoStepInHardness) {
    const auto one = hardness_of(map_of(sail(30, 50))), two = hardness_of(map_of(sail(30, 70, -9, 8)));
    std::vector<double> change;
    for (double east = -16; east <= 16; east += 2)
        for (double north = 8; north < 56; north += 4) {
            const float a = value_at(one, one.hardness, east, north),
                        b = value_at(two, two.hardness, east, north);
            if (a == a && b == b)
                change.push_back(std::fabs(static_cast<double>(a - b)));
        }
    ASSERT_GT(change.size(), 80u);
    std::nth_element(change.begin(), change.begin() + std::ssize(change) / 2, change.end());
    EXPECT_LT(change[change.size() / 2], 0.08);
    // Laid over each other they are brought to one level.
    auto map = map_of(sail(30, 50));
    const auto other = map_of(sail(30, 50, 6, 9));
    ASSERT_TRUE(map.difference_to(other));
    EXPECT_NEAR(*map.difference_to(other), 0, 1) << "each is over its own mean ground";
    map.merge(other);
    const auto both = hardness_of(map);
    EXPECT_LT(value_at(both, both.hardness, 10, 15), 0.5F);
    EXPECT_GT(value_at(both, both.hardness, 10, 45), 0.5F);
}

TEST(Ground, TheTransitionLiesWhereTheGroundChangesWithItsTeethOnTheHardSide) {
    const auto h = hardness_of(map_of(sail(30, 50)));
    const auto lines = transitions_of(h);
    ASSERT_FALSE(lines.empty());
    double length = 0, near = 0;
    for (const auto &t : lines)
        for (std::size_t i = 1; i < t.line.size(); ++i) {
            const auto &a = t.line[i - 1], &b = t.line[i];
            const double piece = std::hypot(b.east_m - a.east_m, b.north_m - a.north_m);
            const auto on = plane.to_plane(from_utm(h.raster.zone, b.east_m, b.north_m));
            length += piece;
            near += std::fabs(on.north_m - 30) < 1.5 ? piece : 0;
            EXPECT_GT(t.strength_db, 4);
        }
    EXPECT_GT(near, 20) << "most of thirty-two metres";
    EXPECT_GT(near / length, 0.8);
    // Going east along it the hard side (north) is on the left.
    const auto &longest = *std::max_element(
        lines.begin(), lines.end(), [](const auto &a, const auto &b) { return a.length_m < b.length_m; });
    EXPECT_EQ(longest.hard_on_left, longest.line.back().east_m > longest.line.front().east_m);
}

TEST(Ground, AnAnchorFixesTheScale) {
    const auto map = map_of(sail(30, 50));
    const auto ramp = to_utm(map.zone(), plane.to_globe({10, 15}));
    // The guide says that the softer half is a concrete ramp: all of it is hard then.
    const auto h = hardness_of(map, {{ramp.east_m, ramp.north_m, true}});
    EXPECT_GT(value_at(h, h.hardness, 10, 15), 0.8F);
    EXPECT_GT(value_at(h, h.hardness, 10, 45), 0.8F);
}

TEST(Ground, OneGroundAloneHasNoTransition) {
    const auto h = hardness_of(map_of(sail(1000, 50)));
    EXPECT_THAT(transitions_of(h), testing::IsEmpty());
}

TEST(DepthGrid, APlaneIsAPlaneAndItsDoubtGrowsAwayFromTheSoundings) {
    std::vector<GroundMap::Sounding> soundings;
    const auto depth = [](double e, double n) { return 4 + 0.02 * (e - 500'000) + 0.01 * (n - 5'000'000); };
    for (double lane = 0; lane <= 60; lane += 20)
        for (double n = 0; n <= 80; n += 0.7)
            soundings.push_back({500'000 + lane, 5'000'000 + n, depth(500'000 + lane, 5'000'000 + n), 0.05});
    const auto grid = depth_grid(soundings, {31, true});
    double square = 0, n = 0, within = 0;
    for (std::size_t i = 0; i < grid.raster.cells(); ++i) {
        const double e = grid.raster.east_of(i % grid.raster.columns),
                     no = grid.raster.north_of(i / grid.raster.columns);
        if (e < 500'000 || e > 500'060 || no < 5'000'000 || no > 5'000'080)
            continue;
        ASSERT_TRUE(grid.depth_m[i] == grid.depth_m[i]);
        const double error = static_cast<double>(grid.depth_m[i]) - depth(e, no);
        square += error * error;
        within += std::fabs(error) < 2 * static_cast<double>(grid.sd_m[i]);
        n += 1;
    }
    ASSERT_GT(n, 4000);
    EXPECT_LT(std::sqrt(square / n), 0.02);
    EXPECT_GT(within / n, 0.95);
    const auto on = grid.raster.cell_at(500'020, 5'000'040),
               between = grid.raster.cell_at(500'030, 5'000'040),
               far = grid.raster.cell_at(500'060 + 24, 5'000'040);
    EXPECT_LT(grid.sd_m[*on], grid.sd_m[*between]);
    EXPECT_TRUE(far && grid.depth_m[*far] == grid.depth_m[*far])
        << "the nearest sounding serves within reach";
    // A lake that stands higher than its datum: depths are told under the datum.
    const auto high = depth_grid(soundings, {31, true}, 1, 25, 0.8);
    EXPECT_NEAR(high.depth_m[*on], grid.depth_m[*on] - 0.8F, 1e-4);
    EXPECT_TRUE(depth_grid({}, {31, true}).depth_m.empty());
}

// A boat that held says next to nothing of what lies fifteen metres off, and a straight lane has no
// triangles.
TEST(DepthGrid, AHandfulOfSoundingsOrOneStraightLaneDoNotPretend) {
    std::vector<GroundMap::Sounding> held, lane;
    for (int i = 0; i < 30; ++i) {
        held.push_back({500'000 + 0.03 * i, 5'000'000 + 0.02 * (i % 7), 6, 0.05});
        lane.push_back({500'000, 5'000'000.0 + i, 6, 0.05});
    }
    for (const auto &soundings : {held, lane}) {
        const auto grid = depth_grid(soundings, {31, true});
        const auto at = grid.raster.cell_at(500'000, 5'000'000),
                   off = grid.raster.cell_at(500'015, 5'000'000);
        ASSERT_TRUE(at && off);
        EXPECT_NEAR(grid.depth_m[*at], 6, 0.01);
        EXPECT_LT(grid.sd_m[*at], 0.15F);
        EXPECT_NEAR(grid.depth_m[*off], 6, 0.01);
    }
    const auto grid = depth_grid(held, {31, true});
    EXPECT_GT(grid.sd_m[*grid.raster.cell_at(500'015, 5'000'000)], 0.5F);
}

// Five degrees across a lane that runs level, north-east: the lane itself cannot tell.
TEST(DepthGrid, BesideALaneTheBottomMayFallAsItNeverDidAlongIt) {
    const auto depth = [](double e, double n) { return 8 + 0.0875 * (e - n) / std::sqrt(2); };
    std::vector<GroundMap::Sounding> lane, two;
    for (double run = 0; run <= 80; run += 0.7) {
        const double along = run / std::sqrt(2);
        lane.push_back({500'000 + along, 5'000'000 + along, 8, 0.05});
        two.push_back(lane.back());
        two.push_back({500'000 + along + 14, 5'000'000 + along - 14, depth(14, -14), 0.05});
    }
    const auto grid = depth_grid(lane, {31, true}), both = depth_grid(two, {31, true});
    for (const double off : {-14.0, -7.0, -3.0, 3.0, 7.0, 14.0}) {
        const auto i = grid.raster.cell_at(500'028 + off, 5'000'028 - off);
        ASSERT_TRUE(i);
        EXPECT_LT(std::fabs(static_cast<double>(grid.depth_m[*i]) - depth(28 + off, 28 - off)),
                  2 * static_cast<double>(grid.sd_m[*i]))
            << off;
    }
    const auto sd = [](const DepthGrid &g, double e, double n) {
        return static_cast<double>(g.sd_m[*g.raster.cell_at(500'028 + e, 5'000'028 + n)]);
    };
    EXPECT_GT(sd(grid, 7, -7), 0.45) << "beside";
    EXPECT_LT(sd(both, 7, -7), 0.8 * sd(grid, 7, -7)) << "between two lanes both sides are known";
    EXPECT_NEAR(sd(both, -7, 7), sd(grid, -7, 7), 0.1);
}

// Against gdal_contour and gdalinfo on what was written.
TEST(ChartFiles, AreWhatGdalsOwnProgramsRead) {
    const test::Folder folder;
    GroundRaster r;
    r.zone = {33, true};
    r.cell_m = 0.5;
    r.west_m = 446'100;
    r.north_m = 6'343'400;
    r.columns = 120;
    r.rows = 80;
    std::vector<float> bowl(r.cells());
    for (std::size_t y = 0; y < r.rows; ++y)
        for (std::size_t x = 0; x < r.columns; ++x)
            bowl[y * r.columns + x] = static_cast<float>(
                6 - std::hypot(static_cast<double>(x) - 60, static_cast<double>(y) - 40) * 0.08);
    bowl[5] = std::nanf("");
    const auto tif = folder.file("bowl.tif"), gpkg = folder.file("bowl.gpkg");
    ASSERT_TRUE(write_geotiff(tif, r, {{"depth_m", bowl}, {"twice", bowl}}));
    const auto info = nlohmann::json::parse(test::run("gdalinfo -json " + tif).out);
    EXPECT_EQ(info["size"], nlohmann::json({120, 80}));
    EXPECT_EQ(info["geoTransform"][1], 0.5);
    EXPECT_EQ(info["bands"].size(), 2u);
    EXPECT_EQ(info["bands"][0]["type"], "Float32");
    EXPECT_EQ(info["bands"][0]["noDataValue"], "NaN");
    EXPECT_THAT(info["coordinateSystem"]["wkt"].get<std::string>(), testing::HasSubstr("UTM zone 33N"));
    const auto own = contours_of(r, bowl, {3, 4, 5});
    ASSERT_EQ(
        test::run(fmt::format("gdal_contour -fl 3 4 5 -a v -f GeoJSON {} {}", tif, folder.file("c.json")))
            .code,
        0);
    const auto other = nlohmann::json::parse(test::run("cat " + folder.file("c.json")).out);
    const auto length = [](const auto &points, auto &&at) {
        double sum = 0;
        for (std::size_t i = 1; i < points.size(); ++i)
            sum +=
                std::hypot(at(points[i], 0) - at(points[i - 1], 0), at(points[i], 1) - at(points[i - 1], 1));
        return sum;
    };
    double mine = 0, theirs = 0;
    for (const auto &c : own)
        mine += length(c.line, [](const EastNorth &p, int axis) { return axis == 0 ? p.east_m : p.north_m; });
    for (const auto &f : other["features"])
        theirs +=
            length(f["geometry"]["coordinates"].get<std::vector<std::vector<double>>>(),
                   [](const std::vector<double> &p, int axis) { return p[static_cast<std::size_t>(axis)]; });
    EXPECT_GT(mine, 100);
    EXPECT_NEAR(mine, theirs, 0.01 * theirs);
    ChartPackage package;
    package.zone = r.zone;
    package.contours = own;
    package.transitions = {
        {Transition::Of::hardness, {{446'110, 6'343'390}, {446'120, 6'343'390}}, 10, 6, true}};
    package.track = {{{446'110, 6'343'380}, {446'130, 6'343'380}}};
    ASSERT_TRUE(write_chart_package(gpkg, package));
    const auto layers = test::run("ogrinfo -ro " + gpkg).out;
    for (const char *layer : {"contours", "transitions", "coverage", "track"})
        EXPECT_THAT(layers, testing::HasSubstr(layer));
    EXPECT_THAT(test::run("ogrinfo -ro -al " + gpkg + " transitions").out,
                testing::HasSubstr("hard_side (String) = left"));
    // Where nothing can be written nothing is left behind.
    const auto nowhere = write_geotiff("/proc/none/chart.tif", r, {{"depth_m", bowl}});
    ASSERT_FALSE(nowhere);
    EXPECT_THAT(nowhere.error().line(), testing::HasSubstr("cannot be written"));
}
