// Screens that share marks: whatever is lost, doubled, late or out of order, they end the same; what is
// hostile is refused.
#include "sharing/replica.hpp"

#include "files/identifier.hpp"
#include "marks/mark_json.hpp"

#include <algorithm>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;
using testing::HasSubstr;

namespace {

Mark mark_of(const std::string &id, const std::string &name = "") {
    Mark m;
    m.id = id;
    m.name = name;
    m.family = Family::structure;
    m.place = GeoPoint{46.5, -21.25};
    return m;
}

constexpr UnixNs second = 1'000'000'000, start = 1'800'000'000 * second;

std::string wire(const SharedMark &m) {
    return json_of(m).dump();
}

} // namespace

TEST(HybridClock, LaterEditsComeLaterWhateverTheClocksSay) {
    HybridClock console("console"), bow("bow");
    const auto a = console.now(start);
    // The bow's clock is a day behind; it has seen the console's edit.
    bow.seen(a, start - 86'400 * second);
    const auto b = bow.now(start - 86'400 * second);
    EXPECT_GT(b, a);
    console.seen(b, start + second);
    EXPECT_GT(console.now(start), b) << "and a clock that goes back makes no earlier edits";
    EXPECT_EQ(stamp_of(text_of(b)), b);
    for (const char *bad : {"", "1", "1.2", "1.2.", "x.2.bow", "-5.0.bow", "99999999999999999999.0.bow"})
        EXPECT_FALSE(stamp_of(bad)) << bad;
    // A stamp from a far future does not drag all others along.
    HybridClock calm("calm");
    calm.seen({7'000'000'000'000, 0, "mad"}, start);
    EXPECT_LT(calm.now(start).milliseconds, 2'000'000'000'000);
}

TEST(Replica, FieldByFieldTheLaterEditHoldsAndTheLoserIsTold) {
    Replica console("console"), bow("bow");
    const auto made = console.edit(mark_of("a", "Stump"), start);
    ASSERT_TRUE(made);
    bow.take(*made, start);
    // Both edit at once: one the name, one the note, and both the kind.
    auto one = *mark_of(*console.find("a")), two = *mark_of(*bow.find("a"));
    one.name = "Old stump";
    one.kind = Kind::stump;
    two.note = "roots north";
    two.kind = Kind::log;
    const auto from_console = console.edit(one, start + second), from_bow = bow.edit(two, start + 2 * second);
    EXPECT_EQ(from_console->fields.size(), 2u) << "only what changed travels";
    std::vector<LostEdit> lost;
    console.take(*from_bow, start + 3 * second, &lost);
    bow.take(*from_console, start + 3 * second);
    for (const auto *r : {&console, &bow}) {
        const auto m = *mark_of(*r->find("a"));
        EXPECT_EQ(m.name, "Old stump");
        EXPECT_EQ(m.note, "roots north");
        EXPECT_EQ(m.kind, Kind::log);
    }
    ASSERT_EQ(lost.size(), 1u);
    EXPECT_EQ(lost[0].field, "kind");
    EXPECT_EQ(lost[0].value, "stump");
    EXPECT_FALSE(console.edit(*mark_of(*console.find("a")), start + 9 * second))
        << "nothing changed, nothing is said";
}

TEST(Replica, WhatWasRemovedDoesNotComeBackAndAnEditAfterwardsRevives) {
    Replica console("console"), bow("bow");
    const auto made = console.edit(mark_of("a", "Stump"), start);
    bow.take(*made, start);
    const auto gone = console.remove("a", start + second);
    ASSERT_TRUE(gone);
    bow.take(*gone, start + second);
    EXPECT_TRUE(bow.find("a")->gone());
    bow.take(*made, start + 2 * second); // an old word comes late once more
    EXPECT_TRUE(bow.find("a")->gone());
    const auto again = bow.edit(mark_of("a", "Stump after all"), start + 3 * second);
    ASSERT_TRUE(again);
    console.take(*again, start + 4 * second);
    EXPECT_FALSE(console.find("a")->gone());
    EXPECT_EQ(mark_of(*console.find("a"))->name, "Stump after all");
}

TEST(Replica, SightingsAndOutcomesOfBothStay) {
    Replica console("console"), bow("bow");
    bow.take(*console.edit(mark_of("a"), start), start);
    auto one = *mark_of(*console.find("a")), two = one;
    Outcome bite, fish;
    bite.what = Outcome::What::bite;
    bite.time = start;
    fish.what = Outcome::What::landed;
    fish.time = start + second;
    one.outcomes = {bite};
    two.outcomes = {fish};
    const auto a = console.edit(one, start + second), b = bow.edit(two, start + second);
    console.take(*b, start + 2 * second);
    bow.take(*a, start + 2 * second);
    EXPECT_EQ(mark_of(*console.find("a"))->outcomes.size(), 2u);
    EXPECT_EQ(console.state(), bow.state());
}

TEST(Replica, ItsStateIsKeptAndRead) {
    Replica console("console");
    console.edit(mark_of("a", "one"), start);
    console.edit(mark_of("b", "two"), start);
    console.remove("b", start + second);
    Replica later("console");
    EXPECT_EQ(later.load(console.state()), 0u);
    EXPECT_EQ(later.state(), console.state());
    EXPECT_EQ(Replica("x").load("rubbish\n{\"id\":5}\n" + console.state()), 2u);
}

TEST(SharedWord, WhatIsHostileIsRefused) {
    const auto why = [](const std::string &text) {
        const auto m = shared_mark_of_json(text);
        return m ? std::string("taken") : m.error().line();
    };
    EXPECT_THAT(why("no json"), HasSubstr("not lawful"));
    EXPECT_THAT(why("{}"), HasSubstr("names no mark"));
    EXPECT_THAT(why(R"({"id":"../../etc/passwd"})"), HasSubstr("its id is none"));
    EXPECT_THAT(why(R"({"id":"a","fields":{"name":"x"},"stamps":{}})"), HasSubstr("go together"));
    EXPECT_THAT(why(R"({"id":"a","fields":{"name":"x"},"stamps":{"name":"soon"}})"), HasSubstr("stamp"));
    EXPECT_THAT(why(R"({"id":"a","fields":{"latitude_deg":"north"},"stamps":{"latitude_deg":"1.0.x"}})"),
                HasSubstr("latitude"));
    EXPECT_THAT(why(R"({"id":"a","fields":{"name":")" + std::string(100'000, 'x') +
                    R"("},"stamps":{"name":"1.0.x"}})"),
                HasSubstr("name"));
    EXPECT_THAT(why(std::string(100, '[')), HasSubstr("not lawful"));
    EXPECT_FALSE(shared_mark_of_json(std::string(10'000'000, ' ') + "{}"));
    EXPECT_EQ(why(R"({"id":"a","fields":{"name":"x"},"stamps":{"name":"1.0.x"}})"), "taken");
}

