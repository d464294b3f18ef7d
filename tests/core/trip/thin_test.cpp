#include "trip/thin_trip.hpp"
#include "trip/trip_recording.hpp"

#include "files/json.hpp"
#include "marks/mark_book.hpp"
#include "recording/recording.hpp"
#include "trips.hpp"
#include "tuning/last_time.hpp"

#include <fstream>
#include <gmock/gmock.h>

using namespace heron;
using testing::HasSubstr;

namespace {

// A kept minute with one mark, and how large it is.
std::uintmax_t kept_with_a_mark(const std::string &file) {
    test::keep(file);
    auto trip = TripFile::open(file);
    EXPECT_TRUE(trip);
    EXPECT_TRUE(trip->database().run("CREATE TABLE IF NOT EXISTS marks (fid INTEGER PRIMARY KEY, time TEXT);"
                                     "INSERT INTO marks (time) VALUES ('" +
                                     print_rfc3339(test::minute().rows[100].ping.time, 3) + "')"));
    return std::filesystem::file_size(file);
}

} // namespace

TEST(ThinTrip, WhatGoesIsToldBeforeAndWhatStaysIsWhole) {
    const test::Folder folder;
    const auto file = folder.file("a.trip.gpkg");
    const auto before = kept_with_a_mark(file);
    ThinPlan plan;
    plan.around_marks_s = 2;
    plan.stretches = {{300, 310}};
    const auto saving = plan_thinning(*TripFile::open_read_only(file), plan);
    ASSERT_TRUE(saving);
    EXPECT_EQ(saving->rows_before, 400u);
    EXPECT_LT(saving->rows_kept, 300u);
    EXPECT_GT(saving->bytes_gone, before / 4);
    double last = 0;
    const auto done = thin_trip(file, plan, [&](double share) {
        EXPECT_GE(share, last);
        last = share;
        return true;
    });
    ASSERT_TRUE(done) << done.error().line();
    EXPECT_EQ(done->rows_kept, saving->rows_kept);
    EXPECT_EQ(last, 1);
    auto trip = TripFile::open(file);
    ASSERT_TRUE(trip) << trip.error().line();
    EXPECT_EQ(trip->rows(), 400u) << "rows keep their numbers";
    EXPECT_EQ(trip->fetch(100, 1).at(0).ping.beams[0].code, test::minute().rows[100].ping.beams[0].code);
    EXPECT_EQ(trip->fetch(305, 1).at(0).ping.beams[0].code, test::minute().rows[305].ping.beams[0].code);
    EXPECT_EQ(trip->facts()->size(), 400u) << "what was not known yet was found before";
    EXPECT_EQ(trip->overview().size(), 25u) << "it can no longer be made from the pings";
    Scan scan;
    Overview overview;
    ASSERT_TRUE(open_into(*trip, scan, overview));
    EXPECT_EQ(scan.end(), 400u);
    EXPECT_TRUE(scan.nav.fix_at(scan.facts(200).time));
    // Thinned once more nothing changes.
    { const auto closed = std::move(*trip); }
    const auto again = thin_trip(file, plan);
    ASSERT_TRUE(again);
    EXPECT_EQ(again->bytes_gone, 0u);
}

TEST(ThinTrip, StoppedOrRefusedItLeavesTheTripAsItWas) {
    const test::Folder folder;
    const auto file = folder.file("a.trip.gpkg");
    kept_with_a_mark(file);
    const auto was = TripFile::open_read_only(file)->fetch(250, 1).at(0).ping.beams[0].code;
    EXPECT_FALSE(thin_trip(file, {}, [](double) { return false; }));
    EXPECT_EQ(TripFile::open_read_only(file)->fetch(250, 1).at(0).ping.beams[0].code, was);
    std::size_t files = 0;
    for ([[maybe_unused]] const auto &e : std::filesystem::directory_iterator(folder.file(".")))
        ++files;
    EXPECT_LE(files, 3u) << "nothing is left beside it";
    auto held = TripFile::open(file);
    ASSERT_TRUE(held);
    const auto refused = thin_trip(file, {});
    ASSERT_FALSE(refused);
    EXPECT_THAT(refused.error().line(), HasSubstr("another window"));
}

