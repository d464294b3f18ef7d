// The place Chart in the real window: its layers, what is read off it, marks, lengths, lanes.
#include "chart_stage.hpp"

#include <cmath>
#include <gmock/gmock.h>

using namespace heron;
using namespace heron::app;
using Layer = ChartSheetView::Layer;
using Chart = test::ChartStage;

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
        EXPECT_FALSE(test::alike(sheet().grab().toImage(), before)) << name;
        press(name);
        EXPECT_TRUE(test::alike(sheet().grab().toImage(), before)) << name << " and back";
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

TEST_F(Chart, AWishInWordsPicksOutWhatMeetsIt) {
    open();
    ASSERT_TRUE(test::wait_for([&] { return !program->reader.contacts().empty(); }, 60000));
    key(Qt::Key_Slash);
    auto *wish = view().findChild<QLineEdit *>(QStringLiteral("chartWish"));
    ASSERT_TRUE(wish->isVisible());
    ASSERT_TRUE(test::wait_for([&] { return wish->hasFocus(); }));
    QTest::keyClicks(wish, QStringLiteral("lone stones in 1 to 200 ft"));
    EXPECT_EQ(sheet().wish().lone, true);
    EXPECT_TRUE(sheet().wish().not_understood.empty());
    const auto [meet, all] = sheet().met();
    EXPECT_GT(all, 0u);
    EXPECT_LT(meet, all);
    for (const auto &c : program->reader.contacts())
        if (c.place && c.confidence >= 0.5 && program->spots.meets(sheet().wish(), c)) {
            EXPECT_TRUE(c.kind == Kind::boulder || c.kind == Kind::rock_pile);
            EXPECT_TRUE(program->spots.of(c)->lone());
        }
    QTest::keyClicks(wish, QStringLiteral(" bluish"));
    EXPECT_THAT(sheet().wish().not_understood, testing::ElementsAre("bluish"));
    key(Qt::Key_Escape);
    EXPECT_FALSE(wish->isVisible());
    EXPECT_TRUE(sheet().wish().empty());
}

TEST_F(Chart, WhyAPlaceIsGoodStandsWithTheContact) {
    open();
    ASSERT_TRUE(test::wait_for([&] { return !program->reader.contacts().empty(); }, 60000));
    const auto &contacts = program->reader.contacts();
    const auto c = std::find_if(contacts.begin(), contacts.end(),
                                [](const Contact &k) { return k.place && k.family == Family::structure; });
    ASSERT_NE(c, contacts.end());
    const auto facts = program->spots.of(*c);
    ASSERT_TRUE(facts);
    const auto words = program->spots.words(*facts);
    ASSERT_FALSE(words.isEmpty());
    EXPECT_TRUE(words.join(QLatin1Char('|'))
                    .contains(facts->lone() ? QStringLiteral("alone") : QStringLiteral("neighbours")) ||
                words.join(QLatin1Char('|')).contains(QStringLiteral("more within")))
        << words.join(QLatin1Char('|')).toStdString();
}

TEST_F(Chart, TurnedBowUpAPressStillMeetsItsPlace) {
    open();
    const auto at = *sheet().boat();
    key(Qt::Key_U);
    ASSERT_TRUE(sheet().headUp());
    const EastNorth place{at.east_m + 12, at.north_m - 7};
    const auto back = sheet().placeAt(sheet().positionOf(place));
    EXPECT_NEAR(back.east_m, place.east_m, 1e-6);
    EXPECT_NEAR(back.north_m, place.north_m, 1e-6);
    // Ahead of the bow is up.
    const double h = session().shown.headingNow().value() / degrees_per_radian;
    const auto ahead = sheet().positionOf({at.east_m + 10 * std::sin(h), at.north_m + 10 * std::cos(h)}) -
                       sheet().positionOf(at);
    EXPECT_LT(ahead.y(), -1);
    EXPECT_NEAR(ahead.x(), 0, 0.01);
    const auto turned = sheet().grab().toImage();
    key(Qt::Key_U);
    EXPECT_NE(sheet().grab().toImage(), turned);
}

