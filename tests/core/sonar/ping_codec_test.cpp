// Pings and settings as bytes: what goes in comes out, and whatever else comes is refused without harm.
#include "sonar/ping_codec.hpp"

#include <gtest/gtest.h>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

Ping a_ping() {
    const auto n = [](int low, int high) { return *rc::gen::inRange(low, high); };
    Ping p;
    p.time = static_cast<UnixNs>(n(0, 2'000'000'000)) * ns_per_s + n(0, 999'999'999);
    p.sound_speed_m_s = n(1400, 1560);
    p.sample_interval_s = n(1, 400) * 1e-6;
    p.first_sample_s = n(0, 100) * 1e-5;
    p.frequency_hz = n(50, 1400) * 1e3;
    p.bandwidth_hz = n(0, 2) * 3e4;
    p.pulse_s = n(1, 500) * 1e-6;
    const Side sides[] = {Side::port, Side::starboard, Side::down, Side::around};
    for (int i = n(1, 4); i-- > 0;) {
        Beam b;
        b.side = sides[n(0, 4)];
        b.azimuth_deg = n(-180, 180);
        b.depression_deg = n(0, 90);
        b.width_along_deg = n(1, 60) / 4.0;
        b.width_across_deg = n(1, 90);
        b.gain_db = n(-40, 40) / 2.0;
        b.scale = {n(-400, 0) / 4.0, n(1, 8) / 16.0, n(-1, 3), n(200, 65535)};
        b.code = *rc::gen::container<std::vector<std::uint16_t>>(rc::gen::arbitrary<std::uint16_t>());
        p.beams.push_back(std::move(b));
    }
    return p;
}

std::vector<std::uint8_t> packed(const Ping &p) {
    ByteWriter out;
    append_ping(out, p);
    return out.bytes;
}

} // namespace

RC_GTEST_PROP(PingCodec, ThereAndBackIsTheSamePing, ()) {
    const auto p = a_ping();
    const auto bytes = packed(p);
    ByteReader in(bytes);
    const auto q = read_ping(in);
    RC_ASSERT(q.has_value());
    RC_ASSERT(in.at_end() && !in.too_short());
    RC_ASSERT(q->time == p.time);
    RC_ASSERT(std::fabs(q->sound_speed_m_s - p.sound_speed_m_s) < 1e-3);
    RC_ASSERT(std::fabs(q->sample_interval_s / p.sample_interval_s - 1) < 1e-6);
    RC_ASSERT(std::fabs(q->frequency_hz / p.frequency_hz - 1) < 1e-6);
    RC_ASSERT(q->beams.size() == p.beams.size());
    for (std::size_t i = 0; i < p.beams.size(); ++i) {
        RC_ASSERT(q->beams[i].side == p.beams[i].side);
        RC_ASSERT(q->beams[i].code == p.beams[i].code);
        RC_ASSERT(std::fabs(q->beams[i].azimuth_deg - p.beams[i].azimuth_deg) < 1e-4);
        RC_ASSERT(std::fabs(q->beams[i].scale.db(100) - p.beams[i].scale.db(100)) < 1e-3);
    }
}

// A cable that is pulled out ends the stream anywhere.
RC_GTEST_PROP(PingCodec, APingCutShortIsNone, ()) {
    const auto bytes = packed(a_ping());
    const auto cut = *rc::gen::inRange<std::size_t>(0, bytes.size());
    const std::span<const std::uint8_t> all(bytes);
    ByteReader in(all.first(cut));
    RC_ASSERT(!read_ping(in).has_value());
}

TEST(PingCodec, DamagedBytesGiveNoneOrAPingThatMakesSense) {
    std::mt19937 random(5);
    Ping p;
    p.time = 1'800'000'000LL * ns_per_s;
    p.sample_interval_s = 2e-5;
    p.frequency_hz = 770e3;
    p.pulse_s = 5e-5;
    p.beams.resize(2);
    p.beams[0].code.assign(300, 77);
    p.beams[1].code.assign(300, 88);
    const auto whole = packed(p);
    int refused = 0;
    for (int i = 0; i < 20'000; ++i) {
        auto bytes = whole;
        for (int k = 0; k < 3; ++k)
            bytes[random() % 120] = static_cast<std::uint8_t>(random());
        ByteReader in(bytes);
        const auto q = read_ping(in);
        refused += !q;
        if (!q)
            continue;
        EXPECT_GT(q->sample_interval_s, 0);
        EXPECT_TRUE(std::isfinite(q->range_m()));
        EXPECT_TRUE(std::isfinite(q->resolution_m()));
    }
    EXPECT_GT(refused, 1000);
}

RC_GTEST_PROP(SettingsCodec, ThereAndBackIsTheSame, ()) {
    SoundingSettings s;
    s.range_m = *rc::gen::inRange(20, 400) / 4.0;
    s.frequency_hz = *rc::gen::inRange(200, 1200) * 1e3;
    s.gain = *rc::gen::inRange(0, 101);
    s.pinging = *rc::gen::arbitrary<bool>();
    ByteWriter out;
    append_settings(out, s);
    ByteReader in(out.bytes);
    RC_ASSERT(read_settings(in) == s);
    RC_ASSERT(in.at_end());
}

TEST(ByteReader, NeverReadsBeyondItsEnd) {
    const std::vector<std::uint8_t> three{1, 2, 3};
    ByteReader in(three);
    EXPECT_EQ(in.get<std::uint16_t>(), 0x0201);
    EXPECT_FALSE(in.too_short());
    EXPECT_EQ(in.get<std::uint32_t>(), 0u);
    EXPECT_TRUE(in.too_short());
    EXPECT_EQ(in.get<std::uint8_t>(), 3) << "what is left can still be had";
    EXPECT_TRUE(in.at_end());
}

// By hand from physics.md: r = c/2 · t; 1480 m/s and 20 µs are 14.8 mm.
TEST(Ping, RangesAreHalfTheWayOfTheSound) {
    Ping p;
    p.sound_speed_m_s = 1480;
    p.sample_interval_s = 20e-6;
    p.first_sample_s = 1e-3;
    EXPECT_NEAR(p.metres_per_sample(), 0.0148, 1e-12);
    EXPECT_NEAR(p.slant_m(0), 0.74, 1e-12);
    EXPECT_NEAR(p.slant_m(1000), 0.74 + 14.8, 1e-9);
    EXPECT_NEAR(p.sample_at(p.slant_m(123.4)), 123.4, 1e-9);
    EXPECT_EQ(p.range_m(), 0);
    p.beams.resize(2);
    p.beams[1].code.resize(500);
    EXPECT_NEAR(p.range_m(), 0.74 + 7.4, 0.02);
    // A plain pulse of 100 µs smears c·τ/2 = 74 mm; a swept one c/(2B): 37 mm for 20 kHz.
    p.pulse_s = 100e-6;
    EXPECT_NEAR(p.resolution_m(), 0.074, 1e-9);
    p.bandwidth_hz = 20e3;
    EXPECT_NEAR(p.resolution_m(), 0.037, 1e-3);
    p.pulse_s = 1e-6;
    p.bandwidth_hz = 0;
    EXPECT_NEAR(p.resolution_m(), p.metres_per_sample(), 1e-9) << "one sample at least";
}
