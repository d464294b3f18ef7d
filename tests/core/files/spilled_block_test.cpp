// Blocks that may lie on the disk: what was written is there again, whatever was let go of.
#include "files/spilled_block.hpp"

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

void fill(const SpilledBlock &block, unsigned seed) {
    for (std::size_t i = 0; i < SpilledBlock::bytes; i += sizeof seed, seed = seed * 1664525u + 1013904223u)
        std::memcpy(block.data() + i, &seed, sizeof seed);
}

bool holds(const SpilledBlock &block, unsigned seed) {
    for (std::size_t i = 0; i < SpilledBlock::bytes; i += sizeof seed, seed = seed * 1664525u + 1013904223u)
        if (std::memcmp(block.data() + i, &seed, sizeof seed) != 0)
            return false;
    return true;
}

} // namespace

TEST(SpilledBlock, WhatWasLetGoOfIsThereAgainAndNoMemoryMeanwhile) {
    std::vector<std::unique_ptr<SpilledBlock>> blocks;
    for (unsigned i = 0; i < 400; ++i) {
        blocks.push_back(std::make_unique<SpilledBlock>());
        fill(*blocks.back(), i);
    }
    const double held = resident_mb();
    bool all_on_disk = true;
    for (const auto &b : blocks) {
        b->let_go();
        all_on_disk = all_on_disk && b->on_disk();
    }
    if (all_on_disk) { // where the disk has no room they are plain memory
        EXPECT_LT(resident_mb(), held - 0.8 * 400 * SpilledBlock::bytes / 1e6);
    }
    for (unsigned i = 0; i < 400; ++i)
        EXPECT_TRUE(holds(*blocks[i], i)) << i;
}

TEST(SpilledBlock, ABlockThatIsUsedAgainIsEmpty) {
    for (unsigned round = 0; round < 3; ++round) {
        const SpilledBlock a, b;
        for (const auto *block : {&a, &b})
            for (std::size_t i = 0; i < SpilledBlock::bytes; ++i)
                ASSERT_EQ(block->data()[i], std::byte{}) << i;
        fill(a, round + 1);
        fill(b, round + 2);
        a.let_go();
        EXPECT_TRUE(holds(a, round + 1));
        EXPECT_TRUE(holds(b, round + 2));
    }
}

TEST(SpilledBlock, ThreadsTakeAndGiveBackBesideEachOther) {
    std::vector<std::thread> threads;
    std::vector<int> wrong(4, 0);
    for (unsigned t = 0; t < 4; ++t)
        threads.emplace_back([t, &wrong] {
            for (unsigned i = 0; i < 60; ++i) {
                const SpilledBlock one, two;
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