// Three screens edit as they like; every word may be lost, doubled and late, until at the end each hears all
// states once.
RC_GTEST_PROP(Replica, AnyOrderEndsInOneState, ()) {
    std::mt19937 random(*rc::gen::arbitrary<unsigned>());
    const auto pick = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
    std::vector<Replica> screens;
    for (const char *name : {"console", "bow", "shore"})
        screens.emplace_back(name);
    std::vector<std::string> words;
    const int edits = *rc::gen::inRange(1, 40);
    for (int i = 0; i < edits; ++i) {
        auto &screen = screens[static_cast<std::size_t>(pick(3))];
        const auto id = std::string(1, static_cast<char>('a' + pick(4)));
        // Clocks are wrong by up to a day.
        const UnixNs wall = start + (pick(172'800) - 86'400) * second;
        std::optional<SharedMark> word;
        if (pick(6) == 0) {
            word = screen.remove(id, wall);
        } else {
            auto m = mark_of(id);
            if (const auto *known = screen.find(id); known != nullptr && !known->fields.empty())
                if (auto now = mark_of(*known))
                    m = *now;
            switch (pick(4)) {
            case 0:
                m.name = "name " + std::to_string(pick(9));
                break;
            case 1:
                m.note = "note " + std::to_string(pick(9));
                break;
            case 2:
                m.kind = static_cast<Kind>(4 + pick(6));
                break;
            default:
                m.outcomes.push_back({});
                m.outcomes.back().time = wall;
            }
            word = screen.edit(m, wall);
        }
        if (word)
            words.push_back(wire(*word));
        // Some words arrive somewhere, some twice, some never.
        for (int k = pick(4); k > 0 && !words.empty(); --k)
            screens[static_cast<std::size_t>(pick(3))].take(
                *shared_mark_of_json(words[static_cast<std::size_t>(pick(static_cast<int>(words.size())))]),
                wall);
    }
    // In the end all states go round, in any order.
    for (int round = 0; round < 2; ++round)
        for (auto &to : screens)
            for (auto &from : screens)
                to.load(from.state());
    RC_ASSERT(screens[0].state() == screens[1].state());
    RC_ASSERT(screens[1].state() == screens[2].state());
}
