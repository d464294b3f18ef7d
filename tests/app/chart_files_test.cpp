// What the chart is made of and what it is written as: trips and recordings joined, bands and days,
// backdrops, files for any GIS, a page.
#include "chart_stage.hpp"

#include <cmath>
#include <gmock/gmock.h>

using namespace heron;
using namespace heron::app;
using Layer = ChartSheetView::Layer;
using ChartFiles = test::ChartStage;

TEST_F(ChartFiles, IsWrittenAsFilesThatAnyGisOpens) {
    open();
    const auto tif = folder.file("chart.tif"), gpkg = folder.file("chart.gpkg");
    maker().write(QString::fromStdString(tif));
    ASSERT_TRUE(test::wait_for([&] { return notice().contains(QStringLiteral("chart.tif")); }))
        << notice().toStdString();
    EXPECT_TRUE(notice().contains(QStringLiteral("Not for navigation")));
    maker().write(QString::fromStdString(gpkg));
    ASSERT_TRUE(test::wait_for([&] { return notice().contains(QStringLiteral("chart.gpkg")); }))
        << notice().toStdString();
    EXPECT_NE(test::run("gdalinfo " + tif).out.find("hardness"), std::string::npos);
    EXPECT_NE(test::run("ogrinfo -ro " + gpkg).out.find("contours"), std::string::npos);
    maker().write(QStringLiteral("/proc/none/chart.tif"));
    EXPECT_TRUE(test::wait_for([&] { return notice().contains(QStringLiteral("cannot be written")); }));
}

TEST_F(ChartFiles, AnotherTripJoinsTheChartAndLeavesItAgain) {
    open();
    const auto tiles = maker().tiles().size();
    const auto before = maker().sheet()->looks_m2;
    // Two passes over the same ground are two looks.
    maker().addFiles({QString::fromStdString(test::sample())});
    ASSERT_TRUE(test::wait_for([&] { return maker().files().size() == 1 && !maker().adding(); }, 60000))
        << notice().toStdString();
    ASSERT_TRUE(test::wait_for(
        [&] { return maker().sheet() && maker().sheet()->looks_m2[2] > before[2] + 100; }, 20000));
    EXPECT_EQ(maker().tiles().size(), tiles);
    EXPECT_TRUE(find("addTrips")->property("checked").toBool());
    press("addTrips");
    ASSERT_TRUE(test::wait_for(
        [&] {
            return maker().files().isEmpty() && maker().sheet() &&
                   maker().sheet()->looks_m2[2] < before[2] + 100;
        },
        20000));
    // What cannot be charted is told, and the chart stays.
    maker().addFiles({QStringLiteral("/nowhere/at/all.nc")});
    ASSERT_TRUE(test::wait_for([&] { return notice().contains(QStringLiteral("/nowhere/at/all.nc")); }));
    EXPECT_EQ(maker().tiles().size(), tiles);
}

// Two places some kilometres apart: a file of all that lies between would be some 57 million cells of 0.25 m.
TEST_F(ChartFiles, AFileThatSpansTooMuchSaysHowWideItsCellsAre) {
    open();
    const auto far = folder.file("far.nc"), tif = folder.file("wide.tif");
    const auto made = test::run("/usr/bin/python3 " + std::string(HERON_TESTS) + "/make_other_band.py " +
                                test::sample() + " " + far + " 0.02");
    ASSERT_EQ(made.code, 0) << made.out;
    const auto before = maker().tiles().size();
    maker().addFiles({QString::fromStdString(far)});
    ASSERT_TRUE(test::wait_for([&] { return maker().tiles().size() > before + 10; }, 60000))
        << notice().toStdString();
    maker().write(QString::fromStdString(tif));
    ASSERT_TRUE(test::wait_for([&] { return notice().contains(QStringLiteral("wide.tif")); }, 120000))
        << notice().toStdString();
    EXPECT_TRUE(notice().contains(QStringLiteral("1.6 ft wide"))) << notice().toStdString();
    EXPECT_TRUE(notice().contains(QStringLiteral("Not for navigation")));
    const auto told = test::run("gdalinfo " + tif).out;
    EXPECT_NE(told.find("Pixel Size = (0.5"), std::string::npos) << told;
}

