// Changes that are taken back after the program was closed, and what a mark tells of what became of it.
#include "marks/mark_book.hpp"

#include "files/identifier.hpp"
#include "files/json.hpp"
#include "marks/joining.hpp"
#include "marks/mark_json.hpp"
#include "programs.hpp"

#include <csignal>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

using namespace heron;
using testing::HasSubstr;

namespace {

Mark stump(double east_m = 0) {
    Mark m;
    m.id = new_identifier();
    m.name = "Larch stump";
    m.family = Family::structure;
    m.kind = Kind::stump;
    m.time = 1'800'000'000LL * ns_per_s + 123;
    m.place = LocalPlane({46.5, -21.25}).to_globe({east_m, 3});
    m.place_covariance = {1.5, 0.2, 1.1};
    m.depth_m = Estimate{4.1, 0.2};
    m.chip = {2, 2, {9, 8, 7, 6}};
    return m;
}

MarkBook opened(const std::string &path) {
    auto book = MarkBook::open(path);
    EXPECT_TRUE(book) << (book ? "" : book.error().happened);
    return std::move(*book);
}

/// All that is known of all marks, in any order.
nlohmann::json state_of(const MarkBook &book) {
    nlohmann::json all = nlohmann::json::object();
    for (const auto &m : book.marks())
        all[m.id] = json_of(m, true);
    return all;
}

} // namespace

TEST(MarkHistory, WhatWasDoneYesterdayIsTakenBackToday) {
    const test::Folder folder;
    const auto path = folder.file("marks.gpkg");
    const auto m = stump();
    auto renamed = m;
    renamed.name = "The big one";
    renamed.note = "zander in May";
    {
        auto book = opened(path);
        ASSERT_TRUE(book.add(m));
        ASSERT_TRUE(book.change(renamed));
        ASSERT_TRUE(book.remove(m.id));
    }
    auto book = opened(path);
    EXPECT_TRUE(book.marks().empty());
    ASSERT_TRUE(book.can_undo());
    ASSERT_TRUE(book.undo());
    ASSERT_NE(book.find(m.id), nullptr);
    EXPECT_EQ(json_of(*book.find(m.id), true), json_of(renamed, true)) << "with its picture";
    ASSERT_TRUE(book.undo());
    EXPECT_EQ(json_of(*book.find(m.id), true), json_of(m, true)) << "a picture that was not touched stays";
    // Each is on the disk: another session goes on from there.
    auto third = opened(path);
    ASSERT_TRUE(third.undo());
    EXPECT_TRUE(third.marks().empty());
    EXPECT_FALSE(third.can_undo());
    EXPECT_TRUE(third.undo()) << "with nothing left it does nothing";
}

TEST(MarkHistory, AJoinIsPartedAgainWithBothPictures) {
    const test::Folder folder;
    const auto path = folder.file("marks.gpkg");
    const auto a = stump(), b = stump(1.2);
    nlohmann::json before;
    {
        auto book = opened(path);
        ASSERT_TRUE(book.add_all({a, b}));
        before = state_of(book);
        ASSERT_TRUE(book.replace({joined(a, b)}, {b.id}));
    }
    auto book = opened(path);
    ASSERT_EQ(book.marks().size(), 1u);
    ASSERT_TRUE(book.undo());
    EXPECT_EQ(state_of(book), before);
}

// Whatever was done in however many sessions: taken back step by step each state comes again, down to
// nothing.
RC_GTEST_PROP(MarkHistory, EveryStateComesAgain, ()) {
    const test::Folder folder;
    const auto path = folder.file("marks.gpkg");
    std::vector<nlohmann::json> states;
    std::optional<MarkBook> book(opened(path));
    const int changes = *rc::gen::inRange(1, 8);
    for (int i = 0; i < changes; ++i) {
        states.push_back(state_of(*book));
        const auto &all = book->marks();
        const auto which = all.empty() ? 0U : *rc::gen::inRange<std::size_t>(0, all.size());
        const int what = *rc::gen::inRange(0, 4);
        if (all.empty() || what == 0) {
            RC_ASSERT(book->add(stump(*rc::gen::inRange(0, 50))));
        } else if (what == 1) {
            auto m = all[which];
            m.note += "x";
            if (*rc::gen::arbitrary<bool>()) {
                auto chip = *m.chip.look();
                chip.level[0] = static_cast<std::uint8_t>(i);
                m.chip = std::move(chip);
            }
            RC_ASSERT(book->change(m));
        } else if (what == 2) {
            RC_ASSERT(book->remove(all[which].id));
        } else {
            const auto one = all[which], other = all[(which + 1) % all.size()];
            if (one.id == other.id)
                RC_ASSERT(book->change(one));
            else
                RC_ASSERT(book->replace({joined(one, other)}, {other.id}));
        }
        if (*rc::gen::inRange(0, 3) == 0) {
            book.reset();
            book.emplace(opened(path));
        }
    }
    while (!states.empty()) {
        RC_ASSERT(book->can_undo());
        RC_ASSERT(book->undo());
        RC_ASSERT(state_of(*book) == states.back());
        states.pop_back();
        if (*rc::gen::inRange(0, 4) == 0) {
            book.reset();
            book.emplace(opened(path));
        }
    }
    RC_ASSERT(!book->can_undo());
}

