// A sounder that hangs, dies, comes back, sends halves or speaks another version: told in the window, and
// nothing marked is lost.
#include "fake_sounder.hpp"

#include "trip/trip_file.hpp"

using namespace heron;
using namespace heron::app;

namespace {

class Faults : public test::Faked {};

class FaultsAfloat : public test::Afloat {};

} // namespace

TEST_F(Faults, ASounderThatHangsIsToldAndItsReturnToo) {
    ASSERT_TRUE(told("said nothing for three seconds"));
    EXPECT_TRUE(notice().contains(QStringLiteral("kept")));
    EXPECT_EQ(session().sources.flow(), Sources::Flow::silent);
    nothing_lost();
    fake.ping(5);
    ASSERT_TRUE(test::wait_for([&] { return session().sources.flow() == Sources::Flow::flowing; }));
    EXPECT_TRUE(told("is back"));
}

TEST_F(Faults, ASounderThatDiesAndRestartsIsFoundAgain) {
    fake.hang_up();
    ASSERT_TRUE(told("connection to the sounder was lost"));
    nothing_lost();
    ASSERT_TRUE(test::wait_for([&] { return fake.joined(); }));
    fake.greet();
    fake.ping(30);
    ASSERT_TRUE(rows(90));
    EXPECT_EQ(session().sources.flow(), Sources::Flow::flowing);
}

TEST_F(Faults, HalfAFrameCostsOnlyItself) {
    auto half = fake.ping();
    half.resize(half.size() / 2);
    fake.send(half);
    fake.ping(20);
    ASSERT_TRUE(rows(79));
    EXPECT_EQ(session().shown.lostPings(), 1u);
    nothing_lost();
}

TEST_F(Faults, GarbageBetweenPingsIsSkippedAndMuchOfItIsTold) {
    std::mt19937 random(5);
    for (int i = 0; i < 40; ++i) {
        Bytes garbage(3000);
        for (auto &b : garbage)
            b = static_cast<std::uint8_t>(random());
        fake.send(garbage);
        fake.ping(1);
    }
    ASSERT_TRUE(rows(100));
    EXPECT_TRUE(told("damaged"));
    nothing_lost();
}

// Headers that are sound and claim what never comes: the window says that nothing is heard, and what comes
// after is shown.
TEST_F(Faults, ASounderThatClaimsAndNeverDeliversIsToldAsSilent) {
    const auto whole = encode_frame(FrameType::ping, Bytes(largest_payload));
    Bytes claims;
    while (claims.size() < 2 * largest_payload)
        claims.insert(claims.end(), whole.begin(), whole.begin() + frame_header_size);
    fake.send(claims);
    ASSERT_TRUE(test::wait_for([&] { return session().sources.flow() == Sources::Flow::silent; }));
    EXPECT_TRUE(told("damaged"));
    nothing_lost();
    fake.send(Bytes(largest_payload));
    fake.ping(20);
    ASSERT_TRUE(test::wait_for([&] { return session().sources.flow() == Sources::Flow::flowing; }));
}

// Greetings and settings without end: each takes the place of the one before.
TEST_F(Faults, WhatIsToldWithoutEndFillsNoMemory) {
    IngestQueue queue;
    for (int i = 0; i < 200'000; ++i) {
        queue.push({1, SettingsTold{StreamId::side, {}}});
        queue.push({1, HelloTold{StreamId::around, {}}});
        queue.push({1, LinkState{i % 3, LinkState::Is::open, {}}});
        queue.push({1, Fault{"again", "", ""}});
    }
    EXPECT_LE(queue.size(), IngestQueue::most_items + 10);
    EXPECT_EQ(queue.dropped(), 0u);
}

TEST_F(Faults, AnotherVersionIsTold) {
    for (int i = 0; i < 3; ++i)
        fake.send(encode_frame(FrameType::settings, encode_settings({}), wire_version + 1));
    ASSERT_TRUE(told("speaks version 2"));
    nothing_lost();
    fake.ping(10);
    EXPECT_TRUE(rows(70));
}

TEST_F(Faults, AReceiverThatStopsIsToldAndMarksSayThatTheirPlaceIsUnknown) {
    // No sentence ever came from the fake receiver.
    ASSERT_TRUE(marks().all()[0].place_remark.find("place unknown") != std::string::npos);
    EXPECT_FALSE(marks().all()[0].place);
}

TEST_F(FaultsAfloat, ASounderThatRestartsWithAnotherRangeGoesOnInThePicture) {
    fake.hang_up();
    ASSERT_TRUE(told("connection to the sounder was lost"));
    ASSERT_TRUE(test::wait_for([&] { return fake.joined(); }));
    auto other = fake.sounder().settings();
    other.range_m = 15;
    fake.sounder().ask(other);
    fake.greet();
    fake.ping(40);
    ASSERT_TRUE(rows(95));
    EXPECT_NEAR(static_cast<double>(scan().newest().range_m), 15, 0.1);
    EXPECT_TRUE(test::wait_for([&] { return std::fabs(picture().range() - 15) < 0.2; }));
    EXPECT_NEAR(session().sounder.settings().range_m, 15, 0.01);
    nothing_lost();
}