// GDAL reads the mosaic as a raster of its own; its corners are where the boat was.
TEST(ThinTrip, GdalReadsTheMosaic) {
    const test::Folder folder;
    const auto file = folder.file("a.trip.gpkg");
    kept_with_a_mark(file);
    ASSERT_TRUE(thin_trip(file, {}));
    const auto info = test::run("gdalinfo -json -stats GPKG:" + file + ":mosaic");
    ASSERT_EQ(info.code, 0) << info.out;
    const auto text = info.out.substr(info.out.find('{'));
    const auto j = nlohmann::json::parse(text.substr(0, text.rfind('}') + 1));
    EXPECT_THAT(j["coordinateSystem"]["wkt"].get<std::string>(), HasSubstr("WGS 84"));
    const auto &low = j["cornerCoordinates"]["lowerLeft"], &high = j["cornerCoordinates"]["upperRight"];
    Scan scan;
    Overview overview;
    auto trip = TripFile::open_read_only(file);
    ASSERT_TRUE(open_into(*trip, scan, overview));
    const auto at = scan.nav.positions().front().place;
    EXPECT_LT(low[0].get<double>(), at.longitude_deg);
    EXPECT_GT(high[0].get<double>(), at.longitude_deg);
    EXPECT_LT(low[1].get<double>(), at.latitude_deg);
    EXPECT_GT(high[1].get<double>(), at.latitude_deg);
    EXPECT_GT(j["bands"][0]["maximum"].get<double>(), 100);
}

TEST(TripRecording, BecomesARecordingThatGeneralToolsRead) {
    const test::Folder folder;
    test::keep(folder.file("a.trip.gpkg"));
    const auto written = recording_from_trip(folder.file("a.trip.gpkg"), folder.file("a.nc"));
    ASSERT_TRUE(written) << written.error().line();
    EXPECT_EQ(*written, 400u);
    const auto dump = test::run("ncdump -h " + folder.file("a.nc"));
    EXPECT_EQ(dump.code, 0) << dump.out;
    EXPECT_THAT(dump.out, HasSubstr("ping_time = "));
    EXPECT_THAT(dump.out, HasSubstr("group: Beam_group1"));
    // Python's netCDF4 reads the same samples.
    const auto python =
        test::run("/usr/bin/python3 -c \"import netCDF4; d=netCDF4.Dataset('" + folder.file("a.nc") +
                  "'); s=d['Sonar']; n=sorted(s.groups); "
                  "print(len(n), [len(s[g].variables['ping_time'][:]) for g in n][0])\"");
    EXPECT_EQ(python.code, 0) << python.out;
    EXPECT_THAT(python.out, HasSubstr(" 400"));
    const auto read = read_recording(folder.file("a.nc"));
    ASSERT_TRUE(read) << read.error().line();
    std::size_t aside = 0;
    for (const auto &p : read->pings)
        if (const auto *b = p.beam(Side::port)) {
            EXPECT_EQ(b->code, test::minute().rows[aside].ping.beam(Side::port)->code);
            ++aside;
        }
    EXPECT_EQ(aside, 400u);
    EXPECT_TRUE(read->head.nav.fix_at(read->pings[200].time));
}

