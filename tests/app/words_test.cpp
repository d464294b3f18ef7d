// What is said of a contact, in words and figures, before anything paints it.
#include "reading/contact_words.hpp"

#include <gtest/gtest.h>

using namespace heron;
using namespace heron::app;

namespace {

// A stump 4 m tall, 40 m aside over 20 m of water, as the formulas of the project have it (A = 20, g = 40, H
// = 4: r_t = 43.081, r_s = 53.852; computed).
Contact stump() {
    Contact c;
    c.family = Family::structure;
    c.kind = Kind::stump;
    c.kind_sure = true;
    c.placement = Placement::on_bottom;
    c.side = Side::port;
    c.row = 512;
    c.ground_m = {40, 0.5};
    c.height_m = Estimate{4, 0.3};
    c.depth_m = 20.4;
    c.length_m = 1.5;
    c.bottom.altitude_m = 20;
    return c;
}

HandMeasure measured() {
    HandMeasure hand;
    hand.handles = MeasureHandles{512, Side::port, 43.081, 53.852, 0, false};
    Measurement m;
    m.shadow.height_m = {4, 0.3};
    m.ground_m = {40, 0.5};
    hand.measured = m;
    return hand;
}

RowFacts straight() {
    RowFacts row;
    row.speed_m_s = 1.4F;
    row.turn_deg_s = 0;
    return row;
}

} // namespace

TEST(ContactSheet, TellsTheFourFiguresWithTheirDoubtAndTheFormula) {
    const auto sheet = contactSheet(stump(), straight(), measured(), UnitSystem::metres);
    EXPECT_EQ(sheet.title, QStringLiteral("Stump, on the bottom"));
    EXPECT_TRUE(sheet.seen.contains(QStringLiteral("left side · ping 512 · ran straight")))
        << sheet.seen.toStdString();
    EXPECT_EQ(sheet.figures[0].label, QStringLiteral("Height"));
    EXPECT_EQ(sheet.figures[0].figure, QStringLiteral("4.0 m"));
    EXPECT_EQ(sheet.figures[0].doubt, QStringLiteral("± 0.3 m"));
    EXPECT_EQ(sheet.figures[1].figure, QStringLiteral("40.0 m"));
    EXPECT_EQ(sheet.figures[2].figure, QStringLiteral("1.5 m"));
    EXPECT_EQ(sheet.figures[3].figure, QStringLiteral("20.4 m"));
    EXPECT_EQ(sheet.why, QStringLiteral("20.0 × (53.9 − 43.1) ÷ 53.9 = 4.0 m, true on any even slope"));
}

TEST(ContactSheet, InATurnNoLengthIsTold) {
    auto turning = straight();
    turning.turn_deg_s = 12;
    const auto sheet = contactSheet(stump(), turning, measured(), UnitSystem::feet);
    EXPECT_EQ(sheet.figures[2].figure, QStringLiteral("–"));
    EXPECT_EQ(sheet.figures[2].doubt, QStringLiteral("not measured here"));
    EXPECT_TRUE(sheet.seen.contains(QStringLiteral("no lengths")));
    // A single ping's height stands.
    EXPECT_EQ(sheet.figures[0].figure, QStringLiteral("13.1 ft"));
}

TEST(ContactSheet, WithoutAShadowItSaysSo) {
    auto c = stump();
    c.height_m.reset();
    const auto sheet = contactSheet(c, straight(), {}, UnitSystem::feet);
    EXPECT_EQ(sheet.figures[0].figure, QStringLiteral("–"));
    EXPECT_EQ(sheet.figures[0].doubt, QStringLiteral("no shadow to tell it"));
    c.zone = Zone::water;
    c.placement = Placement::suspended;
    const auto in_water = contactSheet(c, straight(), {}, UnitSystem::feet);
    EXPECT_TRUE(in_water.title.endsWith(QStringLiteral(", off the bottom")));
    EXPECT_TRUE(in_water.why.contains(QStringLiteral("no side distance")));
}

TEST(ContactSheet, TheHandsFiguresReplaceTheProgramsOnlyWhenItMoved) {
    auto hand = measured();
    hand.measured->shadow.height_m = {5, 0.2};
    EXPECT_EQ(contactSheet(stump(), straight(), hand, UnitSystem::metres).figures[0].figure,
              QStringLiteral("4.0 m"));
    hand.moved = true;
    EXPECT_EQ(contactSheet(stump(), straight(), hand, UnitSystem::metres).figures[0].figure,
              QStringLiteral("5.0 m"));
}

TEST(ContactWords, ADropUnderTheTrackLiesUnderTheBoat) {
    auto c = stump();
    c.zone = Zone::track;
    c.kind = Kind::channel;
    EXPECT_EQ(contactWhere(c, UnitSystem::feet), QStringLiteral("under the boat"));
    const auto sheet = contactSheet(c, straight(), {}, UnitSystem::feet);
    EXPECT_EQ(sheet.figures[2].label, QStringLiteral("Bank to bank"));
    EXPECT_EQ(inHundred(0.784), QStringLiteral("78 in 100"));
}
