// The guide's word: kept, taken back, weighed in; files that are damaged refused in words.
#include "programs.hpp"
#include "reading/corrections.hpp"

#include <array>
#include <fstream>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <numeric>
#include <random>

using namespace heron;

namespace {

Contact doubtful(double shift = 0) {
    Contact c;
    c.time = 1'800'000'000LL * ns_per_s;
    c.slant_m = 12;
    const auto &zone = KindModel::shipped().zones[0];
    for (std::size_t i = 0; i < feature_count; ++i)
        c.features[i] = zone.mean[i] + shift * zone.scale[i] * (i % 2 == 0 ? 1 : -1);
    c.chances = KindModel::shipped().chances(c.zone, c.features);
    settle_kind(c);
    return c;
}
Correction word(const Contact &c, Kind said) {
    return {"Ellemoor Water", "trip", c.time, c.side, c.slant_m, c.zone, c.features, c.kind, said, 5};
}

} // namespace

TEST(Corrections, AreKeptAndTakenBackOverRestarts) {
    const test::Folder folder;
    const auto path = folder.file("corrections.json");
    const auto c = doubtful();
    {
        auto book = CorrectionBook::open(path);
        ASSERT_TRUE(book);
        ASSERT_TRUE(book->say(word(c, Kind::log)));
        ASSERT_TRUE(book->say(word(c, Kind::none))); // a second thought replaces the first
    }
    auto book = CorrectionBook::open(path);
    ASSERT_TRUE(book);
    ASSERT_EQ(book->all().size(), 1u);
    EXPECT_EQ(book->all()[0], word(c, Kind::none));
    EXPECT_EQ(book->of_water("Ellemoor Water").size(), 1u);
    EXPECT_TRUE(book->of_water("another").empty());
    ASSERT_NE(book->find({"", "trip"}, c), nullptr);
    auto elsewhere = c;
    elsewhere.slant_m += 2;
    EXPECT_EQ(book->find({"", "trip"}, elsewhere), nullptr);
    EXPECT_EQ(book->find({"", "another trip"}, c), nullptr);
    ASSERT_TRUE(book->take_back());
    ASSERT_TRUE(book->take_back()) << "nothing left to take back is no fault";
    EXPECT_TRUE(CorrectionBook::open(path)->all().empty());
}

TEST(Corrections, ADamagedFileIsRefusedAndLeftAsItIs) {
    const test::Folder folder;
    for (const char *bad : {"", "[]", "{\"file\":\"another\"}", "{\"file\":\"young-heron-corrections\"}",
                            "{\"file\":\"young-heron-corrections\",\"corrections\":[{\"water\":1}]}"}) {
        const auto path = folder.file("bad.json");
        std::ofstream(path) << bad;
        const auto book = CorrectionBook::open(path);
        ASSERT_FALSE(book) << bad;
        EXPECT_THAT(book.error().line(), testing::HasSubstr("bad.json"));
        EXPECT_EQ(test::contents(path), bad);
    }
}

TEST(Corrections, WhatCannotBeWrittenChangesNothing) {
    auto book = CorrectionBook::open("/nowhere/at/all/corrections.json");
    ASSERT_TRUE(book);
    EXPECT_FALSE(book->say(word(doubtful(), Kind::log)));
    EXPECT_TRUE(book->all().empty());
}

TEST(Corrections, OfAProgramWithOtherFeaturesAreKeptButWeighNothing) {
    const test::Folder folder;
    const auto path = folder.file("c.json");
    std::ofstream(path)
        << R"({"file":"young-heron-corrections","version":1,"corrections":[{"water":"w","source":"s",
        "time_ns":1,"side":"port","slant_m":3,"zone":0,"features":[1,2,3],"read":"log","said":"fish","said_at_ns":2}]})";
    auto book = CorrectionBook::open(path);
    ASSERT_TRUE(book) << book.error().line();
    const auto model = reweighed(KindModel::shipped(), book->all());
    EXPECT_TRUE(model.nudges.empty());
    ASSERT_TRUE(book->say(word(doubtful(), Kind::log)));
    EXPECT_EQ(CorrectionBook::open(path)->all().size(), 2u);
}

