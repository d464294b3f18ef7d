// The place Chart in the real window: a chart of a recording, its layers, what is read off it, marks,
// lengths, files.
#include "stage.hpp"

#include "picture/plan_patch.hpp"

#include "views/chart/chart_sheet_view.hpp"
#include "views/chart/chart_view.hpp"

#include <cmath>

using namespace heron;
using namespace heron::app;
using Layer = ChartSheetView::Layer;

namespace {

class Chart : public test::Stage {
  protected:
    ChartView &view() { return window->view<ChartView>(); }
    ChartSheetView &sheet() { return view().sheet(); }
    ChartMaker &maker() { return program->chart; }

    void open() {
        session().playback.setSpeed(1000);
        session().sources.openRecording(QString::fromStdString(test::sample()));
        ASSERT_TRUE(test::wait_for([&] { return session().sources.flow() == Sources::Flow::ended; }, 60000));
        key(Qt::Key_5);
        ASSERT_TRUE(test::wait_for([&] { return maker().finished(); }, 60000));
        ASSERT_TRUE(test::wait_for([&] { return sheet().boat().has_value(); }));
        QTest::qWait(300);
    }
    // Some metres from the boat, to the east and north.
    QPoint beside(double east, double north) {
        const auto at = *sheet().boat();
        return sheet().positionOf({at.east_m + east, at.north_m + north}).toPoint();
    }
};

} // namespace

TEST_F(Chart, GrowsFromARecordingAndSaysWhatLiesUnderThePointer) {
    key(Qt::Key_5);
    EXPECT_TRUE(test::shows_something(sheet().grab().toImage())) << "words where nothing is charted";
    EXPECT_TRUE(view().readOut().isEmpty());
    for (const char *name : {"writeChart", "planLanes", "chartMeasure", "chartScan", "bandDeeper"})
        EXPECT_FALSE(find(name)->isEnabled()) << name << ": there is no chart";
    EXPECT_FALSE(sheet().bandKnown());
    open();
    EXPECT_TRUE(test::shows_something(sheet().grab().toImage()));
    // On the track: sounded, within what the recording's own sounder says.
    const auto &track = maker().sheet()->track;
    ASSERT_FALSE(track.empty());
    const auto spot = track[0][track[0].size() / 2];
    QTest::mouseClick(&sheet(), Qt::LeftButton, Qt::NoModifier, sheet().positionOf(spot).toPoint());
    ASSERT_TRUE(sheet().picked());
    const auto said = view().readOut();
    ASSERT_GE(said.size(), 3) << said.join(QLatin1Char('|')).toStdString();
    const auto row = scan().end() / 2;
    const double depth = scan().bottom(row).altitude_m + scan().installation.draught_m();
    EXPECT_NEAR(metres_from_feet(said[0].section(QLatin1Char(' '), 0, 0).toDouble()), depth, 0.8)
        << said[0].toStdString();
    EXPECT_TRUE(said.join(QLatin1Char('|')).contains(QStringLiteral("from the boat")));
    key(Qt::Key_Escape);
    EXPECT_FALSE(sheet().picked());
}

TEST_F(Chart, EachLayerShowsSomethingOfItsOwn) {
    open();
    key(Qt::Key_F);
    const char *const names[] = {"layerMosaic", "layerContours", "layerBand", "layerLooks", "layerTrack"};
    for (const char *name : names) {
        const auto before = sheet().grab().toImage();
        press(name);
        EXPECT_NE(sheet().grab().toImage(), before) << name;
        press(name);
        EXPECT_EQ(sheet().grab().toImage(), before) << name << " and back";
    }
    // The whole row is the target, and the band can be moved.
    ASSERT_FALSE(sheet().shows(Layer::band));
    auto *band = find("layerBand");
    QTest::mouseClick(&view(), Qt::LeftButton, Qt::NoModifier, band->geometry().center() - QPoint(170, 0));
    EXPECT_TRUE(sheet().shows(Layer::band));
    const double from = sheet().bandFrom();
    const auto depth = scan().bottom(scan().end() / 2).altitude_m;
    EXPECT_NEAR(from, depth, 2.5) << "about what was sounded";
    key(Qt::Key_Equal);
    EXPECT_GT(sheet().bandFrom(), from);
}