TEST_F(Chart, TheLakesLevelAndKnownGroundChangeTheSheet) {
    open();
    const auto &track = maker().sheet()->track[0];
    const auto spot = track[track.size() / 2];
    const auto depth_at = [&](const EastNorth &at) {
        const auto &d = maker().sheet()->depth;
        const auto i = d.raster.cell_at(at.east_m, at.north_m);
        return i ? static_cast<double>(d.depth_m[*i]) : std::nan("");
    };
    const double before = depth_at(spot);
    press("levelHigher");
    EXPECT_NEAR(maker().level(), metres_from_feet(0.5), 1e-9);
    ASSERT_TRUE(test::wait_for([&] {
        return std::fabs(depth_at(spot) - (before - metres_from_feet(0.5))) < 0.02;
    })) << before
        << " " << depth_at(spot);
    press("levelLower");
    ASSERT_TRUE(test::wait_for([&] { return std::fabs(depth_at(spot) - before) < 0.02; }));
    // Said to be hard, a place is hard.
    QTest::mouseClick(&sheet(), Qt::LeftButton, Qt::NoModifier, beside(9, -20));
    ASSERT_TRUE(sheet().picked());
    const auto known = *sheet().picked();
    press("knownGround");
    ASSERT_EQ(maker().known().size(), 1u);
    const auto hardness = [&] {
        const auto &h = maker().sheet()->hardness;
        const auto i = h.raster.cell_at(known.east_m, known.north_m);
        return i ? h.hardness[*i] : std::nanf("");
    };
    ASSERT_TRUE(test::wait_for([&] { return hardness() > 0.8F; })) << hardness();
    press("knownGround");
    EXPECT_FALSE(maker().known()[0].hard);
    ASSERT_TRUE(test::wait_for([&] { return hardness() < 0.3F; })) << hardness();
    press("knownGround");
    EXPECT_TRUE(maker().known().empty());
}

TEST_F(Chart, APassAlongALineKeepsItsDistance) {
    open();
    ASSERT_FALSE(maker().sheet()->transitions.empty() && maker().sheet()->contours.empty());
    const auto &line = maker().sheet()->transitions.empty() ? maker().sheet()->contours[0].line
                                                            : maker().sheet()->transitions[0].line;
    press("passAlong");
    EXPECT_TRUE(notice().contains(QStringLiteral("Press beside"))) << notice().toStdString();
    const auto middle = line[line.size() / 2];
    QTest::mouseClick(&sheet(), Qt::LeftButton, Qt::NoModifier,
                      (sheet().positionOf(middle) + QPointF(12, 6)).toPoint());
    ASSERT_TRUE(sheet().picked());
    press("passAlong");
    EXPECT_FALSE(sheet().lanes().plan().lanes.empty());
    EXPECT_TRUE(view().canWriteRoute());
}

TEST_F(Chart, LinesAndOutlinesAreDrawnByHandAndKeptAsMarks) {
    open();
    key(Qt::Key_S);
    const QPoint corners[] = {beside(5, 5), beside(15, 5), beside(15, 18)};
    QTest::mouseClick(&sheet(), Qt::LeftButton, Qt::NoModifier, corners[0]);
    key(Qt::Key_X);
    EXPECT_TRUE(marks().all().empty() || marks().all()[0].shape.empty()) << "one corner is no line";
    for (const auto &m : std::vector<Mark>(marks().all()))
        marks().remove(QString::fromStdString(m.id));
    for (int i = 1; i < 3; ++i)
        QTest::mouseClick(&sheet(), Qt::LeftButton, Qt::NoModifier, corners[i]);
    key(Qt::Key_X);
    ASSERT_EQ(marks().all().size(), 1u) << notice().toStdString();
    const auto line = marks().all()[0];
    ASSERT_EQ(line.shape.size(), 3u);
    EXPECT_FALSE(line.closed);
    // Ten metres along and thirteen up, to within a pixel or two and the scale of the grid.
    EXPECT_NEAR(line.length_m.value_or(0), 23, 1.5);
    EXPECT_FALSE(sheet().plans()) << "the corners are gone";
    // The last press on the first corner closes it.
    key(Qt::Key_S);
    for (const auto &c : corners)
        QTest::mouseClick(&sheet(), Qt::LeftButton, Qt::NoModifier, c);
    QTest::mouseClick(&sheet(), Qt::LeftButton, Qt::NoModifier, corners[0]);
    key(Qt::Key_V);
    ASSERT_EQ(marks().all().size(), 2u);
    EXPECT_TRUE(marks().all()[1].closed);
    EXPECT_EQ(marks().all()[1].shape.size(), 3u);
    EXPECT_EQ(marks().all()[1].level, Level::anyone) << "a hazard's place is anyone's";
    EXPECT_TRUE(notice().contains(QStringLiteral("outline"))) << notice().toStdString();
    EXPECT_TRUE(test::shows_something(sheet().grab().toImage()));
}

