// Blocks that may lie on the disk: what was written is there again, whatever was let go of.
#include "files/spilled.hpp"

#include <cstring>
#include <fstream>
#include <gtest/gtest.h>
#include <memory>
#include <thread>
#include <vector>

using namespace heron;

namespace {

double resident_mb() {
    std::ifstream in("/proc/self/statm");
    double whole = 0, resident = 0;
    in >> whole >> resident;
    return resident * 4096 / 1e6;
}

void fill(const Spilled &block, unsigned seed) {
    for (std::size_t i = 0; i < Spilled::bytes; i += sizeof seed, seed = seed * 1664525u + 1013904223u)
        std::memcpy(block.data() + i, &seed, sizeof seed);
}

bool holds(const Spilled &block, unsigned seed) {
    for (std::size_t i = 0; i < Spilled::bytes; i += sizeof seed, seed = seed * 1664525u + 1013904223u)
        if (std::memcmp(block.data() + i, &seed, sizeof seed) != 0)
            return false;
    return true;
}

} // namespace

TEST(Spilled, WhatWasLetGoOfIsThereAgainAndNoMemoryMeanwhile) {
    std::vector<std::unique_ptr<Spilled>> blocks;
    for (unsigned i = 0; i < 400; ++i) {
        blocks.push_back(std::make_unique<Spilled>());
        fill(*blocks.back(), i);
    }
    const double held = resident_mb();
    bool all_on_disk = true;
    for (const auto &b : blocks) {
        b->let_go();
        all_on_disk = all_on_disk && b->on_disk();
    }
    if (all_on_disk) { // where the disk has no room they are plain memory
        EXPECT_LT(resident_mb(), held - 0.8 * 400 * Spilled::bytes / 1e6);
    }
    for (unsigned i = 0; i < 400; ++i)
        EXPECT_TRUE(holds(*blocks[i], i)) << i;
}

TEST(Spilled, ABlockThatIsUsedAgainIsEmpty) {
    for (unsigned round = 0; round < 3; ++round) {
        const Spilled a, b;
        for (const auto *block : {&a, &b})
            for (std::size_t i = 0; i < Spilled::bytes; ++i)
                ASSERT_EQ(block->data()[i], std::byte{}) << i;
        fill(a, round + 1);
        fill(b, round + 2);
        a.let_go();
        EXPECT_TRUE(holds(a, round + 1));
        EXPECT_TRUE(holds(b, round + 2));
    }
}

TEST(Spilled, ThreadsTakeAndGiveBackBesideEachOther) {
    std::vector<std::thread> threads;
    std::vector<int> wrong(4, 0);
    for (unsigned t = 0; t < 4; ++t)
        threads.emplace_back([t, &wrong] {
            for (unsigned i = 0; i < 60; ++i) {
                const Spilled one, two;
                fill(one, 1000 * t + i);
                fill(two, 1000 * t + i + 500);
                two.let_go();
                wrong[t] += holds(one, 1000 * t + i) && holds(two, 1000 * t + i + 500) ? 0 : 1;
            }
        });
    for (auto &t : threads)
        t.join();
    for (const int w : wrong)
        EXPECT_EQ(w, 0);
}