TEST_F(Chart, AMarkOnTheChartLiesWhereItWasPressed) {
    open();
    const auto &track = maker().sheet()->track[0];
    const auto spot = sheet().positionOf(track[track.size() / 2]).toPoint() + QPoint(12, 30);
    const auto place = sheet().placeAt(spot);
    QTest::mouseClick(&sheet(), Qt::LeftButton, Qt::NoModifier, spot);
    key(Qt::Key_V);
    ASSERT_EQ(marks().all().size(), 1u) << notice().toStdString();
    const auto &mark = marks().all()[0];
    EXPECT_EQ(mark.family, Family::hazard);
    ASSERT_TRUE(mark.place);
    EXPECT_LT(leg_between(*mark.place, *sheet().onGlobe(place)).distance_m, 0.05);
    EXPECT_GT(mark.place_covariance.radial_sd_m(), 0.9);
    EXPECT_TRUE(notice().contains(QStringLiteral("saved"))) << notice().toStdString();
    // It is drawn, selected by a press, and stays with the layer of marks off: it is a hazard.
    press("layerMarks");
    QTest::qWait(50);
    EXPECT_FALSE(sheet().shows(Layer::marks));
    EXPECT_EQ(sheet().markAt(spot), QString::fromStdString(mark.id));
    const auto with = sheet().grab().toImage();
    marks().remove(QString::fromStdString(mark.id));
    EXPECT_NE(sheet().grab().toImage(), with) << "it was drawn all the same";
}

TEST_F(Chart, APlaceIsShownInScan) {
    open();
    ASSERT_TRUE(find("chartScan")->isEnabled());
    key(Qt::Key_M);
    EXPECT_TRUE(notice().contains(QStringLiteral("Press on the chart"))) << notice().toStdString();
    const auto &track = maker().sheet()->track[0];
    const auto &a = track[track.size() / 2], &b = track[track.size() / 2 + 2];
    // Eight metres to the right of the track.
    const double length = std::hypot(b.east_m - a.east_m, b.north_m - a.north_m);
    const EastNorth aside{a.east_m + 8 * (b.north_m - a.north_m) / length,
                          a.north_m - 8 * (b.east_m - a.east_m) / length};
    QTest::mouseClick(&sheet(), Qt::LeftButton, Qt::NoModifier, sheet().positionOf(aside).toPoint());
    key(Qt::Key_M);
    EXPECT_EQ(window->rail().current(), place::scan);
    const auto place = *sheet().onGlobe(aside);
    const auto row = passes_at(scan(), place, scan().end()).back().row;
    const auto fix = scan().nav.fix_at(scan().facts(row).time);
    ASSERT_TRUE(fix);
    EXPECT_NEAR(leg_between(fix->pose.antenna, place).distance_m, 8, 2.5);
}

TEST_F(Chart, ALengthIsTheGlobes) {
    open();
    key(Qt::Key_D);
    const auto a = beside(-10, 0), b = beside(20, 12);
    QTest::mouseClick(&sheet(), Qt::LeftButton, Qt::NoModifier, a);
    QTest::mouseClick(&sheet(), Qt::LeftButton, Qt::NoModifier, b);
    ASSERT_TRUE(sheet().measured());
    const auto one = sheet().placeAt(a), two = sheet().placeAt(b);
    const double on_grid = std::hypot(two.east_m - one.east_m, two.north_m - one.north_m);
    EXPECT_NEAR(*sheet().measured(), on_grid, 0.002 * on_grid)
        << "the grid's scale is within a part in a thousand";
    EXPECT_NE(*sheet().measured(), on_grid);
    key(Qt::Key_Escape);
    EXPECT_FALSE(sheet().measures());
}