TEST(MarkHistory, WhatOthersChangedSinceIsNotOverruled) {
    const test::Folder folder;
    const auto path = folder.file("marks.gpkg");
    auto m = stump();
    {
        auto book = opened(path);
        ASSERT_TRUE(book.add(m));
        m.name = "Mine";
        ASSERT_TRUE(book.change(m));
        m.name = "Of the other screen";
        ASSERT_TRUE(book.take_from_others({m}, {}));
    }
    auto book = opened(path);
    const auto undone = book.undo();
    ASSERT_FALSE(undone);
    EXPECT_THAT(undone.error().happened, HasSubstr("changed since by others"));
    EXPECT_EQ(book.find(m.id)->name, "Of the other screen");
    EXPECT_FALSE(book.can_undo());
}

TEST(MarkHistory, AMarkTellsWhatBecameOfIt) {
    const test::Folder folder;
    auto book = opened(folder.file("marks.gpkg"));
    auto m = stump();
    ASSERT_TRUE(book.add(m));
    m.name = "Gate";
    m.tags = {"autumn"};
    ASSERT_TRUE(book.change(m));
    m.place = LocalPlane(*m.place).to_globe({1, 0});
    ASSERT_TRUE(book.change(m));
    m.level = Level::me;
    ASSERT_TRUE(book.change(m));
    const auto lines = book.history_of(m.id);
    ASSERT_EQ(lines.size(), 4u);
    EXPECT_TRUE(lines[0].fields.empty()) << "who may see it";
    EXPECT_EQ(lines[1].fields, std::vector{Field::place});
    EXPECT_EQ(lines[2].fields, (std::vector{Field::name, Field::tags}));
    EXPECT_TRUE(lines[3].made);
    EXPECT_TRUE(book.history_of("somebody-else").empty());
}

// Of another hand: rows that are no marks, a step that speaks of another mark, endless text.
TEST(MarkHistory, WhatIsSpoiledIsPassedOver) {
    const test::Folder folder;
    const auto path = folder.file("marks.gpkg");
    const auto m = stump();
    {
        auto book = opened(path);
        ASSERT_TRUE(book.add(m));
    }
    for (const char *spoil :
         {"INSERT INTO heron_history VALUES (2, 'x', 'never', 1, '{\"id\":3', '[]')",
          "INSERT INTO heron_history VALUES (2, 'x', '', 0, '', '')",
          "INSERT INTO heron_history VALUES (9000000000, 'x', '', 0, '{\"id\":\"y\"}', '')",
          "INSERT INTO heron_history VALUES (2, 'x', '', 0, hex(zeroblob(9000000)), '')"}) {
        {
            auto db = Database::open(path, Database::Mode::write);
            ASSERT_TRUE(db);
            ASSERT_TRUE(db->run(spoil)) << spoil;
        }
        auto book = opened(path);
        EXPECT_EQ(book.marks().size(), 1u);
        EXPECT_TRUE(book.history_of("x").size() <= 1);
        ASSERT_TRUE(book.undo()) << spoil << ": the sound step before it";
        EXPECT_TRUE(book.marks().empty());
        ASSERT_TRUE(book.add(m));
    }
}

TEST(MarkHistory, AVastImportIsUndoneInItsSessionButNotKept) {
    const test::Folder folder;
    const auto path = folder.file("marks.gpkg");
    std::vector<Mark> many;
    for (int i = 0; i < 300; ++i) {
        many.push_back(stump(i));
        many.back().note = std::string(19'000, 'n');
    }
    {
        auto book = opened(path);
        ASSERT_TRUE(book.add_all(many));
        EXPECT_TRUE(book.can_undo());
    }
    auto book = opened(path);
    EXPECT_EQ(book.marks().size(), 300u);
    EXPECT_FALSE(book.can_undo());
}

// The disk is full in the middle of a join: it is told, and both marks stand as they were, with their
// pictures. A limit on the size of files stands for the disk: it fails the same call.
TEST(MarkHistory, AFullDiskInTheMiddleOfAJoinLosesNothing) {
    const test::Folder folder;
    const auto path = folder.file("marks.gpkg");
    auto a = stump(), b = stump(1);
    a.chip = b.chip = {200, 150, std::vector<std::uint8_t>(30'000, 7)};
    nlohmann::json before;
    {
        auto book = opened(path);
        ASSERT_TRUE(book.add_all({a, b}));
        before = state_of(book);
    }
    const auto child = ::fork();
    if (child == 0) {
        auto book = MarkBook::open(path);
        if (!book)
            ::_exit(2);
        ::signal(SIGXFSZ, SIG_IGN);
        // Not a page more for the log of changes.
        const rlimit none{4096, 4096};
        ::setrlimit(RLIMIT_FSIZE, &none);
        const auto joined_ok = book->replace({joined(a, b)}, {b.id});
        const bool as_before = book->marks().size() == 2 && book->find(b.id) != nullptr;
        ::_exit(joined_ok ? 3 : as_before && !joined_ok.error().happened.empty() ? 0 : 4);
    }
    int status = 0;
    ::waitpid(child, &status, 0);
    ASSERT_TRUE(WIFEXITED(status));
    EXPECT_EQ(WEXITSTATUS(status), 0) << "3: it was joined all the same; 4: no fault, or a mark was lost";
    auto book = opened(path);
    EXPECT_EQ(state_of(book), before);
    EXPECT_TRUE(book.replace({joined(a, b)}, {b.id})) << "and with room it goes on";
}
