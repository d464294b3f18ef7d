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

// Headers that are sound, each claiming a megabyte that is not: what is summed stays within what came.
TEST(Wire, ClaimsWithinClaimsAreSkippedAndWhatComesAfterIsTaken) {
    constexpr std::size_t claimed = 1u << 20;
    const auto whole = encode_frame(FrameType::ping, Bytes(claimed));
    const Bytes header(whole.begin(), whole.begin() + frame_header_size);
    Bytes hostile;
    while (hostile.size() < 8 * claimed)
        hostile.insert(hostile.end(), header.begin(), header.end());
    FrameReader reader;
    std::size_t taken = 0;
    for (std::size_t at = 0; at < hostile.size(); at += 65536) {
        reader.push(std::span(hostile).subspan(at, 65536));
        while (reader.next())
            ++taken;
    }
    EXPECT_EQ(taken, 0u);
    EXPECT_LT(reader.bad_checksums(), 100u); // each stands for a megabyte that was summed
    // What was claimed last has to come before it can be judged.
    reader.push(Bytes(2 * claimed));
    const auto good = encode_frame(FrameType::settings, encode_settings({}));
    for (int i = 0; i < 3; ++i)
        reader.push(good);
    while (reader.next())
        ++taken;
    EXPECT_EQ(taken, 3u);
}

TEST(Wire, GreetingsAndSettingsOfNoSounderAreRefused) {
    const auto bytes = [](const std::string &text) { return Bytes(text.begin(), text.end()); };
    SounderHello hello;
    hello.name = "bow";
    hello.bands_hz = {455e3};
    hello.shortest_range_m = 5;
    hello.longest_range_m = 60;
    hello.most_gain = 100;
    ASSERT_TRUE(decode_hello(encode_hello(hello)));
    const auto with = [&](auto change) {
        auto other = hello;
        change(other);
        return decode_hello(encode_hello(other)).has_value();
    };
    EXPECT_FALSE(with([](SounderHello &h) { h.bands_hz.assign(1000, 455e3); }));
    EXPECT_FALSE(with([](SounderHello &h) { h.bands_hz = {-1}; }));
    EXPECT_FALSE(with([](SounderHello &h) { h.longest_range_m = 1e9; }));
    EXPECT_FALSE(with([](SounderHello &h) { h.name.assign(10'000, 'x'); }));
    EXPECT_FALSE(with([](SounderHello &h) { h.installation.transducer.down_m = 1e30; }));
    // Values within values would exhaust the stack when they are written again.
    EXPECT_FALSE(decode_hello(bytes(std::string(60'000, '['))));
    EXPECT_FALSE(
        decode_hello(bytes("{\"gear\":" + std::string(20'000, '[') + std::string(20'000, ']') + "}")));
    EXPECT_FALSE(decode_settings(
        bytes("{\"range_m\":1e999,\"frequency_hz\":1,\"gain\":1,\"tvg_log\":1,\"pinging\":true}")));
    auto ping = ping_with(30);
    ping.monotonic_ns = -5;
    EXPECT_FALSE(decode_ping(encode_ping(ping)));
    ping = ping_with(30);
    ping.ping.time = std::numeric_limits<UnixNs>::max();
    EXPECT_FALSE(decode_ping(encode_ping(ping)));
    ping = ping_with(30);
    ping.ping.sample_interval_s = 0.5;
    EXPECT_FALSE(decode_ping(encode_ping(ping))) << "it would reach eleven kilometres";
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

TEST(Messages, AHeadThatTurnsTellsHow) {
    SoundingSettings s;
    s.turning = Turning{2.7, 4, -45, 90};
    const auto back = decode_settings(encode_settings(s));
    ASSERT_TRUE(back) << back.error().line();
    EXPECT_EQ(*back, s);
    EXPECT_FALSE(decode_settings(encode_settings({}))->turning);
    for (const auto &bad : {Turning{0, 2, 0, 360}, Turning{1.8, 0, 0, 360}, Turning{1.8, 6, 0, 360},
                            Turning{1.8, 2, 0, 0}, Turning{1.8, 2, 0, 361}, Turning{1.8, 2, 1e9, 90}}) {
        s.turning = bad;
        EXPECT_FALSE(decode_settings(encode_settings(s)));
    }
}

TEST(Messages, AWordToASimulatedBoat) {
    EXPECT_EQ(decode_helm(encode_helm(Helm::hold)), Helm::hold);
    EXPECT_EQ(decode_helm(encode_helm(Helm::route)), Helm::route);
    for (const std::string text : {"", "{}", R"({"helm":"dive"})", R"({"helm":3})", "[1]"})
        EXPECT_FALSE(decode_helm({reinterpret_cast<const std::uint8_t *>(text.data()), text.size()})) << text;
    SounderHello hello;
    hello.name = "boat";
    hello.bands_hz = {800e3};
    EXPECT_FALSE(decode_hello(encode_hello(hello))->steers);
    hello.steers = true;
    EXPECT_TRUE(decode_hello(encode_hello(hello))->steers);
    EXPECT_TRUE(decode_hello(encode_hello(hello))->takes_requests);
    hello.takes_requests = false;
    EXPECT_FALSE(decode_hello(encode_hello(hello))->takes_requests);
}
