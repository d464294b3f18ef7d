#include "link/frame.hpp"
#include "link/messages.hpp"

#include <gtest/gtest.h>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

WirePing ping_with(std::size_t samples) {
    WirePing w;
    w.number = 7;
    w.monotonic_ns = 123456789;
    w.settings.gain = 62;
    w.settings.range_m = 24.4;
    w.ping.time = 1'700'000'000'000'000'000;
    w.ping.sample_interval_s = 3e-5;
    w.ping.frequency_hz = 770e3;
    w.settings.frequency_hz = 770e3;
    for (const auto side : {Side::port, Side::starboard}) {
        Beam b;
        b.side = side;
        b.scale = {32, 0.3, 0, 255};
        for (std::size_t k = 0; k < samples; ++k)
            b.code.push_back(static_cast<std::uint16_t>((k * 31 + static_cast<std::size_t>(side)) % 256));
        w.ping.beams.push_back(b);
    }
    return w;
}

} // namespace

TEST(Wire, APingCrossesWhole) {
    const auto sent = ping_with(1000);
    FrameReader reader;
    reader.push(encode_frame(FrameType::ping, encode_ping(sent)));
    const auto frame = reader.next();
    ASSERT_TRUE(frame);
    const auto got = decode_ping(frame->payload);
    ASSERT_TRUE(got);
    EXPECT_EQ(got->number, 7u);
    EXPECT_EQ(got->settings.gain, 62);
    EXPECT_NEAR(got->settings.range_m, 24.4, 1e-5);
    EXPECT_EQ(got->ping.beams[1].code, sent.ping.beams[1].code);
    EXPECT_EQ(reader.skipped_bytes(), 0u);
}

TEST(Wire, WideSamplesAndMissingOnesCross) {
    auto sent = ping_with(10);
    sent.ping.beams[0].code[3] = missing_code;
    const auto got = decode_ping(encode_ping(sent));
    ASSERT_TRUE(got);
    EXPECT_EQ(got->ping.beams[0].code, sent.ping.beams[0].code);
}

// However the stream is cut, and whatever garbage lies between the frames, the frames come out.
RC_GTEST_PROP(Wire, FramesAreFoundAgainInGarbage, ()) {
    std::mt19937 random(*rc::gen::arbitrary<unsigned>());
    Bytes stream;
    const int frames = 1 + static_cast<int>(random() % 5);
    for (int i = 0; i < frames; ++i) {
        for (auto n = random() % 60; n > 0; --n)
            stream.push_back(static_cast<std::uint8_t>(random()));
        const auto f = encode_frame(FrameType::ping, encode_ping(ping_with(20)));
        stream.insert(stream.end(), f.begin(), f.end());
    }
    FrameReader reader;
    int found = 0;
    for (std::size_t at = 0; at < stream.size();) {
        const auto n = std::min<std::size_t>(1 + random() % 50, stream.size() - at);
        reader.push({stream.data() + at, n});
        at += n;
        while (reader.next())
            ++found;
    }
    RC_ASSERT(found == frames);
}

TEST(Wire, HalfAFrameThenAnotherCostsOnlyTheHalf) {
    const auto whole = encode_frame(FrameType::settings, encode_settings({}));
    Bytes stream(whole.begin(), whole.begin() + 30);
    for (int i = 0; i < 5; ++i)
        stream.insert(stream.end(), whole.begin(), whole.end());
    FrameReader reader;
    reader.push(stream);
    int found = 0;
    while (reader.next())
        ++found;
    EXPECT_GE(found, 4); // the half claims bytes of the next one; after that all come
    EXPECT_GE(reader.skipped_bytes(), 30u);
}

TEST(Wire, AnotherVersionIsToldAndSkipped) {
    FrameReader reader;
    reader.push(encode_frame(FrameType::settings, encode_settings({}), wire_version + 1));
    reader.push(encode_frame(FrameType::settings, encode_settings({})));
    ASSERT_TRUE(reader.next());
    EXPECT_EQ(reader.other_version(), wire_version + 1);
    EXPECT_FALSE(reader.next());
}

TEST(Wire, ADamagedLengthHoldsNothingUp) {
    auto damaged = encode_frame(FrameType::settings, encode_settings({}));
    damaged[10] = 0x20; // two megabytes, it says
    FrameReader reader;
    reader.push(damaged);
    reader.push(encode_frame(FrameType::settings, encode_settings({})));
    EXPECT_TRUE(reader.next());
}

TEST(FuzzWire, PingsOfRandomBytesAreRefusedOrSane) {
    std::mt19937 random(4);
    const auto good = encode_ping(ping_with(30));
    int taken = 0;
    for (int i = 0; i < 20000; ++i) {
        auto bad = good;
        for (int n = 1 + static_cast<int>(random() % 6); n > 0; --n)
            bad[random() % bad.size()] = static_cast<std::uint8_t>(random());
        if (i % 4 == 0)
            bad.resize(random() % bad.size());
        if (const auto p = decode_ping(bad)) {
            ++taken;
            EXPECT_GT(p->ping.sample_interval_s, 0);
            EXPECT_LE(p->ping.beams.size(), 16u);
        }
    }
    EXPECT_GT(taken, 1000);
}

TEST(FuzzWire, SettingsAndGreetingsOfRandomBytes) {
    std::mt19937 random(5);
    SounderHello hello;
    hello.name = "x";
    hello.bands_hz = {770e3};
    for (const auto &good : {encode_settings({}), encode_hello(hello)}) {
        for (int i = 0; i < 5000; ++i) {
            auto bad = good;
            for (int n = 1 + static_cast<int>(random() % 4); n > 0; --n)
                bad[random() % bad.size()] = static_cast<std::uint8_t>(random() % 128);
            if (const auto s = decode_settings(bad))
                EXPECT_GT(s->range_m, 0);
            if (const auto h = decode_hello(bad))
                EXPECT_FALSE(h->bands_hz.empty());
        }
    }
}
