// Pictures of marks that stay in the library's file until somebody looks.
#include "marks/chip_shelf.hpp"

#include "files/identifier.hpp"
#include "marks/mark_book.hpp"
#include "programs.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <thread>

using namespace heron;

namespace {

Chip picture(std::uint8_t of) {
    return {3, 2, {of, 1, 2, 3, 4, 5}};
}

Mark mark(const std::string &id, std::uint8_t of) {
    Mark m;
    m.id = id;
    m.kind = Kind::stump;
    m.family = Family::structure;
    m.place = GeoPoint{46.5, -21.25};
    m.chip = picture(of);
    return m;
}

Sighting sighting(UnixNs time, std::uint8_t of) {
    Sighting s;
    s.time = time;
    s.chip = picture(of);
    return s;
}

class Shelf : public testing::Test {
  protected:
    test::Folder folder;
    std::string path = folder.file("marks.gpkg");
    MarkBook opened() {
        auto book = MarkBook::open(path);
        EXPECT_TRUE(book) << (book ? "" : book.error().line());
        return std::move(*book);
    }
    void have(const std::vector<Mark> &marks) { ASSERT_TRUE(opened().add_all(marks)); }
    static std::uint8_t seen(const KeptChip &chip) {
        const auto look = chip.look();
        return look->empty() ? 0 : look->level[0];
    }
};

} // namespace

TEST_F(Shelf, APictureIsReadWhenItIsLookedAt) {
    have({mark("a", 7), mark("b", 8)});
    const auto book = opened();
    ASSERT_FALSE(book.find("a")->chip.empty());
    EXPECT_EQ(*book.find("a")->chip.look(), picture(7));
    // What another program did to the file since is seen: it was not in memory.
    auto other = Database::open(path, Database::Mode::write);
    ASSERT_TRUE(other && other->run("UPDATE marks SET chip = x'63010203040506' || x'', chip_width = 7, "
                                    "chip_height = 1 WHERE id = 'b'"));
    EXPECT_EQ(seen(book.find("b")->chip), 0x63);
    ASSERT_TRUE(other->run("UPDATE marks SET chip = NULL WHERE id = 'b'"));
    EXPECT_TRUE(book.find("b")->chip.look()->empty()) << "told as none, not as something else";
    ASSERT_TRUE(other->run("UPDATE marks SET chip = x'0102' WHERE id = 'a'"));
    EXPECT_TRUE(book.find("a")->chip.look()->empty()) << "too short for its width";
}

TEST_F(Shelf, AnEditLeavesItAsItLies) {
    have({mark("a", 7)});
    {
        auto book = opened();
        auto m = *book.find("a");
        m.name = "Larch stump";
        ASSERT_TRUE(book.change(m));
        EXPECT_EQ(seen(book.find("a")->chip), 7);
    }
    EXPECT_EQ(seen(opened().find("a")->chip), 7);
}

TEST_F(Shelf, WhatGoesOrChangesIsKeptForUndo) {
    have({mark("a", 7), mark("b", 8)});
    auto book = opened();
    auto changed = *book.find("b");
    changed.chip = picture(9);
    ASSERT_TRUE(book.remove("a"));
    ASSERT_TRUE(book.change(changed));
    EXPECT_EQ(seen(opened().find("b")->chip), 9);
    ASSERT_TRUE(book.undo());
    ASSERT_TRUE(book.undo());
    EXPECT_EQ(seen(book.find("a")->chip), 7);
    EXPECT_EQ(seen(book.find("b")->chip), 8);
    const auto again = opened();
    EXPECT_EQ(seen(again.find("a")->chip), 7);
    EXPECT_EQ(seen(again.find("b")->chip), 8);
}

// The numbers of sightings move when one is taken out: each keeps its own picture.
TEST_F(Shelf, SightingsKeepTheirOwnPictures) {
    auto m = mark("a", 7);
    m.sightings = {sighting(10, 7), sighting(20, 21), sighting(30, 22), sighting(40, 23)};
    have({m});
    auto book = opened();
    auto fewer = *book.find("a");
    fewer.sightings.erase(fewer.sightings.begin() + 1);
    std::swap(fewer.sightings[1], fewer.sightings[2]);
    ASSERT_TRUE(book.change(fewer));
    const auto looks = [](const Mark &of) {
        std::vector<int> out;
        for (const auto &s : of.sightings)
            out.push_back(seen(s.chip));
        return out;
    };
    EXPECT_THAT(looks(*book.find("a")), testing::ElementsAre(7, 23, 22));
    EXPECT_THAT(looks(*opened().find("a")), testing::ElementsAre(7, 23, 22));
    ASSERT_TRUE(book.undo());
    EXPECT_THAT(looks(*opened().find("a")), testing::ElementsAre(7, 21, 22, 23));
}

TEST_F(Shelf, AMarkOfAnotherLibraryBringsItsPicture) {
    have({mark("a", 7)});
    const auto there = folder.file("other.gpkg");
    {
        auto other = MarkBook::open(there);
        ASSERT_TRUE(other && other->add(mark("a", 30)));
    }
    const auto other = MarkBook::open(there);
    ASSERT_TRUE(other);
    auto book = opened();
    ASSERT_TRUE(book.change(*other->find("a"))) << "the same id, lent from elsewhere";
    EXPECT_EQ(seen(opened().find("a")->chip), 30);
}

TEST_F(Shelf, ManyMayLookAtOnceWhileOneWrites) {
    std::vector<Mark> marks;
    for (int i = 0; i < 40; ++i)
        marks.push_back(mark("m" + std::to_string(i), static_cast<std::uint8_t>(i + 1)));
    have(marks);
    auto book = opened();
    const auto held = book.marks();
    std::atomic<int> wrong = 0;
    std::vector<std::thread> readers;
    for (int t = 0; t < 4; ++t)
        readers.emplace_back([&held, &wrong, t] {
            for (int i = 0; i < 200; ++i) {
                const auto k = static_cast<std::size_t>((i * 7 + t) % 40);
                if (seen(held[k].chip) != k + 1)
                    ++wrong;
            }
        });
    for (int i = 0; i < 40; i += 2)
        ASSERT_TRUE(book.remove("m" + std::to_string(i)));
    for (auto &r : readers)
        r.join();
    EXPECT_EQ(wrong, 0);
}