// A word moves what is like it towards what was said, and what is unlike it less; without words nothing
// moves.
TEST(Corrections, WeighTheNamingOfWhatIsLikeIt) {
    const auto c = doubtful();
    const auto log = static_cast<std::size_t>(Kind::log);
    const std::vector words{word(c, Kind::log)};
    const auto model = reweighed(KindModel::shipped(), words);
    const auto after = model.chances(c.zone, c.features);
    EXPECT_GT(after[log], c.chances[log]);
    EXPECT_NEAR(std::accumulate(after.begin(), after.end(), 0.0), 1, 1e-9);
    const auto far = doubtful(2.5);
    const auto moved = std::log(model.chances(far.zone, far.features)[log] / far.chances[log]);
    EXPECT_LT(std::fabs(moved), std::log(after[log] / c.chances[log]));
    EXPECT_NEAR(moved, 0, 0.1);
    // Of another zone nothing moves, and without words nothing at all.
    EXPECT_EQ(model.chances(Zone::dark, c.features), KindModel::shipped().chances(Zone::dark, c.features));
    EXPECT_EQ(reweighed(KindModel::shipped(), {}).chances(c.zone, c.features), c.chances);
    // Many words that contradict each other leave it about where it was.
    std::vector<Correction> both;
    for (int i = 0; i < 20; ++i)
        both.push_back(word(c, i % 2 == 0 ? Kind::log : Kind::stump));
    const auto torn = reweighed(KindModel::shipped(), both).chances(c.zone, c.features);
    EXPECT_NEAR(std::log(torn[log] / torn[static_cast<std::size_t>(Kind::stump)]),
                std::log(c.chances[log] / c.chances[static_cast<std::size_t>(Kind::stump)]), 0.5);
}

// Leave-one-out decides: ten words that foretell each other reach what one alone does not.
TEST(Corrections, ReachFartherWhereTheyBearEachOtherOut) {
    const auto &shipped = KindModel::shipped();
    const auto log = static_cast<std::size_t>(Kind::log);
    std::vector<Correction> alike;
    for (int i = 0; i < 10; ++i)
        alike.push_back(word(doubtful(0.06 * i), Kind::log));
    const auto other = doubtful(0.8);
    const auto moved = [&](const std::vector<Correction> &words) {
        const auto is = reweighed(shipped, words).chances(other.zone, other.features),
                   was = shipped.chances(other.zone, other.features);
        return std::log(is[log] / was[log]);
    };
    EXPECT_NEAR(moved({alike[0]}), 0, 0.1);
    EXPECT_GT(moved(alike), 0.3);
}

// Words that say no more than what was thought already, drawn from its own chances, are let reach no farther
// but by a rare chance.
TEST(Corrections, ThatTellNothingNewAreHeldBack) {
    const auto &shipped = KindModel::shipped();
    std::mt19937 random(7);
    int widened = 0;
    constexpr int waters = 40;
    for (int w = 0; w < waters; ++w) {
        std::vector<Correction> words;
        for (int i = 0; i < 15; ++i) {
            const auto c = doubtful(std::uniform_real_distribution<double>(-1.5, 1.5)(random));
            std::discrete_distribution<int> kind(c.chances.begin(), c.chances.end());
            words.push_back(word(c, static_cast<Kind>(kind(random))));
        }
        const auto model = reweighed(shipped, words);
        widened += model.nudges[0].reach != KindModel::nudge_reach || model.shift != KindChances{};
    }
    EXPECT_LE(widened, waters / 10);
}

TEST(Corrections, AWordIsWhatItIs) {
    auto c = doubtful();
    apply_word(c, Kind::fish);
    EXPECT_EQ(c.family, Family::fish);
    EXPECT_EQ(c.confidence, 1);
    EXPECT_EQ(c.placement, Placement::suspended);
    apply_word(c, Kind::none);
    EXPECT_EQ(c.confidence, 0);
}

// A word on one step under the track moves what is like it and leaves what is not.
TEST(Corrections, AWordOnADropMovesDropsLikeIt) {
    Correction c;
    c.water = "Ellemoor Water";
    c.zone = Zone::track;
    c.said = Kind::none;
    c.features = KindModel::of_drop(8, 0.5, 2);
    const auto model = reweighed(KindModel::shipped(), std::array{c});
    const auto ledge = [](const KindModel &m, const Features &f) {
        return m.chances(Zone::track, f)[static_cast<std::size_t>(Kind::ledge)];
    };
    const auto like = KindModel::of_drop(8.5, 0.5, 2), unlike = KindModel::of_drop(30, 2.5, 2);
    EXPECT_LT(ledge(model, like), ledge(KindModel::shipped(), like) - 0.3);
    EXPECT_NEAR(ledge(model, unlike), ledge(KindModel::shipped(), unlike), 0.02);
    // Whatever is said, chances stay chances.
    double sum = 0;
    for (const double p : model.chances(Zone::track, like))
        sum += p;
    EXPECT_NEAR(sum, 1, 1e-9);
}
