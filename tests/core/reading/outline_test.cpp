// Distances and areas between corners, and the bottom drawn by hand.
#include "lake.hpp"
#include "programs.hpp"
#include "reading/outline.hpp"
#include "trip/bottom_by_hand.hpp"

#include <gmock/gmock.h>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

const Scan &straight() {
    static Scan scan;
    if (scan.empty())
        test::sound(scan, test::basin(), 500);
    return scan;
}
std::size_t row_at(double along_m) {
    const auto &scan = straight();
    std::size_t row = 100;
    while (row + 1 < scan.end() && scan.facts(row).along_m < along_m)
        ++row;
    return row;
}
Cursor corner(double along_m, double across_m) {
    const auto row = row_at(along_m);
    return {row, across_m < 0 ? Side::port : Side::starboard,
            std::hypot(across_m, straight().bottom(row).altitude_m)};
}

} // namespace

// A rectangle of 6 m by 4 m on a level bottom; a square of both sides' points; a triangle by Heron's formula.
TEST(Outline, AreasAreThoseOfGeometry) {
    Outline o;
    const std::vector corners{corner(15, 8), corner(21, 8), corner(21, 12), corner(15, 12)};
    ASSERT_EQ(measure_outline(straight(), corners, {}, o), OutlineState::measured);
    EXPECT_NEAR(o.area_m2.value, 24, 1.2);
    EXPECT_NEAR(o.length_m.value, 20, 0.6);
    EXPECT_GT(o.area_m2.sd, 0.1);
    EXPECT_LT(std::fabs(o.area_m2.value - 24), 3 * o.area_m2.sd);
    const std::vector pair{corner(15, -8), corner(15, 8)};
    ASSERT_EQ(measure_outline(straight(), pair, {}, o), OutlineState::measured);
    EXPECT_NEAR(o.length_m.value, 16, 0.4);
    EXPECT_EQ(o.area_m2.value, 0);
    const std::vector triangle{corner(15, 8), corner(18, 12), corner(21, 8)};
    ASSERT_EQ(measure_outline(straight(), triangle, {}, o), OutlineState::measured);
    EXPECT_NEAR(o.area_m2.value, std::sqrt(8.0 * 3 * 3 * 2), 0.8); // sides 5, 5, 6
}

TEST(Outline, RefusesInWords) {
    Outline o;
    const auto state = [&](std::vector<Cursor> corners) {
        return measure_outline(straight(), corners, {}, o);
    };
    EXPECT_EQ(state({corner(15, 8)}), OutlineState::too_few);
    auto water = corner(15, 8);
    water.slant_m = 1;
    EXPECT_EQ(state({water, corner(16, 8)}), OutlineState::in_the_water);
    EXPECT_EQ(state({corner(15, 8), corner(21, 12), corner(21, 8), corner(15, 12)}), OutlineState::crossed);
    SteadyLimits slow;
    slow.fastest_m_s = 0.5;
    const std::vector two{corner(15, 8), corner(20, 8)};
    EXPECT_EQ(measure_outline(straight(), two, slow, o), OutlineState::not_straight);
    for (const auto s : {OutlineState::too_few, OutlineState::in_the_water, OutlineState::no_bottom,
                         OutlineState::not_straight, OutlineState::crossed})
        EXPECT_FALSE(say(s).empty());
}

TEST(BottomByHand, IsKeptAsTextAndPutIn) {
    Scan scan;
    test::sound(scan, test::basin(), 200);
    const double before = scan.bottom(60).altitude_m;
    const std::vector<BottomStroke> strokes{{50, std::vector<double>(20, 3.25)}, {60, {4.5, 4.5}}};
    EXPECT_EQ(strokes_from(text_of(strokes)), strokes);
    draw_bottom(scan, strokes);
    EXPECT_EQ(scan.bottom(55).source, BottomSource::hand);
    EXPECT_DOUBLE_EQ(scan.bottom(55).altitude_m, 3.25);
    EXPECT_DOUBLE_EQ(scan.bottom(60).altitude_m, 4.5) << "the later stroke lies over the earlier";
    EXPECT_NEAR(scan.bottom(80).altitude_m, before, 0.3);
    // Beyond the end nothing is put in, and nothing breaks.
    draw_bottom(scan, {{195, std::vector<double>(50, 2)}, {5000, {2}}});
    EXPECT_DOUBLE_EQ(scan.bottom(199).altitude_m, 2);
}

// Whatever the text, no stroke comes out that the scan could not take.
RC_GTEST_PROP(BottomByHand, AnyTextIsRead, ()) {
    auto text = text_of({{3, {1.5, 2.5, 2.5}}, {90, {7}}});
    const int hits = *rc::gen::inRange(0, 6);
    for (int i = 0; i < hits; ++i)
        text[static_cast<std::size_t>(*rc::gen::inRange(0, static_cast<int>(text.size())))] =
            *rc::gen::elementOf(std::string("[]{},.0123456789eE-+\"xn \0", 26));
    for (const auto &s : strokes_from(text)) {
        RC_ASSERT(!s.altitude_m.empty());
        for (const double a : s.altitude_m)
            RC_ASSERT(a >= 0.1 && a <= 200);
    }
}
