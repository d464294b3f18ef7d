// A sounder that hangs, dies, comes back, sends halves or speaks another version: told in the window, and
// nothing marked is lost.
#include "stage.hpp"

#include "link/messages.hpp"
#include "sim/sounder.hpp"

#include <QTcpServer>
#include <QTcpSocket>

using namespace heron;
using namespace heron::app;

namespace {

// A sounder whose every byte the test decides.
class FakeSounder {
  public:
    FakeSounder() {
        server_.listen(QHostAddress::LocalHost, 0);
        nmea_.listen(QHostAddress::LocalHost, 0);
        auto scene = sim::read_scene_file(test::lake());
        sounder_ = std::make_unique<sim::Sounder>(std::move(*scene), 1'800'000'000LL * ns_per_s);
    }
    std::vector<SourceConfig> sources() const {
        return {test::source(SourceConfig::Kind::sounder, server_.serverPort()),
                test::source(SourceConfig::Kind::nmea, nmea_.serverPort())};
    }
    bool joined() {
        if (socket_ == nullptr)
            socket_ = server_.nextPendingConnection();
        return socket_ != nullptr;
    }
    void send(const Bytes &bytes) {
        socket_->write(reinterpret_cast<const char *>(bytes.data()), static_cast<qint64>(bytes.size()));
        socket_->flush();
    }
    void greet() {
        send(encode_frame(FrameType::hello, encode_hello(sounder_->hello())));
        send(encode_frame(FrameType::settings, encode_settings(sounder_->settings())));
    }
    Bytes ping() {
        while (true)
            if (const auto e = sounder_->next(); e.ping)
                return encode_frame(FrameType::ping, encode_ping(*e.ping));
    }
    void ping(int n) {
        for (int i = 0; i < n; ++i)
            send(ping());
    }
    void hang_up() {
        socket_->abort();
        socket_ = nullptr;
    }

  private:
    QTcpServer server_, nmea_;
    QTcpSocket *socket_ = nullptr;
    std::unique_ptr<sim::Sounder> sounder_;
};

class Faults : public test::Stage {
  protected:
    FakeSounder fake;
    void SetUp() override {
        Stage::SetUp();
        survey->listenTo(fake.sources());
        ASSERT_TRUE(test::wait_for([&] { return fake.joined(); }));
        fake.greet();
        fake.ping(60);
        ASSERT_TRUE(rows(60));
        QTest::mouseClick(&picture(), Qt::LeftButton, Qt::NoModifier, on_picture(40, Side::port, 14));
        key(Qt::Key_X);
        ASSERT_EQ(survey->marks().size(), 1u);
    }
    bool told(const char *words, int ms = 10000) {
        return test::wait_for([&] { return notice().contains(QString::fromLatin1(words)); }, ms);
    }
    void nothing_lost() {
        EXPECT_EQ(survey->marks().size(), 1u);
        EXPECT_GE(scan().end(), 60u);
        // The window answers: a key does its work.
        const bool was = picture().frozen();
        key(Qt::Key_F);
        EXPECT_NE(picture().frozen(), was);
        key(Qt::Key_F);
    }
};

} // namespace

TEST_F(Faults, ASounderThatHangsIsToldAndItsReturnToo) {
    ASSERT_TRUE(told("said nothing for three seconds"));
    EXPECT_TRUE(notice().contains(QStringLiteral("kept")));
    EXPECT_EQ(survey->flow(), Survey::Flow::silent);
    nothing_lost();
    fake.ping(5);
    ASSERT_TRUE(test::wait_for([&] { return survey->flow() == Survey::Flow::flowing; }));
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
    EXPECT_EQ(survey->flow(), Survey::Flow::flowing);
}

TEST_F(Faults, HalfAFrameCostsOnlyItself) {
    auto half = fake.ping();
    half.resize(half.size() / 2);
    fake.send(half);
    fake.ping(20);
    ASSERT_TRUE(rows(79));
    EXPECT_EQ(survey->lostPings(), 1u);
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
    ASSERT_TRUE(survey->marks()[0].place_remark.find("place unknown") != std::string::npos);
    EXPECT_FALSE(survey->marks()[0].place);
}