TEST_F(Chart, ShoalsAreCrossedWhateverIsShown) {
    open();
    for (const auto layer : {Layer::mosaic, Layer::hardness, Layer::contours, Layer::transitions,
                             Layer::track, Layer::looks, Layer::marks, Layer::contacts})
        sheet().setShown(layer, false);
    const auto crosses = [&] {
        const auto image = sheet().grab().toImage();
        const auto accent = colour("accent").rgb();
        int n = 0;
        for (int y = 60; y < image.height() - 60; ++y)
            for (int x = 60; x < image.width() - 60; ++x)
                n += image.pixel(x, y) == accent;
        return n;
    };
    EXPECT_LT(crosses(), 200) << "all of it is deep enough";
    // The lake has fallen by so much that what was sounded is shoal.
    float deepest = 0;
    for (const float d : maker().sheet()->depth.depth_m)
        deepest = d == d ? std::max(deepest, d) : deepest;
    maker().setLevel(-static_cast<double>(deepest));
    EXPECT_GT(crosses(), 400);
}

TEST_F(Chart, AnotherColourMapShowsAtOnce) {
    open();
    auto &theme = Theme::instance();
    const auto map = theme.mapName();
    const auto before = sheet().grab().toImage();
    theme.nextMap(1);
    ASSERT_NE(theme.mapName(), map);
    EXPECT_FALSE(test::alike(sheet().grab().toImage(), before));
    theme.setMap(map);
    EXPECT_TRUE(test::alike(sheet().grab().toImage(), before));
}

// What was painted before is moved while a hand drags, and is what a fresh painting would show; zoomed it is
// painted anew when the hand rests.
TEST_F(Chart, WhatIsDraggedOrZoomedIsInTheEndWhatIsThere) {
    open();
    key(Qt::Key_F);
    const auto fresh = [&] { // the same, painted from nothing
        press("layerTrack");
        sheet().grab();
        press("layerTrack");
        return sheet().grab().toImage();
    };
    const QPoint spot(300, 300), to = spot + QPoint(90, -60);
    const auto place = sheet().placeAt(spot);
    QTest::mousePress(&sheet(), Qt::LeftButton, Qt::NoModifier, spot);
    for (const double share : {0.2, 0.5, 0.8, 1.0}) {
        QTest::mouseMove(&sheet(), spot + ((to - spot) * share));
        EXPECT_TRUE(test::shows_something(sheet().grab().toImage()));
    }
    QTest::mouseRelease(&sheet(), Qt::LeftButton, Qt::NoModifier, to);
    EXPECT_NEAR(sheet().placeAt(to).east_m, place.east_m, 0.01);
    QTest::mouseMove(&view(), QPoint(5, 5)); // nothing under the pointer
    QTest::qWait(400);
    const auto dragged = sheet().grab().toImage();
    EXPECT_TRUE(test::alike(dragged, fresh()));
    for (int i = 0; i < 4; ++i) {
        sheet().zoom(1.2, QPointF(to));
        sheet().grab();
    }
    QTest::qWait(400);
    const auto zoomed = sheet().grab().toImage();
    EXPECT_FALSE(test::alike(zoomed, dragged));
    EXPECT_TRUE(test::alike(zoomed, fresh()));
}