TEST_F(ChartFiles, LooksBlendAndOneBandOrDayIsLaidAlone) {
    open();
    const auto &band = *find("chartBand"), &day = *find("chartDay");
    EXPECT_FALSE(band.isEnabled()) << "one band: nothing to choose";
    EXPECT_FALSE(day.isEnabled());
    // Two files of other bands and days over it.
    const auto other = folder.file("other.nc");
    const auto made = test::run("/usr/bin/python3 " + std::string(HERON_TESTS) + "/make_other_band.py " +
                                test::sample() + " " + other);
    ASSERT_EQ(made.code, 0) << made.out;
    maker().addFiles({QString::fromStdString(other)});
    ASSERT_TRUE(
        test::wait_for([&] { return maker().files().size() == 1 && maker().bands().size() == 2; }, 60000))
        << notice().toStdString();
    ASSERT_EQ(maker().days().size(), 2u);
    ASSERT_TRUE(test::wait_for([&] { return band.isEnabled() && day.isEnabled(); }));
    const auto level_sum = [&] {
        std::uint64_t sum = 0;
        for (const auto &[key, tile] : maker().tiles())
            for (const auto v : tile.level)
                sum += v;
        return sum;
    };
    const auto looks = [&] { return maker().sheet() ? maker().sheet()->looks_m2[2] : -1.0; };
    const auto best = level_sum();
    ASSERT_TRUE(test::wait_for([&] { return looks() > 100; }, 20000));
    key(Qt::Key_A, Qt::ShiftModifier);
    ASSERT_TRUE(test::wait_for([&] { return level_sum() != best; }, 20000)) << "looks are mixed";
    key(Qt::Key_A, Qt::ShiftModifier);
    ASSERT_TRUE(test::wait_for([&] { return level_sum() == best; }, 20000)) << "and the best shows again";
    // One band alone: the second look at each place is gone.
    key(Qt::Key_B, Qt::ShiftModifier);
    EXPECT_EQ(maker().choice().khz, *maker().bands().begin());
    ASSERT_TRUE(test::wait_for([&] { return looks() >= 0 && looks() < 100 && !maker().adding(); }, 60000));
    key(Qt::Key_B, Qt::ShiftModifier);
    key(Qt::Key_B, Qt::ShiftModifier);
    EXPECT_TRUE(maker().choice().all()) << "after the last all again";
    ASSERT_TRUE(test::wait_for([&] { return maker().files().size() == 1 && looks() > 100; }, 60000));
    key(Qt::Key_L, Qt::ShiftModifier);
    EXPECT_TRUE(maker().choice().day);
    ASSERT_TRUE(test::wait_for([&] { return looks() >= 0 && looks() < 100; }, 60000));
}

TEST_F(ChartFiles, WhatWasLaidByAnotherChoiceIsGone) {
    open();
    const auto tiles = maker().tiles().size();
    ASSERT_GT(tiles, 0u);
    RowChoice none;
    none.khz = *maker().bands().begin() + 100; // nothing was sounded at it
    maker().choose(none);
    EXPECT_TRUE(test::wait_for([&] { return maker().tiles().empty(); }, 20000));
    EXPECT_TRUE(test::shows_something(view().grab().toImage()));
    // A recording that comes next is laid whole.
    session().sources.openRecording(QString::fromStdString(test::sample()));
    EXPECT_TRUE(
        test::wait_for([&] { return maker().choice().all() && maker().tiles().size() == tiles; }, 60000))
        << maker().tiles().size();
}

