// Two windows on one session: each with its own place, selection and levels; one reader and one journal.
#include "fake_sounder.hpp"

#include "views/read/read_view.hpp"

using namespace heron;
using namespace heron::app;

namespace {

class TwoWindows : public test::Afloat {
  protected:
    std::unique_ptr<MainWindow> bow;
    void SetUp() override {
        Afloat::SetUp();
        bow = std::make_unique<MainWindow>(*program, allPlaces());
        bow->show();
        ASSERT_TRUE(QTest::qWaitForWindowExposed(bow.get()));
        QApplication::setActiveWindow(bow.get());
    }
    void TearDown() override {
        bow.reset();
        Afloat::TearDown();
    }
    PictureView &bow_picture() { return bow->view<ScanView>().picture(); }
};

} // namespace

TEST_F(TwoWindows, EachHasItsOwnPlaceSelectionAndLevels) {
    QApplication::setActiveWindow(bow.get());
    QTest::keyClick(bow.get(), Qt::Key_6);
    EXPECT_EQ(bow->current(), place::marks);
    EXPECT_EQ(window->current(), place::scan);
    const auto id = QString::fromStdString(marks().all()[0].id);
    EXPECT_EQ(window->state().selectedMark(), id) << "it was marked there";
    EXPECT_EQ(bow->state().selectedMark(), QString());
    QTest::keyClick(bow.get(), Qt::Key_2);
    auto display = bow->state().displayWindow();
    display.floor_db += 12;
    bow->state().setDisplayWindow(display);
    EXPECT_TRUE(window->state().windowFollows());
    EXPECT_FALSE(bow->state().windowFollows());
    EXPECT_NE(window->state().displayWindow().floor_db, bow->state().displayWindow().floor_db);
    QTest::keyClick(bow.get(), Qt::Key_F);
    EXPECT_TRUE(bow_picture().frozen());
    EXPECT_FALSE(picture().frozen());
}

TEST_F(TwoWindows, BothShowTheSameRowsMarksAndWords) {
    ASSERT_TRUE(sound_until([&] { return scan().end() > 120; }));
    ASSERT_TRUE(test::wait_for([&] { return bow_picture().topRow() == picture().topRow(); }));
    QTest::mouseClick(&bow_picture(), Qt::LeftButton, Qt::NoModifier,
                      bow_picture().positionOf(bow_picture().topRow() - 20, Side::port, 14).toPoint());
    QTest::keyClick(bow.get(), Qt::Key_V);
    ASSERT_EQ(marks().all().size(), 2u);
    EXPECT_EQ(marks().all()[1].family, Family::hazard);
    EXPECT_TRUE(window->status().word().contains(QStringLiteral("saved")));
    EXPECT_TRUE(bow->status().word().contains(QStringLiteral("saved")));
    // One journal holds each row once; a row can be kept a moment before it is shown.
    EXPECT_TRUE(test::wait_for([&] {
        session().trip.journal()->flush();
        return session().trip.journal()->rows_taken() == scan().end();
    })) << session().trip.journal()->rows_taken()
        << " kept, " << scan().end() << " shown";
}

TEST_F(TwoWindows, OneClosesAndTheOtherGoesOn) {
    bow.reset();
    QTest::qWait(50);
    QApplication::setActiveWindow(window.get());
    window->view<ScanView>().setFocus();
    ASSERT_TRUE(sound_until([&] { return scan().end() > 120; }));
    EXPECT_EQ(picture().topRow(), scan().end() - 1);
    EXPECT_EQ(marks().all().size(), 1u);
    QTest::mouseClick(find("freeze"), Qt::LeftButton);
    EXPECT_TRUE(picture().frozen());
}

namespace {

/// A turning head at the bow, on a line of its own: what the stand-in's side sounder hears, as one beam that
/// turns.
class TurningHead {
  public:
    TurningHead() { server_.listen(QHostAddress::LocalHost, 0); }
    SourceConfig source() const { return test::source(SourceConfig::Kind::sounder, server_.serverPort()); }
    bool joined() {
        if (socket_ == nullptr)
            socket_ = server_.nextPendingConnection();
        return socket_ != nullptr;
    }
    void hangUp() { socket_->disconnectFromHost(); }
    void send(FrameType type, const Bytes &payload) {
        const auto bytes = encode_frame(type, payload);
        socket_->write(reinterpret_cast<const char *>(bytes.data()), static_cast<qint64>(bytes.size()));
        socket_->flush();
    }
    void greet(SounderHello hello, bool says_what_it_is) {
        hello.name = "turning head";
        if (says_what_it_is)
            hello.stream = StreamId::around;
        hello.installation.transducer.forward_m = 2.9;
        send(FrameType::hello, encode_hello(hello));
    }
    void ping(WirePing like) {
        like.number = ++count_;
        like.ping.beams.resize(1);
        like.ping.beams[0].side = Side::around;
        like.ping.beams[0].azimuth_deg = static_cast<double>(count_ * 3 % 360);
        send(FrameType::ping, encode_ping(like));
    }

