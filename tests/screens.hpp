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

/// What its boat hears at a screen's usual range and frequency: sounded once for all tests of a process.
inline std::shared_ptr<sim::HeardRows> heard_on_ellemoor() {
    static const auto heard = std::make_shared<sim::HeardRows>(ellemoor(), sim::ScreenOptions().range_m,
                                                               sim::ScreenOptions().frequency_hz);
    return heard;
}

} // namespace heron::test