TEST_F(Chart, APlaceKeepsItsPlaceWhileItIsZoomedAndDragged) {
    open();
    const auto spot = beside(5, 5);
    const auto place = sheet().placeAt(spot);
    QWheelEvent wheel(spot, sheet().mapToGlobal(spot), {}, {0, 240}, Qt::NoButton, Qt::NoModifier,
                      Qt::NoScrollPhase, false);
    QApplication::sendEvent(&sheet(), &wheel);
    const auto zoomed = sheet().placeAt(spot);
    EXPECT_NEAR(zoomed.east_m, place.east_m, 1e-6);
    EXPECT_NEAR(zoomed.north_m, place.north_m, 1e-6);
    QTest::mousePress(&sheet(), Qt::LeftButton, Qt::NoModifier, spot);
    QTest::mouseMove(&sheet(), spot + QPoint(60, 30));
    QTest::mouseRelease(&sheet(), Qt::LeftButton, Qt::NoModifier, spot + QPoint(60, 30));
    const auto dragged = sheet().placeAt(QPointF(spot + QPoint(60, 30)));
    EXPECT_NEAR(dragged.east_m, place.east_m, 0.5);
    EXPECT_NEAR(dragged.north_m, place.north_m, 0.5);
    EXPECT_FALSE(sheet().picked()) << "a drag picks nothing";
}

TEST_F(Chart, LanesArePlannedOverAnAreaFollowedAndWritten) {
    open();
    key(Qt::Key_S);
    ASSERT_TRUE(sheet().plans());
    for (const auto &[e, n] : {std::pair{-60.0, -40.0}, {60.0, -40.0}, {60.0, 40.0}, {-60.0, 40.0}})
        QTest::mouseClick(&sheet(), Qt::LeftButton, Qt::NoModifier, beside(e / 3, n / 3));
    EXPECT_FALSE(sheet().picked()) << "a press is a corner now";
    key(Qt::Key_S);
    EXPECT_FALSE(sheet().plans());
    const auto &plan = sheet().lanes().plan();
    ASSERT_FALSE(plan.lanes.empty());
    EXPECT_NEAR(plan.area_m2, 40.0 * 80 / 3, 60);
    EXPECT_NEAR(plan.spacing_m, sheet().laneSpacing(), 1e-9);
    EXPECT_TRUE(test::shows_something(sheet().grab().toImage()));
    EXPECT_TRUE(test::shows_something(view().grab().toImage()));
    const double bearing = plan.bearing_deg;
    key(Qt::Key_Q);
    EXPECT_NEAR(std::fabs(wrap_180(sheet().lanes().plan().bearing_deg - bearing)), 90, 1e-6);
    const auto gpx = folder.file("lanes.gpx");
    view().writeRoute(QString::fromStdString(gpx));
    EXPECT_TRUE(notice().contains(QStringLiteral("Lanes written"))) << notice().toStdString();
    const auto read = test::run("gpsbabel -r -i gpx -f " + gpx + " -o csv -F -");
    EXPECT_EQ(read.code, 0) << read.out;
    EXPECT_EQ(static_cast<std::size_t>(std::count(read.out.begin(), read.out.end(), '\n')),
              2 * sheet().lanes().plan().lanes.size());
    view().writeRoute(QStringLiteral("/proc/none/lanes.gpx"));
    EXPECT_TRUE(notice().contains(QStringLiteral("/proc/none"))) << notice().toStdString();
    EXPECT_FALSE(notice().contains(QStringLiteral("Lanes written to /proc"))) << notice().toStdString();
    key(Qt::Key_Escape);
    EXPECT_TRUE(sheet().lanes().plan().lanes.empty());
}

TEST_F(Chart, IsWrittenAsFilesThatAnyGisOpens) {
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
