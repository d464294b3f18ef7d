// Read: contacts as chips, the fold with its handles, reasons, and a mark where the thing lies.
#include "parts/picture_over_section.hpp"
#include "stage.hpp"

#include "kit/item_list.hpp"
#include "trips.hpp"
#include "views/read/read_view.hpp"

using namespace heron;
using namespace heron::app;

namespace {

class Read : public test::Stage {
  protected:
    void SetUp() override {
        Stage::SetUp();
        session().playback.setSpeed(1000);
        session().sources.openRecording(QString::fromStdString(test::sample()));
        ASSERT_TRUE(test::wait_for([&] { return session().sources.flow() == Sources::Flow::ended; }));
        ASSERT_TRUE(test::wait_for([&] { return program->reader.readUntil() >= scan().end(); }, 60000));
        key(Qt::Key_3);
        ASSERT_EQ(window->rail().current(), place::read);
        ASSERT_GT(view().shown().size(), 8u);
    }
    void press_chip(int row) {
        auto *list = find<ItemList>("contacts");
        const auto box = list->visualRect(list->model()->index(row, 0));
        QTest::mouseClick(list->viewport(), Qt::LeftButton, Qt::NoModifier, box.center());
    }
    ReadView &view() { return window->view<ReadView>(); }
};

} // namespace

TEST_F(Read, TheSampleIsReadBesideThePictureAsTheCoreReadsIt) {
    Reader reader;
    const auto mine = join_contacts(reader.advance(scan(), true), ReaderSettings().least_confidence);
    // The window reads in shorter blocks, so that a thing at a seam may differ.
    EXPECT_NEAR(static_cast<double>(view().shown().size()), static_cast<double>(mine.size()), 4);
    EXPECT_TRUE(test::shows_something(view().grab().toImage()));
}

TEST_F(Read, FiltersAndOrdersAreKeys) {
    const auto all = view().shown().size();
    key(Qt::Key_X);
    EXPECT_EQ(view().only(), Family::structure);
    EXPECT_LT(view().shown().size(), all);
    for (const auto *c : view().shown())
        EXPECT_TRUE(c->family == Family::structure || c->family == Family::unsure);
    press("readAll");
    EXPECT_EQ(view().shown().size(), all);
    press("readOrder");
    press("readOrder");
    ASSERT_EQ(view().order(), ReadView::Order::height);
    const auto height = [](const Contact *c) { return c->height_m ? c->height_m->value : 0; };
    for (std::size_t i = 1; i < view().shown().size(); ++i)
        EXPECT_GE(height(view().shown()[i - 1]), height(view().shown()[i]));
    press("readOrder");
    press("readOrder");
    ASSERT_EQ(view().order(), ReadView::Order::depth);
    for (std::size_t i = 1; i < view().shown().size(); ++i)
        EXPECT_GE(view().shown()[i - 1]->depth_m, view().shown()[i]->depth_m);
}

TEST_F(Read, DownTakesTheNextAndAPressTakesAChip) {
    const auto *first = view().selected();
    ASSERT_NE(first, nullptr);
    key(Qt::Key_Down);
    ASSERT_NE(view().selected(), nullptr);
    EXPECT_NE(view().selected(), first);
    key(Qt::Key_Up);
    EXPECT_EQ(view().selected(), first);
    press_chip(1);
    EXPECT_EQ(view().selected(), view().shown()[1]);
}

