// Numbers in text from outside: a point is the decimal sign, wherever the desktop is at home.
#include "units/number_text.hpp"

#include "comma_locale.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

using namespace heron;

TEST(NumberText, ANumberAndNothingElse) {
    EXPECT_EQ(number_in_text("5.25"), 5.25);
    EXPECT_EQ(number_in_text(" \t+5.25\n"), 5.25);
    EXPECT_EQ(number_in_text("-2.5e-3"), -0.0025);
    for (const char *none : {"", " ", "+", "-", "+-5", "5,25", "5.25 m", "nan", "inf", "1e999", "0x10", "."})
        EXPECT_FALSE(number_in_text(none)) << none;
}

TEST(NumberText, OneIsTakenOffTheFront) {
    std::string_view text = " 14.5,+57.25 rest";
    EXPECT_EQ(take_number(text), 14.5);
    EXPECT_EQ(text, ",+57.25 rest");
    EXPECT_FALSE(take_number(text));
    EXPECT_EQ(text, ",+57.25 rest") << "as it was";
    text.remove_prefix(1);
    EXPECT_EQ(take_number(text), 57.25);
    EXPECT_EQ(text, " rest");
}

TEST(NumberText, TheDesktopsDecimalCommaChangesNothing) {
    const test::CommaLocale comma;
    ASSERT_TRUE(comma.in_force());
    EXPECT_EQ(number_in_text("5.25"), 5.25);
    EXPECT_FALSE(number_in_text("5,25"));
}

RC_GTEST_PROP(NumberText, WhatIsPrintedComesBack, (int a, int b)) {
    const double v = a / (1.0 + std::abs(b % 1000));
    RC_ASSERT(number_in_text(fmt::format("  {} ", v)) == v);
    const auto text = fmt::format("{}x", v);
    std::string_view left = text;
    RC_ASSERT(take_number(left) == v);
    RC_ASSERT(left == "x");
}
