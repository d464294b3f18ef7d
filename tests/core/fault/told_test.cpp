#include "fault/told.hpp"

#include <gtest/gtest.h>

using namespace heron;

TEST(Told, SentencesGoThroughTheTranslatorWithTheirFigures) {
    EXPECT_EQ(told("{} of {} rows", 3, 7), "3 of 7 rows");
    const auto before = translator();
    translator() = [](const char *english) -> std::string {
        return std::string(english) == "{} of {} rows" ? "von {1} Zeilen {0}" : english;
    };
    EXPECT_EQ(told("{} of {} rows", 3, 7), "von 7 Zeilen 3");
    EXPECT_EQ(told("{:.1f} m", 2.25), "2.2 m");
    translator() = before;
}