TEST_F(Read, AHandleDraggedChangesTheHeightByTheFormula) {
    press("readOrder");
    press("readOrder"); // tallest first
    press_chip(0);
    ASSERT_EQ(view().selected(), view().shown()[0]);
    ASSERT_TRUE(view().fold().handles()) << "the tallest threw a shadow";
    ASSERT_TRUE(view().fold().measured());
    const double before = view().fold().measured()->shadow.height_m.value;
    const auto grip = view().fold().handleAt(true);
    QTest::mousePress(&view().fold(), Qt::LeftButton, Qt::NoModifier, grip);
    QTest::mouseMove(&view().fold(), grip + QPoint(40, 0));
    QTest::mouseRelease(&view().fold(), Qt::LeftButton, Qt::NoModifier, grip + QPoint(40, 0));
    EXPECT_TRUE(view().fold().moved());
    const auto h = *view().fold().handles();
    const double a = scan().bottom(h.row).altitude_m;
    EXPECT_GT(view().fold().measured()->shadow.height_m.value, before);
    EXPECT_NEAR(view().fold().measured()->shadow.height_m.value, a * (h.end_m - h.top_m) / h.end_m, 1e-9);
    view().setFocus();
    key(Qt::Key_Left); // a sample back
    EXPECT_LT(view().fold().handles()->end_m, h.end_m);
    key(Qt::Key_Escape); // as it was read
    EXPECT_FALSE(view().fold().moved());
    EXPECT_NEAR(view().fold().measured()->shadow.height_m.value, before, 1e-9);
}

// One bottom for the figures, the section and the mark: whatever is told is told the same.
TEST_F(Read, TheSectionTellsWhatTheFiguresTell) {
    int compared = 0;
    for (const auto *c : view().shown()) {
        if (!c->height_m || c->zone != Zone::ground || c->placement != Placement::on_bottom)
            continue;
        MeasureHandles h;
        h.row = c->row;
        h.side = c->side;
        h.top_m = c->top_m;
        h.end_m = c->shadow_end_m;
        const auto m = measure(scan(), h, c->bottom);
        ASSERT_TRUE(m);
        EXPECT_NEAR(m->shadow.ground_m.value, c->ground_m.value, 0.05);
        // A wall's height is of all of its rays, the section is one of them.
        EXPECT_NEAR(m->shadow.height_m.value, c->height_m->value, c->large ? c->height_m->sd : 0.05);
        EXPECT_NEAR(m->water_depth_m.value, c->depth_m, 0.05);
        ++compared;
    }
    EXPECT_GT(compared, 5);
}

TEST_F(Read, AMarkStandsWhereTheThingLiesWithItsKindAndReasons) {
    const auto *c = view().selected();
    ASSERT_NE(c, nullptr);
    const auto place = c->place;
    const auto height = c->height_m;
    const double depth = c->depth_m;
    const auto kind = c->family != Family::unsure && c->kind_sure ? c->kind : Kind::none;
    key(Qt::Key_M);
    ASSERT_EQ(marks().all().size(), 1u);
    const auto &m = marks().all()[0];
    EXPECT_EQ(m.kind, kind);
    EXPECT_FALSE(m.note.empty());
    EXPECT_FALSE(m.chip.empty());
    ASSERT_TRUE(m.depth_m);
    EXPECT_DOUBLE_EQ(m.depth_m->value, depth) << "one depth in Read and in Marks";
    // The height that Read tells, with its doubt.
    ASSERT_EQ(m.height_m.has_value(), height.has_value());
    if (height) {
        EXPECT_DOUBLE_EQ(m.height_m->value, height->value);
        EXPECT_DOUBLE_EQ(m.height_m->sd, height->sd);
    }
    // What is said of it covers neither head line nor keys: it has a line of its own.
    const QRect whole(view().mapTo(window.get(), QPoint(0, 0)), view().size());
    EXPECT_FALSE(window->status().geometry().intersects(whole));
    ASSERT_TRUE(m.place && place);
    EXPECT_LT(leg_between(*m.place, place->place).distance_m, 0.01);
    EXPECT_TRUE(notice().contains(QStringLiteral("saved"))) << notice().toStdString();
}

TEST_F(Read, ShowsTheThingInThePictureOfTheTrip) {
    const auto row = view().selected()->row;
    press("readScan");
    EXPECT_EQ(window->rail().current(), place::scan);
    EXPECT_TRUE(picture().frozen());
    EXPECT_TRUE(picture().rowVisible(row));
}
