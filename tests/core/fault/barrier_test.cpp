// The wall at a thread's edge.
#include "fault/barrier.hpp"

#include <gtest/gtest.h>
#include <stdexcept>

using namespace heron;

TEST(Barrier, WhatIsThrownBecomesAFaultThatSaysWhatWasDone) {
    EXPECT_FALSE(guarded("reading", [] {}));
    const auto memory = guarded("reading the picture", [] { throw std::bad_alloc(); });
    ASSERT_TRUE(memory);
    EXPECT_EQ(memory->happened, "reading the picture broke off: this machine ran out of memory");
    const auto other = guarded("reading", [] { throw std::runtime_error("spoons"); });
    ASSERT_TRUE(other);
    EXPECT_NE(other->happened.find("spoons"), std::string::npos);
    EXPECT_TRUE(guarded("reading", [] { throw 7; }));
    const auto result = guarded_result("counting", []() -> Result<int> { throw std::bad_alloc(); });
    ASSERT_FALSE(result);
    EXPECT_EQ(guarded_result("counting", []() -> Result<int> { return 3; }).value_or(0), 3);
}