  private:
    QTcpServer server_;
    QTcpSocket *socket_ = nullptr;
    std::uint64_t count_ = 0;
};

class Streams : public test::Stage {
  protected:
    test::FakeSounder fake;
    TurningHead head;
    void connect_both(bool says_what_it_is) {
        auto sources = fake.sources();
        sources.push_back(head.source());
        session().sources.listenTo(sources);
        ASSERT_TRUE(test::wait_for([&] { return fake.joined() && head.joined(); }));
        fake.speaks = [](const std::string &s) { return s; };
        fake.greet();
        head.greet(fake.sounder().hello(), says_what_it_is);
    }
    void sound(int n) {
        for (int i = 0; i < n; ++i) {
            const auto p = fake.next_ping();
            fake.send(encode_frame(FrameType::ping, encode_ping(p)));
            if (i % 2 == 0)
                head.ping(p);
        }
    }
};

} // namespace

TEST_F(Streams, ASideSounderAndATurningHeadRunAtOnceInOneTrip) {
    connect_both(true);
    sound(120);
    ASSERT_TRUE(rows(120));
    ASSERT_TRUE(test::wait_for([&] { return session().around.scan().end() == 60; }));
    for (std::size_t n = 1; n < scan().end(); ++n)
        ASSERT_LT(seconds_between(scan().facts(n - 1).time, scan().facts(n).time), 1.0) << n;
    EXPECT_EQ(scan().ping(100).beam(Side::around), nullptr);
    EXPECT_NE(session().around.scan().ping(50).beam(Side::around), nullptr);
    EXPECT_EQ(session().sounder.hello()->name, fake.sounder().hello().name);
    ASSERT_TRUE(session().head.hello());
    EXPECT_NEAR(session().head.hello()->installation.transducer.forward_m, 2.9, 1e-9);
    ASSERT_TRUE(session().trip.keeping());
    const auto file = session().trip.path();
    session().trip.journal()->flush();
    const auto trip = TripFile::open_read_only(file.toStdString());
    ASSERT_TRUE(trip);
    EXPECT_EQ(trip->rows(), 120u);
    EXPECT_EQ(trip->rows(StreamId::around), 60u);
    EXPECT_NEAR(trip->installation(StreamId::around).transducer.forward_m, 2.9, 1e-9);
}

// The picture of the sides is not said to be lost because the head at the bow is.
TEST_F(Streams, AHeadThatIsLostIsToldBesideAPictureThatGoesOn) {
    connect_both(true);
    sound(20);
    ASSERT_TRUE(rows(20));
    ASSERT_EQ(session().sources.flow(), Sources::Flow::flowing);
    head.hangUp();
    ASSERT_TRUE(test::wait_for([&] { return session().connections.all()[2].state == LinkState::Is::lost; }));
    EXPECT_EQ(session().sources.flow(), Sources::Flow::flowing);
    ASSERT_TRUE(window->notice().isVisible());
    EXPECT_TRUE(notice().contains(QStringLiteral("turning head"))) << notice().toStdString();
    EXPECT_TRUE(notice().contains(QStringLiteral("goes on"))) << notice().toStdString();
}

TEST_F(Streams, AHeadThatDoesNotSayWhatItIsIsKnownByItsPings) {
    connect_both(false);
    sound(40);
    ASSERT_TRUE(rows(40));
    EXPECT_TRUE(test::wait_for([&] { return session().around.scan().end() == 20; }));
    EXPECT_EQ(scan().end(), 40u);
}

// Two side sounders: the steps of time between them once ran through one picture (137 steps of 5,000 s in 587
// rows).
TEST_F(Streams, ASecondSideSounderIsShownAsConnectedAndNotMixedIn) {
    test::FakeSounder second;
    auto sources = fake.sources();
    sources.push_back(second.sources()[0]);
    session().sources.listenTo(sources);
    ASSERT_TRUE(test::wait_for([&] {
        second.joined();
        return fake.joined();
    }));
    fake.greet();
    for (int i = 0; i < 60; ++i) {
        fake.ping(1);
        auto late = second.sounder().next();
        while (!late.ping)
            late = second.sounder().next();
        late.ping->ping.time += 5000 * ns_per_s;
        if (second.socket() != nullptr)
            second.send(encode_frame(FrameType::ping, encode_ping(*late.ping)));
        else
            second.joined();
        QTest::qWait(2);
    }
    ASSERT_TRUE(rows(60));
    EXPECT_EQ(scan().end(), 60u);
    for (std::size_t n = 1; n < scan().end(); ++n)
        ASSERT_LT(std::fabs(seconds_between(scan().facts(n - 1).time, scan().facts(n).time)), 1.0) << n;
    EXPECT_TRUE(test::wait_for([&] { return session().connections.all()[2].state == LinkState::Is::spare; }));
    // Nor is the picture lost with the spare one.
    second.socket()->disconnectFromHost();
    ASSERT_TRUE(test::wait_for([&] { return session().connections.all()[2].state == LinkState::Is::lost; }));
    EXPECT_EQ(session().sources.flow(), Sources::Flow::flowing);
    EXPECT_FALSE(window->notice().isVisible() && notice().contains(QStringLiteral("lost")))
        << notice().toStdString();
}
