// Rows that are fetched from where they are kept.
#include "picture/scan.hpp"

#include <gtest/gtest.h>

using namespace heron;

namespace {

SoundedRow row_of(std::size_t n) {
    SoundedRow row;
    row.ping.time = static_cast<UnixNs>(n) * ns_per_s;
    row.ping.beams.resize(1);
    row.ping.beams[0].code.assign(100, static_cast<std::uint16_t>(n));
    return row;
}

// Some of the rows that were asked for; how often is counted.
struct Kept {
    std::size_t until = 0, asked = 0;
    Scan::Fetch fetch() {
        return [this](std::size_t first, std::size_t count) {
            ++asked;
            std::vector<SoundedRow> rows;
            for (auto n = first; n < std::min(first + count, until); ++n)
                rows.push_back(row_of(n));
            return rows;
        };
    }
};

} // namespace

TEST(Scan, ARowThatIsLookedAtStaysWhenOthersOfItsPartAreAskedFor) {
    Kept kept{70, 0};
    Scan scan;
    scan.set_fetch(kept.fetch());
    std::vector<RowFacts> facts(70);
    scan.push_known(facts);
    const auto &first = scan.row(64);
    const auto *samples = first.ping.beams[0].code.data();
    // The scan grows, and the rest of the part is there now.
    scan.push_known(facts);
    kept.until = 140;
    EXPECT_EQ(scan.row(100).ping.beams.size(), 1u);
    EXPECT_EQ(&scan.row(64), &first);
    EXPECT_EQ(first.ping.beams[0].code.data(), samples);
    EXPECT_EQ(first.ping.beams[0].code[0], 64);
}

TEST(Scan, WhatIsNotThereIsNotAskedForAgain) {
    Kept kept{0, 0};
    Scan scan;
    scan.set_fetch(kept.fetch());
    scan.push_known(std::vector<RowFacts>(640));
    for (int round = 0; round < 10; ++round)
        for (std::size_t n = 0; n < 640; ++n)
            EXPECT_TRUE(scan.ping(n).beams.empty());
    EXPECT_EQ(kept.asked, 10u);
    EXPECT_EQ(scan.bytes_held(), 0u);
}

TEST(Scan, SettingsThatWereNeverToldAreNought) {
    Scan scan;
    std::vector<RowFacts> facts(2);
    facts[1].settings = 60'000;
    scan.push_known(facts);
    EXPECT_EQ(scan.settings(1).range_m, 0);
    scan.set_all_settings({SoundingSettings{}});
    EXPECT_EQ(scan.settings(1), SoundingSettings());
}