TEST_F(FaultsAfloat, ASounderWhoseClockIsSetIsFollowedByItsCounter) {
    const auto before = scan().newest().time;
    for (int i = 0; i < 30; ++i) {
        auto p = fake.next_ping();
        p.ping.time += 3600 * ns_per_s;
        fake.send(encode_frame(FrameType::ping, encode_ping(p)));
    }
    ASSERT_TRUE(rows(90));
    EXPECT_TRUE(told("clock was set"));
    const double step = seconds_between(before, scan().newest().time);
    EXPECT_GT(step, 0.5);
    EXPECT_LT(step, 10) << "rows follow the counter, not the clock";
    nothing_lost();
}

TEST_F(FaultsAfloat, APositionThatLeapsIsHeldBackAndTold) {
    ASSERT_TRUE(sound_until([&] { return scan().nav.positions().size() > 20; }));
    const auto good = scan().nav.positions().back();
    int leaps = 0;
    fake.speaks = [&](const std::string &s) {
        if (s.compare(3, 3, "GGA") != 0 && s.compare(3, 3, "RMC") != 0)
            return s;
        // A sixth of a minute of latitude is some 300 m.
        ++leaps;
        const int field = s.compare(3, 3, "GGA") == 0 ? 2 : 3;
        std::size_t at = 0;
        for (int f = 0; f < field; ++f)
            at = s.find(',', at) + 1;
        return test::with_field(s, field, fmt::format("{:010.5f}", std::stod(s.substr(at)) + 0.17));
    };
    ASSERT_TRUE(
        sound_until([&] { return session().connections.positionState() == NavGuard::State::leaping; }));
    EXPECT_GT(leaps, 0);
    EXPECT_TRUE(told("leapt"));
    for (const auto &p : scan().nav.positions())
        EXPECT_NEAR(p.place.latitude_deg, good.place.latitude_deg, 0.001);
    nothing_lost();
}

TEST_F(FaultsAfloat, ACompassThatFreezesIsToldAndTheCourseServes) {
    ASSERT_TRUE(sound_until([&] { return scan().nav.attitudes().size() > 60; }));
    std::string frozen;
    fake.speaks = [&](const std::string &s) {
        const auto type = s.substr(3, 3);
        if (type != "HDT" && type != "HDG" && type != "HDM")
            return s;
        if (frozen.empty())
            frozen = s;
        return frozen;
    };
    ASSERT_TRUE(sound_until([&] { return session().connections.headingState() == NavGuard::State::frozen; }));
    EXPECT_TRUE(told("compass is frozen"));
    EXPECT_TRUE(notice().contains(QStringLiteral("course")));
    nothing_lost();
}

TEST_F(FaultsAfloat, ATenthOfTheBytesOfTheReceiverCorruptCostsPositionsNotThePicture) {
    std::mt19937 random(8);
    fake.speaks = [&](std::string s) {
        for (auto &c : s)
            if (random() % 10 == 0)
                c = static_cast<char>(random());
        return s;
    };
    const auto had = scan().nav.positions().size();
    ASSERT_TRUE(sound_until([&] { return scan().end() > 400; }));
    EXPECT_GT(session().connections.all()[1].damaged, 20u);
    for (auto i = had; i < scan().nav.positions().size(); ++i)
        EXPECT_NEAR(scan().nav.positions()[i].place.latitude_deg,
                    scan().nav.positions()[0].place.latitude_deg, 0.01);
    nothing_lost();
}

TEST_F(FaultsAfloat, ATenthOfTheBytesOfTheSounderCorruptIsToldAndWhatComesAfterIsShown) {
    std::mt19937 random(9);
    for (int i = 0; i < 100; ++i) {
        auto bytes = fake.ping();
        for (auto &b : bytes)
            if (random() % 10 == 0)
                b = static_cast<std::uint8_t>(random());
        fake.send(bytes);
        if (i % 20 == 0)
            QTest::qWait(5);
    }
    EXPECT_TRUE(told("damaged"));
    // No frame of some kilobytes survives that; the first whole one is found again.
    const auto then = scan().end();
    fake.ping(40);
    ASSERT_TRUE(rows(then + 38));
    EXPECT_GT(session().shown.lostPings(), 90u);
    nothing_lost();
}

// SQLite's page limit stands for the disk: it fails the same call with the same code.
TEST_F(FaultsAfloat, AFullDiskIsToldAndThePictureGoesOn) {
    ASSERT_TRUE(test::wait_for([&] { return session().trip.keeping(); }));
    session().trip.keep([](TripFile &trip) -> Result<void> {
        trip.database().run("PRAGMA max_page_count = 200");
        return {};
    });
    ASSERT_TRUE(sound_until([&] { return session().trip.journal()->failing(); }));
    EXPECT_TRUE(told("ree some space")) << notice().toStdString();
    const auto then = scan().end();
    fake.ping(60);
    ASSERT_TRUE(rows(then + 55));
    EXPECT_GT(session().trip.journal()->rows_kept(), 10u);
    auto look = TripFile::open_read_only(session().trip.path().toStdString());
    ASSERT_TRUE(look);
    EXPECT_GT(look->rows(), 10u);
    nothing_lost();
}
