// Marks over a real broker: the stock mosquitto, its own programs beside ours, kills, weeks apart, floods,
// and what a client hears.
#include "sharing/shared_marks.hpp"

#include "brokers.hpp"
#include "exchange/mark_files.hpp"
#include "exchange/qr_code.hpp"
#include "files/identifier.hpp"
#include "marks/mark_json.hpp"
#include "picture/chip_png.hpp"
#include "programs.hpp"

#include <arpa/inet.h>
#include <chrono>
#include <condition_variable>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <map>
#include <mutex>
#include <netinet/in.h>
#include <random>
#include <sys/prctl.h>
#include <sys/socket.h>
#include <thread>
#include <unistd.h>

using namespace heron;
using testing::HasSubstr;
using namespace std::chrono_literals;
using test::Broker, test::Screen, test::mark, test::wait;

TEST(SharedMarks, AMarkStandsOnTheOtherScreenAndEditsGoBothWays) {
    Broker broker;
    Screen console(broker, "console"), bow(broker, "bow");
    const auto m = mark("Larch stump");
    console.edit(m);
    ASSERT_TRUE(wait({&console, &bow}, [&] { return bow.library.contains(m.id); }));
    EXPECT_EQ(bow.library[m.id].name, "Larch stump");
    auto changed = bow.library[m.id];
    changed.note = "roots north";
    bow.edit(changed);
    ASSERT_TRUE(wait({&console, &bow}, [&] { return console.library[m.id].note == "roots north"; }));
    console.remove(m.id);
    ASSERT_TRUE(wait({&console, &bow}, [&] { return !bow.library.contains(m.id); }));
    // A screen that comes later learns how it stands, and that it is gone.
    const auto n = mark("Sill");
    console.edit(n);
    Screen shore(broker, "shore");
    ASSERT_TRUE(wait({&console, &bow, &shore}, [&] { return shore.library.contains(n.id); }));
    EXPECT_FALSE(shore.library.contains(m.id));
}

TEST(SharedMarks, TwoScreensApartForAWeekSettleTheSame) {
    Broker broker;
    Screen console(broker, "console"), bow(broker, "bow");
    const auto m = mark("Stump");
    console.edit(m);
    ASSERT_TRUE(wait({&console, &bow}, [&] { return bow.library.contains(m.id); }));
    console.link.reset();
    bow.link.reset();
    // The bow's clock is a day behind; both edit the same field and others.
    bow.clock_off = -86'400LL * ns_per_s;
    console.clock_off = 0;
    auto one = console.library[m.id], two = bow.library[m.id];
    one.name = "Console's stump";
    one.note = "by the console";
    two.name = "Bow's stump";
    two.tags = {"bow"};
    console.edit(one);
    bow.edit(two);
    const auto extra = mark("Made offline");
    bow.edit(extra);
    for (auto *s : {&console, &bow}) {
        s->connect();
        for (const auto &[topic, payload] : s->unsaid)
            s->link->publish(topic, payload);
    }
    ASSERT_TRUE(wait({&console, &bow}, [&] {
        return console.library.contains(extra.id) && console.library[m.id].name == bow.library[m.id].name &&
               console.library[m.id].note == bow.library[m.id].note &&
               console.library[m.id].tags == bow.library[m.id].tags;
    }));
    EXPECT_EQ(bow.library[m.id].note, "by the console");
    EXPECT_EQ(console.library[m.id].tags, std::vector<std::string>{"bow"});
    EXPECT_EQ(console.shared->state(), bow.shared->state());
}

TEST(SharedMarks, ABrokerThatIsKilledIsCaughtUpWith) {
    Broker broker;
    Screen console(broker, "console"), bow(broker, "bow");
    console.edit(mark("one"));
    ASSERT_TRUE(wait({&console, &bow}, [&] { return bow.library.size() == 1; }));
    broker.stop(SIGKILL);
    ASSERT_TRUE(wait({&console, &bow}, [&] { return !console.link->state().connected; }));
    console.edit(mark("two"));
    bow.edit(mark("three"));
    EXPECT_GT(console.link->state().waiting_to_go, 0u);
    broker.start();
    ASSERT_TRUE(wait(
        {&console, &bow}, [&] { return console.library.size() == 3 && bow.library.size() == 3; }, 30s));
}

