// heron on the command line: what it prints, how it ends, what it leaves behind.
#include "recording/recording.hpp"

#include "files/json.hpp"
#include "programs.hpp"
#include "trip/trip_file.hpp"

#include <algorithm>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

using namespace heron::test;
using testing::HasSubstr;

namespace {
Ran heron_says(const std::string &arguments) {
    return run(program("heron") + " " + arguments);
}
std::size_t lines(const std::string &text) {
    return static_cast<std::size_t>(std::count(text.begin(), text.end(), '\n'));
}
} // namespace

TEST(Cli, HelpSuffices) {
    const auto all = heron_says("--help");
    EXPECT_EQ(all.code, 0);
    for (const char *verb : {"info", "read", "chart", "simulate", "convert", "marks"}) {
        EXPECT_THAT(all.out, HasSubstr(verb));
        const auto help = heron_says(std::string(verb) + " --help");
        EXPECT_EQ(help.code, 0);
        EXPECT_GT(lines(help.out), 4u) << verb;
    }
    EXPECT_THAT(all.out, HasSubstr("Exit codes"));
    EXPECT_NE(heron_says("").code, 0);
    EXPECT_NE(heron_says("paint x").code, 0);
}

TEST(Cli, InfoTellsWhatTheSampleHolds) {
    const auto ran = heron_says("info --json " + sample());
    ASSERT_EQ(ran.code, 0) << ran.out;
    const auto j = nlohmann::json::parse(ran.out);
    EXPECT_EQ(j["pings"], 667);
    EXPECT_EQ(j["pings_with_place"], 667);
    EXPECT_EQ(j["frequencies_khz"][0], 800);
    EXPECT_NEAR(j["sound_speed_m_s"].get<double>(), 1467.7, 0.5);
    EXPECT_TRUE(j["warnings"].empty());
    EXPECT_THAT(heron_says("info " + sample()).out, HasSubstr("22 m each side"));
}

TEST(Cli, ARefusalIsOneLineWithExitCodeTwoAndLeavesNothing) {
    const Folder folder;
    for (const auto &command :
         {"info " + folder.file("absent.nc"), "convert /etc/hostname " + folder.file("out.nc"),
          "marks " + folder.file("absent.gpx"), "simulate /etc/hostname " + folder.file("out.nc")}) {
        const auto ran = heron_says(command);
        EXPECT_EQ(ran.code, 2) << command;
        EXPECT_EQ(lines(ran.out), 1u) << ran.out;
        EXPECT_THAT(run("ls -A " + folder.file(".")).out, "") << command;
    }
}

TEST(Cli, ARecordingCutShortIsRefusedOrReadAndNeverCrashes) {
    const Folder folder;
    const auto good = contents(sample());
    for (const double share : {0.02, 0.3, 0.7, 0.99, 0.9999}) {
        std::ofstream(folder.file("cut.nc"), std::ios::binary)
            << good.substr(0, static_cast<std::size_t>(share * static_cast<double>(good.size())));
        const auto ran = heron_says("info " + folder.file("cut.nc"));
        EXPECT_TRUE(ran.code == 0 || ran.code == 2) << ran.code << ran.out;
        EXPECT_FALSE(ran.out.empty());
    }
}

TEST(Cli, SimulatedRecordingsAreTheSameForTheSameStartAndConvertBothWays) {
    const Folder folder;
    const auto start = " --seconds 3 --start 2026-05-14T06:12:40Z";
    ASSERT_EQ(heron_says("simulate " + lake() + " " + folder.file("a.nc") + start).code, 0);
    ASSERT_EQ(heron_says("convert " + folder.file("a.nc") + " " + folder.file("b.nc")).code, 0);
    const auto a = nlohmann::json::parse(heron_says("info --json " + folder.file("a.nc")).out),
               b = nlohmann::json::parse(heron_says("info --json " + folder.file("b.nc")).out);
    EXPECT_EQ(a["pings"], b["pings"]);
    EXPECT_EQ(a["from"], "2026-05-14T06:12:40.100Z");
    EXPECT_EQ(a["track_m"], b["track_m"]);
    EXPECT_GT(a["pings"].get<int>(), 40);
}

TEST(Cli, SimulatedRecordingsAreSoundedAsAskedFor) {
    const Folder folder;
    ASSERT_EQ(heron_says("simulate " + lake() + " " + folder.file("a.nc") +
                         " --seconds 2 --range 41 --band 455 --gain 20 --tvg 12")
                  .code,
              0);
    const auto r = heron::read_recording(folder.file("a.nc"));
    ASSERT_TRUE(r);
    const auto &ping = r->pings.at(3);
    EXPECT_NEAR(ping.range_m(), 41, 0.5);
    EXPECT_NEAR(ping.frequency_hz, 455e3, 40e3);
    const auto hot = folder.file("hot.nc");
    ASSERT_EQ(heron_says("simulate " + lake() + " " + hot + " --seconds 2 --gain 100").code, 0);
    EXPECT_GT(heron::read_recording(hot)->pings.at(3).beams[0].gain_db, ping.beams[0].gain_db + 10);
    EXPECT_NE(heron_says("simulate " + lake() + " " + folder.file("b.nc") + " --range 9999").code, 0);
    EXPECT_FALSE(std::filesystem::exists(folder.file("b.nc")));
}

