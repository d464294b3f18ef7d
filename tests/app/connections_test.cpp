// Connections: TCP, UDP and a serial device, several at once, ages, clocks, loss and return.
#include "fake_sounder.hpp"
#include "views/connections/connections_view.hpp"

#include <QComboBox>
#include <QLineEdit>
#include <QUdpSocket>
#include <fcntl.h>
#include <stdlib.h>
#include <unistd.h>

using namespace heron;
using namespace heron::app;

namespace {

class ConnectionsPage : public test::Stage {
  protected:
    void SetUp() override {
        Stage::SetUp();
        key(Qt::Key_I);
        ASSERT_TRUE(view().isVisible());
    }
    ConnectionsView &view() { return window->view<ConnectionsView>(); }
    void add(int kind, int way, const QString &address) {
        find<QComboBox>("sourceKind")->setCurrentIndex(kind);
        find<QComboBox>("sourceWay")->setCurrentIndex(way);
        auto *edit = find<QLineEdit>("sourceAddress");
        edit->setFocus();
        edit->clear();
        QTest::keyClicks(edit, address);
        press("addSource");
    }
    QString line(int i) { return view().lines().value(i); }
    bool line_has(int i, const char *words, int ms = 10000) {
        return test::wait_for([&] { return line(i).contains(QString::fromLatin1(words)); }, ms);
    }
};

// Positions and a heading, as the stand-in's receiver says them.
std::string some_sentences(sim::Sounder &sounder) {
    std::string all;
    for (int i = 0; i < 40; ++i)
        for (auto &s : sounder.next().sentences)
            all += s;
    return all;
}

} // namespace

TEST_F(ConnectionsPage, TellsWhatATcpReceiverDeliversAndHowOldItsLastWordIs) {
    test::SounderProcess sounder;
    add(0, 0, sounder.sources[1].address);
    add(1, 0, sounder.sources[0].address);
    ASSERT_EQ(view().lines().size(), 2);
    EXPECT_TRUE(line_has(0, "position"));
    EXPECT_TRUE(line_has(0, "heading"));
    EXPECT_TRUE(line_has(0, "depth"));
    EXPECT_TRUE(line_has(0, "last heard"));
    EXPECT_TRUE(line_has(1, "pings"));
    EXPECT_TRUE(test::wait_for([&] { return session().awake.keepsAwake(); }))
        << "no sleep while pings come in";
    sounder.kill();
    EXPECT_TRUE(line_has(1, "lost"));
    EXPECT_TRUE(test::wait_for([&] { return !session().awake.keepsAwake(); }));
    press("removeSource");
    EXPECT_EQ(view().lines().size(), 1);
}

TEST_F(ConnectionsPage, HearsDatagramsAndASerialDeviceAtOnce) {
    sim::Sounder sounder(*sim::read_scene_file(test::lake()), test::FakeSounder::begin);
    QUdpSocket probe;
    ASSERT_TRUE(probe.bind(QHostAddress::LocalHost, 0));
    const auto port = probe.localPort();
    probe.close();
    // A pair of pseudo-terminals stands for the cable.
    const int cable = ::posix_openpt(O_RDWR | O_NOCTTY);
    ASSERT_GE(cable, 0);
    ASSERT_EQ(::grantpt(cable), 0);
    ASSERT_EQ(::unlockpt(cable), 0);
    const auto device = QString::fromLatin1(::ptsname(cable));
    add(0, 1, QStringLiteral("127.0.0.1:%1").arg(port));
    add(0, 2, device + QStringLiteral("@4800"));
    ASSERT_EQ(view().lines().size(), 2);
    QUdpSocket from;
    ASSERT_TRUE(test::wait_for([&] {
        const auto all = some_sentences(sounder);
        from.writeDatagram(all.data(), static_cast<qint64>(std::min<std::size_t>(all.size(), 1400)),
                           QHostAddress(QHostAddress::LocalHost), port);
        const auto n = ::write(cable, all.data(), all.size());
        return n > 0 && line(0).contains(QStringLiteral("position")) &&
               line(1).contains(QStringLiteral("position"));
    })) << (line(0) + line(1)).toStdString();
    ::close(cable);
    EXPECT_TRUE(line_has(1, "lost"));
    EXPECT_FALSE(line(0).contains(QStringLiteral("lost")));
}

TEST_F(ConnectionsPage, RefusesAddressesThatCannotBeUsed) {
    add(0, 0, QStringLiteral("no port here"));
    EXPECT_EQ(view().lines().size(), 0);
    add(0, 2, QStringLiteral("ttyS0"));
    EXPECT_EQ(view().lines().size(), 0);
    add(1, 1, QStringLiteral("127.0.0.1:4000"));
    EXPECT_EQ(view().lines().size(), 0) << "a sounder takes settings back: TCP only";
}

TEST_F(ConnectionsPage, ReconnectsByItself) {
    test::FakeSounder fake;
    session().sources.listenTo(fake.sources());
    ASSERT_TRUE(test::wait_for([&] { return fake.joined(); }));
    fake.greet();
    fake.ping(20);
    ASSERT_TRUE(line_has(0, "pings"));
    for (int i = 0; i < 2; ++i) {
        fake.hang_up();
        ASSERT_TRUE(line_has(0, "lost"));
        ASSERT_TRUE(test::wait_for([&] { return fake.joined(); }));
        fake.greet();
        fake.ping(5);
        ASSERT_TRUE(line_has(0, "last heard"));
    }
}

// Nobody sounds any more: what was kept is there to be looked at.
TEST_F(ConnectionsPage, WithTheLastOneGoneTheTripIsLookedAt) {
    test::FakeSounder fake;
    session().sources.listenTo(fake.sources());
    ASSERT_TRUE(test::wait_for([&] { return fake.joined(); }));
    fake.greet();
    fake.ping(40);
    ASSERT_TRUE(test::wait_for([&] { return session().trip.keeping() && session().shown.end() >= 40; }));
    const auto kept = session().trip.path();
    session().chooseSources({});
    ASSERT_TRUE(test::wait_for([&] { return session().sources.source() == Sources::Source::trip; }));
    EXPECT_EQ(session().trip.path(), kept);
    EXPECT_GE(session().shown.end(), 40u);
    EXPECT_FALSE(session().trip.keeping());
}

TEST_F(ConnectionsPage, ShowsTheDifferenceOfTheClocks) {
    test::FakeSounder fake;
    session().sources.listenTo(fake.sources());
    ASSERT_TRUE(test::wait_for([&] { return fake.joined(); }));
    fake.greet();
    // The sounder's clock is two and a half seconds behind the receiver's.
    UnixNs last = 0;
    fake.speaks = [](const std::string &s) { return s; };
    QElapsedTimer clock;
    clock.start();
    while (clock.elapsed() < 20000 && !session().connections.clockDifference()) {
        auto p = fake.next_ping();
        if (last != 0)
            QTest::qWait(static_cast<int>((p.ping.time - last) / 1'000'000));
        last = p.ping.time;
        p.ping.time -= 2'500'000'000;
        p.monotonic_ns += 1;
        fake.send(encode_frame(FrameType::ping, encode_ping(p)));
    }
    ASSERT_TRUE(session().connections.clockDifference());
    EXPECT_NEAR(*session().connections.clockDifference(), 2.5, 0.4);
    EXPECT_TRUE(test::shows_something(view().grab().toImage()));
}