// All that a broker carries is recorded by its own program and searched for what each audience must not see.
TEST(SharedMarks, NoPrivateWordStandsOnATopicThatOthersMayRead) {
    Broker broker;
    const auto heard = broker.folder.file("heard.txt");
    Screen console(broker, "console");
    auto open = mark("NAMEWORD", Level::anyone), client = mark("CLIENTWORD", Level::client),
         crew = mark("CREWWORD"), own = mark("OWNWORD", Level::me), closed = mark("STAYS");
    for (auto *m : {&open, &client, &crew, &closed}) {
        m->note = "NOTEWORD";
        m->outcomes.emplace_back();
        m->outcomes[0].note = "FISHWORD";
    }
    own.note = "SECRETWORD";
    closed.note = "HELDWORD";
    closed.field_levels[Field::note] = Level::me;
    for (const auto &m : {open, client, crew, own, closed})
        console.edit(m);
    Screen guest(broker, "guest", SharedMarks::Role::client),
        stranger(broker, "stranger", SharedMarks::Role::anyone);
    ASSERT_TRUE(wait({&console, &guest, &stranger},
                     [&] { return guest.library.size() == 2 && stranger.library.size() == 1; }));
    const auto all = [&](const std::string &audience) {
        return test::run("timeout 2 mosquitto_sub -h 127.0.0.1 -p " + std::to_string(broker.port) +
                         " -t 'young-heron/ellemoor/" + audience + "/#' -v")
            .out;
    };
    const auto to_crew = all("crew"), to_client = all("client"), to_anyone = all("anyone");
    for (const auto *text : {&to_crew, &to_client, &to_anyone})
        for (const char *word : {"OWNWORD", "SECRETWORD", "HELDWORD"})
            EXPECT_EQ(text->find(word), std::string::npos) << word;
    EXPECT_THAT(to_crew, HasSubstr("CREWWORD"));
    EXPECT_THAT(to_crew, HasSubstr("NOTEWORD"));
    EXPECT_THAT(to_client, HasSubstr("CLIENTWORD"));
    for (const auto *text : {&to_client, &to_anyone})
        for (const char *word : {"CREWWORD", "NOTEWORD", "FISHWORD"})
            EXPECT_EQ(text->find(word), std::string::npos) << word;
    EXPECT_EQ(to_anyone.find("NAMEWORD"), std::string::npos);
    // Closed again, it goes from where it stood.
    open.level = Level::me;
    console.edit(open);
    ASSERT_TRUE(wait({&console, &guest, &stranger},
                     [&] { return stranger.library.empty() && guest.library.size() == 1; }));
    EXPECT_TRUE(console.library.contains(open.id)) << "here it stays";
}