TEST(TripRecording, ThereAndBackIsTheSameTrip) {
    const test::Folder folder;
    test::keep(folder.file("a.trip.gpkg"));
    ASSERT_TRUE(recording_from_trip(folder.file("a.trip.gpkg"), folder.file("a.nc")));
    std::vector<std::string> warnings;
    const auto back = trip_from_recording(folder.file("a.nc"), folder.file("b.trip.gpkg"), warnings);
    ASSERT_TRUE(back) << back.error().line();
    EXPECT_EQ(*back, 400u);
    auto one = TripFile::open_read_only(folder.file("a.trip.gpkg")),
         two = TripFile::open_read_only(folder.file("b.trip.gpkg"));
    ASSERT_TRUE(one && two);
    for (const std::size_t n : {0u, 63u, 64u, 399u}) {
        const auto a = one->fetch(n, 1).at(0), b = two->fetch(n, 1).at(0);
        EXPECT_EQ(a.ping.time, b.ping.time);
        ASSERT_EQ(a.ping.beams.size(), b.ping.beams.size());
        for (std::size_t i = 0; i < a.ping.beams.size(); ++i)
            EXPECT_EQ(a.ping.beams[i].code, b.ping.beams[i].code);
    }
    EXPECT_EQ(one->sentences(0, std::numeric_limits<UnixNs>::max()).size(),
              two->sentences(0, std::numeric_limits<UnixNs>::max()).size());
    // A second time it refuses to write over what stands there.
    const auto again = trip_from_recording(folder.file("a.nc"), folder.file("b.trip.gpkg"), warnings);
    ASSERT_FALSE(again);
    EXPECT_THAT(again.error().line(), HasSubstr("stands there already"));
}

// The sample is of another making: it becomes a trip and comes back with all its pings.
TEST(TripRecording, AForeignRecordingBecomesATrip) {
    const test::Folder folder;
    std::vector<std::string> warnings;
    const auto made = trip_from_recording(test::sample(), folder.file("q.trip.gpkg"), warnings);
    ASSERT_TRUE(made) << made.error().line();
    auto trip = TripFile::open_read_only(folder.file("q.trip.gpkg"));
    const auto original = read_recording(test::sample());
    ASSERT_TRUE(trip && original);
    EXPECT_EQ(trip->rows(), *made);
    EXPECT_EQ(trip->facts()->size(), *made);
    EXPECT_EQ(trip->fetch(10, 1).at(0).ping.beams[0].code.size(), original->pings[10].beams[0].code.size());
    EXPECT_FALSE(trip_from_recording(folder.file("absent.nc"), folder.file("x.trip.gpkg"), warnings));
    EXPECT_FALSE(std::filesystem::exists(folder.file("x.trip.gpkg")));
}

TEST(LastTime, TheLatestTripOnThatWaterAndWhatWasFoundBetter) {
    const test::Folder folder;
    test::keep(folder.file("old.trip.gpkg"));
    {
        auto trip = TripFile::open(folder.file("old.trip.gpkg"));
        SettingChange c;
        c.time = test::start;
        c.row = 20;
        c.by = "advice";
        c.what = "gain";
        c.before = "50";
        c.after = "44";
        const auto better = trip->log(c);
        c.what = "range";
        const auto worse = trip->log(c);
        ASSERT_TRUE(better && worse);
        ASSERT_TRUE(trip->judge(*better, "better"));
        ASSERT_TRUE(trip->judge(*worse, "worse"));
        ASSERT_TRUE(trip->set_conditions(test::start, {"calm", "overcast", "clear", "high", 11.0}));
    }
    std::ofstream(folder.file("broken.trip.gpkg")) << "no trip";
    const auto last = last_time(folder.file("."), "Ellemoor Water");
    ASSERT_TRUE(last);
    ASSERT_EQ(last->better.size(), 1u);
    EXPECT_EQ(last->better[0].after, "44");
    ASSERT_EQ(last->worse.size(), 1u);
    EXPECT_EQ(last->worse[0].what, "range");
    EXPECT_EQ(last->conditions->sky, "overcast");
    EXPECT_EQ(last->settings.gain, test::minute().rows[20].settings.gain);
    EXPECT_FALSE(last_time(folder.file("."), "Another Water"));
    EXPECT_FALSE(last_time(folder.file("."), "Ellemoor Water", last->trip)) << "not the trip that runs";
    const auto all = trips_in(folder.file("."));
    ASSERT_EQ(all.size(), 2u);
    EXPECT_EQ(all[0].rows, 400u);
    EXPECT_NEAR(all[0].seconds, 20, 2);
    EXPECT_FALSE(all[1].fault.empty()) << "and why it cannot be opened";
}
