// The demo lake for tests of screens.
#pragma once

#include "sim/screens.hpp"

#include <gtest/gtest.h>

namespace heron::test {

inline sim::Scene ellemoor() {
    auto scene = sim::read_scene_file(HERON_LAKES "/ellemoor.json");
    EXPECT_TRUE(scene);
    return std::move(*scene);
}

} // namespace heron::test
