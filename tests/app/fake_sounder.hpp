// A sounder and a receiver whose every byte the test decides; what they say is the stand-in's own.
#pragma once

#include "stage.hpp"

#include "link/messages.hpp"
#include "sim/sounder.hpp"

#include <QTcpServer>
#include <QTcpSocket>
#include <fmt/format.h>

namespace heron::test {

class FakeSounder {
  public:
    static constexpr UnixNs begin = 1'800'000'000LL * ns_per_s;
    FakeSounder() {
        server_.listen(QHostAddress::LocalHost, 0);
        nmea_.listen(QHostAddress::LocalHost, 0);
        auto scene = sim::read_scene_file(lake());
        sounder_ = std::make_unique<sim::Sounder>(std::move(*scene), begin);
    }
    std::vector<app::SourceConfig> sources() const {
        return {source(app::SourceConfig::Kind::sounder, server_.serverPort()),
                source(app::SourceConfig::Kind::nmea, nmea_.serverPort())};
    }
    bool joined() {
        if (socket_ == nullptr)
            socket_ = server_.nextPendingConnection();
        if (receiver_ == nullptr)
            receiver_ = nmea_.nextPendingConnection();
        return socket_ != nullptr && receiver_ != nullptr;
    }
    void send(const Bytes &bytes) {
        socket_->write(reinterpret_cast<const char *>(bytes.data()), static_cast<qint64>(bytes.size()));
        socket_->flush();
    }
    void say(const std::string &sentences) {
        receiver_->write(sentences.data(), static_cast<qint64>(sentences.size()));
        receiver_->flush();
    }
    void greet() {
        send(encode_frame(FrameType::hello, encode_hello(sounder_->hello())));
        send(encode_frame(FrameType::settings, encode_settings(sounder_->settings())));
    }
    /// The next ping; the sentences that come before it go out where `speaks` is set, as it changes them.
    WirePing next_ping() {
        while (true) {
            auto e = sounder_->next();
            if (e.ping)
                return *e.ping;
            if (speaks)
                for (auto &s : e.sentences)
                    say(speaks(s));
        }
    }
    Bytes ping() { return encode_frame(FrameType::ping, encode_ping(next_ping())); }
    void ping(int n) {
        for (int i = 0; i < n; ++i)
            send(ping());
    }
    /// What the sounder was asked since the last look, the latest of it; it does so.
    std::optional<SoundingSettings> asked() {
        std::optional<SoundingSettings> wanted;
        const auto bytes = socket_->readAll();
        reader_.push(
            {reinterpret_cast<const std::uint8_t *>(bytes.data()), static_cast<std::size_t>(bytes.size())});
        while (const auto frame = reader_.next())
            if (frame->type == FrameType::request)
                if (const auto settings = decode_settings(frame->payload))
                    wanted = *settings;
        if (wanted) {
            sounder_->ask(*wanted);
            send(encode_frame(FrameType::settings, encode_settings(sounder_->settings())));
        }
        return wanted;
    }
    void hang_up() {
        socket_->abort();
        socket_ = nullptr;
    }
    sim::Sounder &sounder() { return *sounder_; }
    QTcpSocket *socket() { return socket_; }
    std::function<std::string(const std::string &)> speaks;

  private:
    QTcpServer server_, nmea_;
    QTcpSocket *socket_ = nullptr, *receiver_ = nullptr;
    std::unique_ptr<sim::Sounder> sounder_;
    FrameReader reader_;
};

/// The window on a fake sounder that has said hello and sounded sixty rows, and one mark.
class Faked : public Stage {
  protected:
    FakeSounder fake;
    bool speaks_from_the_start = false;
    void SetUp() override {
        Stage::SetUp();
        session().sources.listenTo(fake.sources());
        ASSERT_TRUE(wait_for([&] { return fake.joined(); }));
        if (speaks_from_the_start)
            fake.speaks = [](const std::string &s) { return s; };
        fake.greet();
        fake.ping(60);
        ASSERT_TRUE(rows(60));
        QTest::mouseClick(&picture(), Qt::LeftButton, Qt::NoModifier, on_picture(40, Side::port, 14));
        key(Qt::Key_X);
        ASSERT_EQ(marks().all().size(), 1u);
    }
    bool told(const char *words, int ms = 10000) {
        return wait_for([&] { return notice().contains(QString::fromLatin1(words)); }, ms);
    }
    void nothing_lost() {
        EXPECT_EQ(marks().all().size(), 1u);
        EXPECT_GE(scan().end(), 60u);
        // The window answers: a key does its work.
        const bool was = picture().frozen();
        key(Qt::Key_F);
        EXPECT_NE(picture().frozen(), was);
        key(Qt::Key_F);
    }
};

/// The same, with a receiver that speaks from the start.
class Afloat : public Faked {
  protected:
    Afloat() { speaks_from_the_start = true; }
    /// Sounds on, a little at a time, until it holds.
    bool sound_until(const std::function<bool()> &holds, int rounds = 400) {
        for (int i = 0; i < rounds; ++i) {
            fake.ping(4);
            if (wait_for(holds, 20))
                return true;
        }
        return false;
    }
};

/// A sentence with its checksum made right again.
inline std::string mended(const std::string &sentence) {
    const auto star = sentence.find('*');
    unsigned sum = 0;
    for (std::size_t i = 1; i < star; ++i)
        sum ^= static_cast<unsigned char>(sentence[i]);
    return sentence.substr(0, star) + fmt::format("*{:02X}\r\n", sum);
}
/// A sentence with another word in one of its fields, counted from 1.
inline std::string with_field(const std::string &sentence, int field, const std::string &word) {
    std::size_t at = 0;
    for (int i = 0; i < field; ++i)
        at = sentence.find(',', at) + 1;
    return mended(sentence.substr(0, at) + word + sentence.substr(sentence.find_first_of(",*", at)));
}

} // namespace heron::test
