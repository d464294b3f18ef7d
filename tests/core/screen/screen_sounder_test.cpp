// A screen that is looked at live speaks as a sounder and a receiver do.
#include "screen/screen_sounder.hpp"

#include "link/frame.hpp"
#include "recording/nmea.hpp"

#include <gtest/gtest.h>

using namespace heron;

namespace {

constexpr UnixNs begin = 1'780'000'000 * ns_per_s;

ScreenCalibration screen_of_two_sides() {
    ScreenCalibration c;
    c.source = "the stern screen";
    c.width = 400;
    c.height = 300;
    c.middle = 0.5;
    c.range_m = 20;
    c.frequency_khz = 770;
    return c;
}

FilmRow row_at(double s, double range_m = 20) {
    FilmRow row;
    for (int i = 0; i < 200; ++i)
        row.levels.push_back(i);
    row.at_s = s;
    row.range_m = range_m;
    return row;
}

std::vector<Frame> frames_in(const Bytes &bytes) {
    FrameReader reader;
    reader.push(bytes);
    std::vector<Frame> all;
    while (auto f = reader.next())
        all.push_back(std::move(*f));
    EXPECT_EQ(reader.skipped_bytes(), 0u);
    return all;
}

} // namespace

TEST(ScreenSounder, IntroducesItselfAsWhatItIs) {
    const ScreenSounder s(screen_of_two_sides(), begin);
    const auto hello = frames_in(s.hello());
    ASSERT_EQ(hello.size(), 1u);
    const auto said = decode_hello(hello[0].payload);
    ASSERT_TRUE(said) << said.error().line();
    EXPECT_EQ(said->name, "the stern screen");
    EXPECT_EQ(said->stream, StreamId::side);
    EXPECT_FALSE(said->takes_requests);
    EXPECT_LE(said->shortest_range_m, 20);
    EXPECT_GE(said->longest_range_m, 20);
    const auto settings = frames_in(s.settings());
    ASSERT_EQ(settings.size(), 1u);
    const auto holds = decode_settings(settings[0].payload);
    ASSERT_TRUE(holds);
    EXPECT_EQ(holds->range_m, 20);
    EXPECT_EQ(holds->frequency_hz, 770e3);
}

TEST(ScreenSounder, RowsComeAsPingsWithTheirOwnTimeAndRange) {
    ScreenSounder s(screen_of_two_sides(), begin);
    const auto first = frames_in(s.ping(row_at(1.5)));
    ASSERT_EQ(first.size(), 1u);
    const auto a = decode_ping(first[0].payload);
    ASSERT_TRUE(a) << a.error().line();
    EXPECT_EQ(a->number, 1u);
    EXPECT_EQ(a->ping.time, begin + 1'500'000'000);
    EXPECT_EQ(a->monotonic_ns, 1'500'000'000);
    ASSERT_EQ(a->ping.beams.size(), 2u);
    // Port counts outward from the middle: column 99 first.
    EXPECT_EQ(a->ping.beams[0].side, Side::port);
    EXPECT_EQ(a->ping.beams[0].code.front(), 99);
    EXPECT_EQ(a->ping.beams[1].code.front(), 100);
    EXPECT_EQ(a->ping.beams[1].code.back(), 199);
    // Another range: the settings come before the ping. The same time is a millisecond later.
    const auto wider = frames_in(s.ping(row_at(1.5, 30)));
    ASSERT_EQ(wider.size(), 2u);
    EXPECT_EQ(wider[0].type, FrameType::settings);
    EXPECT_EQ(decode_settings(wider[0].payload)->range_m, 30);
    const auto b = decode_ping(wider[1].payload);
    ASSERT_TRUE(b);
    EXPECT_EQ(b->number, 2u);
    EXPECT_EQ(b->ping.time, a->ping.time + 1'000'000);
    EXPECT_NEAR(b->ping.sample_interval_s / a->ping.sample_interval_s, 1.5, 1e-9);
    auto narrow = row_at(3);
    narrow.levels.resize(30);
    EXPECT_TRUE(s.ping(narrow).empty());
}

// Heard by the program's own decoder, and the sentences by gpsdecode where the machine has it
// (tests/core/recording).
TEST(ScreenSounder, FiguresAreHeardAsAReceiversWords) {
    const ScreenSounder s(screen_of_two_sides(), begin);
    NavTrack track;
    NmeaDecoder decoder;
    NmeaLines lines;
    const auto say = [&](double at_s, const Figure &f) {
        for (const auto &line : lines.push(s.sentence(at_s, f)))
            decoder.take(line, begin + static_cast<UnixNs>(at_s * 1e9), track);
    };
    say(1, {FigureBox::Of::depth, 4.27, {}});
    say(1, {FigureBox::Of::speed, 1.5, {}});
    say(1, {FigureBox::Of::heading, 359.99, {}});
    say(2, {FigureBox::Of::position, 0, GeoPoint{-52.123456789, 5.987654321}});
    EXPECT_EQ(s.sentence(1, {FigureBox::Of::range, 30, {}}), "");
    EXPECT_EQ(decoder.damaged(), 0u);
    ASSERT_EQ(track.depths().size(), 1u);
    EXPECT_NEAR(track.depths()[0].below_transducer_m, 4.27, 1e-9);
    ASSERT_GE(track.speeds().size(), 1u);
    EXPECT_NEAR(track.speeds()[0].m_s, 1.5, 0.003);
    ASSERT_EQ(track.attitudes().size(), 1u);
    EXPECT_NEAR(track.attitudes()[0].heading_deg, 359.9, 0.01);
    ASSERT_EQ(track.positions().size(), 1u);
    EXPECT_EQ(track.positions()[0].time, begin + 2 * ns_per_s);
    EXPECT_NEAR(track.positions()[0].place.latitude_deg, -52.123456789, 2e-8);
    EXPECT_NEAR(track.positions()[0].place.longitude_deg, 5.987654321, 2e-8);
    EXPECT_NEAR(track.positions()[0].sd_m, 3, 1e-6);
}

TEST(ScreenSounder, TheScaleAlongTheTrackTellsASpeed) {
    auto c = screen_of_two_sides();
    c.along_m = 0.05;
    ScreenSounder s(c, begin);
    std::string told;
    for (int i = 0; i < 101; ++i) {
        const double at = i * 0.04; // 25 rows a second, 1.25 m/s
        (void)s.ping(row_at(at));
        told += s.speed_sentence(at);
    }
    NavTrack track;
    NmeaDecoder decoder;
    NmeaLines lines;
    for (const auto &line : lines.push(told))
        decoder.take(line, begin, track);
    EXPECT_GE(track.speeds().size(), 1u);
    for (const auto &v : track.speeds())
        EXPECT_NEAR(v.m_s, 1.25, 0.06);
    // Where the screen's own figure tells it, the scale does not.
    c.figures.push_back({FigureBox::Of::speed, {0, 0}, {20, 20}, "m/s"});
    ScreenSounder read_off(c, begin);
    for (int i = 0; i < 60; ++i) {
        (void)read_off.ping(row_at(i * 0.04));
        EXPECT_EQ(read_off.speed_sentence(i * 0.04), "");
    }
}