TEST_F(ChartFiles, TheBandIsHatchedInThePictureToo) {
    open();
    key(Qt::Key_2);
    const auto plain = window->grab().toImage();
    key(Qt::Key_5);
    press("layerBand");
    ASSERT_TRUE(state().depthBand());
    // Whatever of it lies in this water.
    for (int i = 0; i < 3; ++i)
        key(Qt::Key_Minus);
    key(Qt::Key_2);
    int changed = 0;
    for (int i = 0; i < 6 && changed < 50; ++i) {
        const auto with = window->grab().toImage();
        changed = 0;
        for (int y = 100; y < plain.height() - 100; y += 2)
            for (int x = 100; x < plain.width() - 100; x += 2)
                changed += plain.pixel(x, y) != with.pixel(x, y);
        if (changed < 50) {
            key(Qt::Key_5);
            key(Qt::Key_Equal);
            key(Qt::Key_2);
        }
    }
    EXPECT_GE(changed, 50) << "hatched where the bottom lies in the band";
    key(Qt::Key_5);
    press("layerBand");
    EXPECT_FALSE(state().depthBand());
}

TEST_F(ChartFiles, FilesAloneMakeAChart) {
    maker().addFiles({QString::fromStdString(test::sample())});
    key(Qt::Key_5);
    ASSERT_TRUE(test::wait_for([&] { return maker().sheet() != nullptr && !maker().tiles().empty(); }, 60000))
        << notice().toStdString();
    QTest::qWait(200);
    EXPECT_TRUE(test::shows_something(sheet().grab().toImage()));
    EXPECT_FALSE(sheet().boat());
}

TEST_F(ChartFiles, ABackdropLiesUnderIt) {
    open();
    const auto &zone = *maker().zone();
    const auto spot = maker().sheet()->track[0].front();
    const auto a = from_utm(zone, spot.east_m - 40, spot.north_m),
               b = from_utm(zone, spot.east_m + 40, spot.north_m + 20);
    std::ofstream(folder.file("shore.geojson"))
        << R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{"name":"Shore"},"geometry":{"type":"LineString","coordinates":[[)"
        << std::to_string(a.longitude_deg) << "," << std::to_string(a.latitude_deg) << "],["
        << std::to_string(b.longitude_deg) << "," << std::to_string(b.latitude_deg) << "]]}}]}";
    const auto bare = sheet().grab().toImage();
    program->backdrops.open(QString::fromStdString(folder.file("shore.geojson")));
    ASSERT_TRUE(test::wait_for([&] { return program->backdrops.drawn() != nullptr; }))
        << notice().toStdString();
    QTest::qWait(100);
    const auto with = sheet().grab().toImage();
    EXPECT_NE(with, bare);
    press("layerBackdrop");
    EXPECT_FALSE(sheet().shows(Layer::backdrop));
    EXPECT_NE(sheet().grab().toImage(), with);
    press("layerBackdrop");
    press("backdrop");
    EXPECT_EQ(program->backdrops.drawn(), nullptr);
    // What is no such file is refused in words.
    std::ofstream(folder.file("bad.kml")) << "<!DOCTYPE a [<!ENTITY b \"c\">]><kml>&b;</kml>";
    program->backdrops.open(QString::fromStdString(folder.file("bad.kml")));
    ASSERT_TRUE(test::wait_for([&] { return notice().contains(QStringLiteral("entities")); }))
        << notice().toStdString();
}

TEST_F(ChartFiles, APageIsWrittenThatSaysWhatItIs) {
    open();
    sheet().writePdf(QString::fromStdString(folder.file("page.pdf")));
    EXPECT_EQ(test::contents(folder.file("page.pdf")).substr(0, 5), "%PDF-");
    EXPECT_TRUE(notice().contains(QStringLiteral("Not for navigation"))) << notice().toStdString();
    sheet().writePdf(QStringLiteral("/nowhere/at/all/page.pdf"));
    EXPECT_TRUE(notice().contains(QStringLiteral("could not be written"))) << notice().toStdString();
    for (const char *name : {"c.kmz", "c.png"}) {
        maker().write(QString::fromStdString(folder.file(name)));
        ASSERT_TRUE(test::wait_for([&] { return std::filesystem::exists(folder.file(name)); }, 20000))
            << name;
    }
}
