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

namespace {

// A ping whose bottom rises out of noise at so many metres; nothing where that is 0.
SoundedRow ping_over(double altitude_m, std::size_t n) {
    SoundedRow row;
    auto &p = row.ping;
    p.time = static_cast<UnixNs>(n) * ns_per_s / 20;
    p.sound_speed_m_s = 1450;
    p.sample_interval_s = 0.04 / 725;
    p.frequency_hz = 770e3;
    for (const auto side : {Side::port, Side::starboard}) {
        Beam b;
        b.side = side;
        b.scale = {-60, 0.3, 0, 255};
        for (std::size_t k = 0; k < 500; ++k) {
            const double r = p.slant_m(static_cast<double>(k));
            const auto speckle = static_cast<std::uint16_t>((k * 7919 + n * 104729) % 13);
            b.code.push_back(
                static_cast<std::uint16_t>((altitude_m > 0 && r > altitude_m ? 120 : 20) + speckle));
        }
        p.beams.push_back(std::move(b));
    }
    return row;
}

// Half a minute over a bottom that the picture has at one depth and the sounder at another.
Scan over(double in_picture_m, double told_m) {
    Scan scan;
    for (std::size_t n = 0; n < 600; ++n) {
        if (n % 20 == 0)
            scan.nav.add(DepthSample{
                static_cast<UnixNs>(n) * ns_per_s / 20, told_m + 0.01 * static_cast<double>(n % 3), {}});
        scan.push(ping_over(in_picture_m, n));
    }
    return scan;
}

} // namespace

TEST(Scan, TheFirstReturnIsNeitherDeeperThanToldNorMuchNearer) {
    // They agree: the picture's own.
    auto scan = over(5, 5.05);
    EXPECT_EQ(scan.bottom(300).source, BottomSource::first_return);
    EXPECT_NEAR(scan.bottom(300).altitude_m, 5, 0.15);
    // A slope: the sides keep their own first return.
    scan = over(5, 6);
    EXPECT_EQ(scan.bottom(300).source, BottomSource::sounder);
    EXPECT_NEAR(scan.bottom(300).altitude_m, 6, 0.05);
    EXPECT_NEAR(scan.bottom(300).port_m, 5, 0.15);
    // Far too near, far too deep, or nowhere: the sounder's.
    for (const double picture : {2.0, 9.0, 0.0}) {
        scan = over(picture, 5);
        EXPECT_TRUE(scan.bottom(300).found) << picture;
        EXPECT_NEAR(scan.bottom(300).altitude_m, 5, 0.05) << picture;
        EXPECT_NEAR(scan.bottom(300).starboard_m, 5, 0.05) << picture;
    }
    // Without a sounder nothing is made up.
    Scan alone;
    for (std::size_t n = 0; n < 600; ++n)
        alone.push(ping_over(0, n));
    EXPECT_FALSE(alone.bottom(300).found);
}

TEST(Scan, ASounderThatHasHungIsNotBelieved) {
    Scan scan;
    for (std::size_t n = 0; n < 1600; ++n) {
        if (n % 20 == 0)
            scan.nav.add(DepthSample{static_cast<UnixNs>(n) * ns_per_s / 20, 3, {}});
        scan.push(ping_over(7, n));
    }
    EXPECT_NEAR(scan.bottom(1500).altitude_m, 7, 0.2);
    EXPECT_EQ(scan.bottom(1500).source, BottomSource::first_return);
}