TEST(Cli, MarksGoToAMarkFileAndBack) {
    const Folder folder;
    std::ofstream(folder.file("a.gpx"))
        << R"(<gpx version="1.1" creator="t" xmlns="http://www.topografix.com/GPX/1/1"><wpt lat="46.5" lon="-21.25"><name>Old weir</name></wpt><wpt lat="x" lon="1"/></gpx>)";
    const auto in = heron_says("marks " + folder.file("a.gpx") + " " + folder.file("m.gpkg"));
    EXPECT_EQ(in.code, 0);
    EXPECT_THAT(in.out, HasSubstr("no usable place"));
    EXPECT_EQ(heron_says("marks " + folder.file("m.gpkg") + " " + folder.file("b.gpx")).code, 0);
    EXPECT_THAT(heron_says("marks " + folder.file("b.gpx")).out, HasSubstr("Old weir"));
    EXPECT_THAT(run("ogrinfo -ro -al " + folder.file("m.gpkg")).out, HasSubstr("Old weir"));
}

TEST(Cli, TheBottomIsAGeoTiffInUtmAsTheContractSays) {
    const Folder folder;
    const auto tif = folder.file("bottom.tif"), marks = folder.file("marks.geojson");
    const auto ran = heron_says("read " + sample() + " --marks " + marks + " --bottom " + tif);
    ASSERT_EQ(ran.code, 0) << ran.out;
    const auto info = nlohmann::json::parse(run("gdalinfo -json -stats " + tif).out);
    EXPECT_THAT(info["coordinateSystem"]["wkt"].get<std::string>(), HasSubstr("UTM zone 33N"));
    EXPECT_EQ(info["bands"].size(), 2u);
    const auto &t = info["geoTransform"];
    EXPECT_EQ(t[1], 0.25);
    EXPECT_EQ(std::fmod(t[0].get<double>(), 0.25), 0) << "edges on whole multiples of the cell";
    EXPECT_EQ(std::fmod(t[3].get<double>(), 0.25), 0);
    for (const auto &band : info["bands"]) {
        EXPECT_EQ(band["type"], "Float32");
        EXPECT_GE(band["minimum"].get<double>(), 0);
        EXPECT_LE(band["maximum"].get<double>(), 1);
    }
    // Where one of the files cannot be written none is left.
    const auto other = folder.file("other.tif");
    EXPECT_EQ(heron_says("read " + sample() + " --marks /proc/none/m.geojson --bottom " + other).code, 2);
    EXPECT_NE(run("test -e " + other).code, 0);
}

TEST(Cli, AChartIsMadeOfRecordingsAndTrips) {
    const Folder folder;
    const auto scene = std::string(HERON_LAKES) + "/ellemoor.json";
    ASSERT_EQ(heron_says("simulate " + scene + " " + folder.file("a.nc") + " --seconds 60").code, 0);
    ASSERT_EQ(heron_says("convert " + folder.file("a.nc") + " " + folder.file("b.trip.gpkg")).code, 0);
    const auto ran =
        heron_says("chart " + folder.file("a.nc") + " " + folder.file("b.trip.gpkg") + " --mosaic " +
                   folder.file("m.tif") + " --depth " + folder.file("d.tif") + " --hardness " +
                   folder.file("h.tif") + " --package " + folder.file("c.gpkg") + " --kmz " +
                   folder.file("c.kmz") + " --png " + folder.file("c.png"));
    ASSERT_EQ(ran.code, 0) << ran.out;
    EXPECT_THAT(ran.out, HasSubstr("2 of 2 files charted"));
    for (const char *tif : {"m.tif", "d.tif", "h.tif", "c.png"})
        EXPECT_EQ(run("gdalinfo " + folder.file(tif)).code, 0) << tif;
    const auto layers = run("ogrinfo -ro " + folder.file("c.gpkg")).out;
    for (const char *layer : {"contours", "transitions", "coverage", "track"})
        EXPECT_THAT(layers, HasSubstr(layer));
    // The depth under the boat of the demo lake is some metres.
    const auto depths = nlohmann::json::parse(run("gdalinfo -json -stats " + folder.file("d.tif")).out);
    EXPECT_GT(depths["bands"][0]["mean"].get<double>(), 3);
    EXPECT_LT(depths["bands"][0]["mean"].get<double>(), 8);
    // What was sounded at another level comes under the datum: by what the trip tells, or by the word of
    // whoever charts.
    const auto mean = [&](const std::string &in, const std::string &more) {
        EXPECT_EQ(heron_says("chart " + folder.file(in) + " --depth " + folder.file("l.tif") + more).code, 0);
        std::filesystem::remove(folder.file("l.tif.aux.xml"));
        return nlohmann::json::parse(
                   run("gdalinfo -json -stats " + folder.file("l.tif")).out)["bands"][0]["mean"]
            .get<double>();
    };
    const double as_sounded = mean("b.trip.gpkg", "");
    EXPECT_NEAR(mean("b.trip.gpkg", " --level 1.5"), as_sounded - 1.5, 0.02);
    {
        auto trip = heron::TripFile::open(folder.file("b.trip.gpkg"));
        ASSERT_TRUE(trip);
        heron::TripConditions conditions;
        conditions.level = "0.8 m";
        ASSERT_TRUE(trip->set_conditions(1'800'000'000LL * 1'000'000'000, conditions));
    }
    EXPECT_NEAR(mean("b.trip.gpkg", " --level 1.5"), as_sounded - 0.8, 0.02)
        << "the trip's own word goes first";
    EXPECT_NEAR(mean("b.trip.gpkg", " --as-it-stands"), as_sounded, 1e-6);
    // Refusals: one line, code 2.
    const auto none = heron_says("chart " + folder.file("a.nc"));
    EXPECT_EQ(none.code, 2);
    EXPECT_THAT(none.out, HasSubstr("no output is named"));
    EXPECT_EQ(heron_says("chart " + folder.file("none.nc") + " --depth " + folder.file("x.tif")).code, 2);
}