TEST(SharedMarks, TenThousandHostileWordsAreRefusedAndNothingIsLost) {
    Broker broker(-1); // one that wrote its whole store at every word would be as slow as its disk is
    Screen console(broker, "console");
    const auto m = mark("Stump");
    console.edit(m);
    ASSERT_TRUE(wait({&console}, [&] { return console.link->state().connected; }));
    auto flood = BrokerLink::connect(broker.address(), "mallory", {"none"}, [] {});
    ASSERT_TRUE(flood);
    ASSERT_TRUE(wait({&console}, [&] { return (*flood)->state().connected; }));
    const auto topic = [&](const std::string &id) { return SharedMarks::topic("ellemoor", Level::crew, id); };
    const std::vector<std::string> bad{"no json",
                                       "{}",
                                       R"({"id":"../../../etc/passwd"})",
                                       R"({"id":"a","fields":{"name":5},"stamps":{"name":"1.0.m"}})",
                                       R"({"id":"other","fields":{"name":"x"},"stamps":{"name":"1.0.m"}})",
                                       std::string(500, '['),
                                       R"({"id":"a","fields":{"note":"<script>"},"stamps":{"note":"soon"}})",
                                       std::string(300, '\xFF')};
    for (int i = 0; i < 10'000; ++i)
        (*flood)->publish(topic("a" + std::to_string(i % 50)), bad[static_cast<std::size_t>(i) % bad.size()]);
    (*flood)->publish(topic("large"), std::string(BrokerLink::longest_word + 1, 'x'));
    const auto last = mark("After the flood");
    Screen bow(broker, "bow");
    bow.edit(last);
    ASSERT_TRUE(wait(
        {&console, &bow},
        [&] {
            return console.library.contains(last.id) && console.refused > 0 &&
                   console.link->state().refused + bow.link->state().refused > 0;
        },
        90s))
        << console.refused << " refused, the last word " << (console.library.contains(last.id) ? "" : "not ")
        << "there, too long: " << console.link->state().refused << " and " << bow.link->state().refused
        << (console.link->state().connected ? "" : ", the line gone");
    EXPECT_EQ(console.library.size(), 2u);
    EXPECT_EQ(console.library[m.id].name, "Stump");
    EXPECT_GE(console.link->state().refused + bow.link->state().refused, 1u) << "too long a word";
}

// Twelve boats behind two bridged brokers, six hundred marks and two hundred edits by whoever: every screen
// ends the same. HERON_FLEET_MARKS and HERON_FLEET_MINUTES (of a hundred edits each) for more.
TEST(SharedMarks, AFleetBehindBridgedBrokersEndsTheSame) {
    Broker shore(-1);
    Broker north(shore.port), south(shore.port);
    std::vector<std::unique_ptr<Screen>> boats;
    std::vector<Screen *> all;
    for (int i = 0; i < 12; ++i) {
        boats.push_back(std::make_unique<Screen>(i < 6 ? north : south, "boat-" + std::to_string(i)));
        all.push_back(boats.back().get());
    }
    ASSERT_TRUE(wait(all, [&] {
        return std::all_of(all.begin(), all.end(), [](Screen *s) { return s->link->state().connected; });
    }));
    const auto asked = [](const char *name, int usual) {
        const char *told = std::getenv(name);
        return told != nullptr ? std::max(1, std::atoi(told)) : usual;
    };
    const int many = asked("HERON_FLEET_MARKS", 600), minutes = asked("HERON_FLEET_MINUTES", 0);
    const auto patience = 60s * (1 + many / 600);
    std::vector<Mark> marks;
    for (int i = 0; i < many; ++i) {
        marks.push_back(mark("mark " + std::to_string(i)));
        all[static_cast<std::size_t>(i) % 12]->edit(marks.back());
    }
    ASSERT_TRUE(wait(
        all,
        [&] {
            return std::all_of(all.begin(), all.end(), [&](Screen *s) {
                return s->library.size() == static_cast<std::size_t>(many);
            });
        },
        patience))
        << all[0]->library.size() << " " << all[11]->library.size();
    std::mt19937 random(4);
    const int edits = minutes > 0 ? 100 * minutes : 200;
    const auto began = std::chrono::steady_clock::now();
    for (int i = 0; i < edits; ++i) {
        // A hundred a minute, where minutes were asked for.
        while (minutes > 0 && std::chrono::steady_clock::now() < began + i * 600ms)
            for (auto *s : all)
                s->turn();
        auto *boat = all[random() % 12];
        auto m = boat->library[marks[random() % 60].id];
        (i % 2 == 0 ? m.name : m.note) = "edit " + std::to_string(i);
        boat->edit(m);
        if (i % 10 == 0)
            for (auto *s : all)
                s->turn();
    }
    EXPECT_TRUE(wait(
        all,
        [&] {
            return std::all_of(all.begin(), all.end(),
                               [&](Screen *s) { return s->shared->state() == all[0]->shared->state(); });
        },
        patience));
    // A word from the north is heard in the south.
    const auto last = mark("from the north");
    all[0]->edit(last);
    EXPECT_TRUE(wait(
        all, [&] { return all[11]->library.contains(last.id); }, 20s));
}

TEST(SharedMarks, AnUnencryptedLineToAnotherMachineIsRefused) {
    const auto link = BrokerLink::connect({"192.0.2.7", 1883, {}, {}, {}, {}, {}}, "bow", {}, [] {});
    ASSERT_FALSE(link);
    EXPECT_THAT(link.error().line(), HasSubstr("encrypted"));
    const auto none =
        BrokerLink::connect({"192.0.2.7", 8883, {}, {}, "/nowhere/ca.pem", {}, {}}, "bow", {}, [] {});
    ASSERT_FALSE(none);
    EXPECT_THAT(none.error().line(), HasSubstr("/nowhere/ca.pem"));
    EXPECT_TRUE(is_loopback("127.0.0.1") && is_loopback("localhost") && is_loopback("::1"));
    EXPECT_FALSE(is_loopback("10.0.0.1") || is_loopback("example.net"));
}

// Read back by a reader of another maker.
TEST(QrCode, IsReadBackByZbar) {
    const auto m = mark("Old gate & stump");
    const auto uri = geo_uri(m);
    const auto code = qr_code(uri);
    ASSERT_GT(code.size, 20);
    constexpr int module = 6, quiet = 4;
    const int side = (code.size + 2 * quiet) * module;
    Chip chip{
        side, side,
        std::vector<std::uint8_t>(static_cast<std::size_t>(side) * static_cast<std::size_t>(side), 255)};
    for (int y = 0; y < code.size * module; ++y)
        for (int x = 0; x < code.size * module; ++x)
            if (code.dark[static_cast<std::size_t>(y / module * code.size + x / module)] != 0)
                chip.level[static_cast<std::size_t>((y + quiet * module) * side + x + quiet * module)] = 0;
    const test::Folder folder;
    std::ofstream(folder.file("qr.png"), std::ios::binary) << png_of_chip(chip);
    const auto read = test::run("zbarimg -q --raw " + folder.file("qr.png"));
    EXPECT_EQ(read.code, 0) << read.out;
    EXPECT_THAT(read.out, HasSubstr(uri));
    EXPECT_EQ(qr_code("").size, 0);
    EXPECT_EQ(qr_code(std::string(5000, 'x')).size, 0);
}
