// Reading as rows come: ahead of what is settled, again where the bottom was put right; legs; grains by
// energy.
#include "found.hpp"
#include "lake.hpp"
#include "programs.hpp"
#include "reading/corrections.hpp"
#include "reading/reader.hpp"
#include "trip/bottom_by_hand.hpp"

#include <fstream>
#include <gmock/gmock.h>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

nlohmann::json two_boulders() {
    auto j = test::basin();
    j["things"] = {{{"kind", "boulder"}, {"at", {72, 24}}, {"length_m", 1.4}, {"height_m", 0.9}},
                   {{"kind", "boulder"}, {"at", {49, 40}}, {"length_m", 1.4}, {"height_m", 0.9}}};
    return j;
}
const Contact *lying_at(const std::vector<Contact> &all, double east, double north) {
    const LocalPlane plane({46.5, -21.25});
    for (const auto &c : all)
        if (c.place) {
            const auto p = plane.to_plane(c.place->place);
            if (std::hypot(p.east_m - east, p.north_m - north) < 2)
                return &c;
        }
    return nullptr;
}
// Levels of even ground with nothing in it, as `find_echoes` takes them.
Swath even(std::uint32_t seed, double sigma_db) {
    Swath s;
    constexpr std::size_t lines = 120, columns = 300;
    std::mt19937 random(seed);
    std::exponential_distribution<float> energy(1);
    s.ground.lines = lines;
    s.ground.columns = columns;
    for (std::size_t i = 0; i < lines * columns; ++i)
        s.ground.off.push_back(std::clamp(
            10 * std::log10(std::max(1e-3F, energy(random))) * static_cast<float>(sigma_db / 5.57) + 1.6F,
            -16.0F, 26.0F));
    for (std::size_t l = 0; l < lines; ++l) {
        s.rows.push_back(l);
        s.along_m.push_back(0.1 * static_cast<double>(l));
        s.edge_m.push_back(5);
        s.altitude_m.push_back(5);
        s.end_m.push_back(20);
    }
    return s;
}

} // namespace

// What the boat has just passed is told before all about it was heard, and told for good later: the same
// thing at the same place.
TEST(LiveReading, TellsAheadWhatItTellsForGoodLater) {
    Scan whole;
    test::sound(whole, two_boulders(), 900);
    Scan scan;
    scan.nav = whole.nav;
    scan.installation = whole.installation;
    Reader reader;
    std::optional<Contact> early;
    for (std::size_t n = 0; n < whole.end(); ++n) {
        scan.push(whole.row(n));
        if (n % 20 != 0 || n < 100)
            continue;
        EXPECT_TRUE(reader.advance(scan, false).empty() || n > 400);
        if (const auto ahead = reader.look_ahead(scan); !early)
            if (const auto *c = lying_at(ahead, 72, 24); c != nullptr && c->confidence > 0.7) {
                early = *c;
                EXPECT_TRUE(c->provisional);
                // Within two seconds of where its shadow was last heard.
                EXPECT_LT(n - c->last_row, 60u);
            }
        if (n > 400)
            break;
    }
    ASSERT_TRUE(early);
    Reader at_leisure;
    const auto all = join_contacts(at_leisure.advance(whole, true));
    const auto *later = lying_at(all, 72, 24);
    ASSERT_NE(later, nullptr);
    EXPECT_FALSE(later->provisional);
    EXPECT_EQ(later->family, early->family);
    EXPECT_LT(leg_between(later->place->place, early->place->place).distance_m, 1);
}

// The bottom put right by hand over part of the track: heights and places there follow, all else stays.
TEST(LiveReading, ReadsAgainWhereTheBottomWasPutRight) {
    Scan scan;
    test::sound(scan, two_boulders(), 900);
    Reader reader;
    const auto before = reader.advance(scan, true);
    const auto *first = lying_at(before, 72, 24), *second = lying_at(before, 49, 40);
    ASSERT_TRUE(first != nullptr && second != nullptr);
    const double height = first->height_m->value;
    const auto row = first->row, from = row - 40, to = row + 40;
    const double altitude = scan.bottom(row).altitude_m;
    draw_bottom(scan, {{from, std::vector<double>(to - from, altitude * 0.8)}});
    const auto again = reader.read_again(scan, from, to);
    const auto *now = lying_at(again, 72, 24);
    if (now == nullptr)
        now = lying_at(again, 73, 24);
    ASSERT_NE(now, nullptr);
    EXPECT_NEAR(now->bottom.altitude_m, altitude * 0.8, 0.25);
    EXPECT_LT(now->height_m->value, height) << "H = A (r_s − r_t)/r_s";
    EXPECT_EQ(lying_at(again, 49, 40), nullptr) << "other rows are not read again";
}

TEST(LiveReading, LegsEndWhereTheBoatTurns) {
    auto j = test::basin();
    j["boat"]["route"] = {{60, 20}, {60, 50}, {80, 50}, {80, 20}};
    Scan scan;
    test::sound(scan, j, 1100);
    LegCounter legs;
    std::vector<std::uint16_t> of;
    for (std::size_t n = 0; n < scan.end(); ++n)
        of.push_back(legs.leg_at(scan, n));
    EXPECT_EQ(of.front(), 0);
    EXPECT_TRUE(std::is_sorted(of.begin(), of.end()));
    EXPECT_GE(of.back(), 1);
    EXPECT_LE(of.back(), 3);
}

TEST(LiveReading, AWanderingHeadingEndsNoLeg) {
    auto j = test::basin();
    j["boat"]["heading_noise_deg"] = 8;
    Scan scan;
    test::sound(scan, j, 900);
    LegCounter legs;
    for (std::size_t n = 0; n < scan.end(); ++n)
        ASSERT_EQ(legs.leg_at(scan, n), 0) << n;
}

// A grain of one cell in two lines, 22 dB over its ground: its mean of decibels over a box is hardly over it.
TEST(Grains, OfASingleCellAreFound) {
    auto s = even(4, 5.57);
    for (const std::size_t l : {60u, 61u})
        s.ground.off[l * s.ground.columns + 150] = 22;
    bool found = false;
    for (const auto &e : test::everything_in(s))
        found = found || (e.zone == Zone::ground && e.strongest_line >= 58 && e.strongest_line <= 63 &&
                          e.strongest_column >= 147 && e.strongest_column <= 153);
    EXPECT_TRUE(found);
}

// One-sided spreads: on speckle whose dark tail is long the bright side asks for no more than it must, and
// the dark side finds little by chance.
TEST(Grains, TheDarkTailOfSpeckleHidesNoGrainAndMakesFewDarks) {
    std::size_t dark = 0;
    for (std::uint32_t seed = 1; seed < 7; ++seed)
        for (const auto &e : test::everything_in(even(seed, 5.57)))
            dark += e.zone == Zone::dark;
    EXPECT_LT(dark, 8u);
}

// Whatever happens to the file of the guide's words, it is read or refused, never more.
RC_GTEST_PROP(CorrectionsFuzz, DamagedFilesAreReadOrRefused, ()) {
    static const std::string whole = [] {
        const test::Folder folder;
        auto book = CorrectionBook::open(folder.file("c.json"));
        Correction c;
        c.water = "Ellemoor Water";
        c.source = "trip";
        c.said = Kind::stump;
        (void)book->say(c);
        return test::contents(folder.file("c.json"));
    }();
    auto text = whole;
    const int hits = *rc::gen::inRange(1, 12);
    for (int i = 0; i < hits; ++i) {
        const auto at = static_cast<std::size_t>(*rc::gen::inRange(0, static_cast<int>(text.size())));
        if (*rc::gen::inRange(0, 4) == 0)
            text.erase(at);
        else
            text[at] = static_cast<char>(*rc::gen::inRange(1, 127));
        if (text.empty())
            break;
    }
    const test::Folder folder;
    std::ofstream(folder.file("c.json")) << text;
    const auto book = CorrectionBook::open(folder.file("c.json"));
    if (book)
        for (const auto &c : book->all())
            RC_ASSERT(static_cast<std::size_t>(c.said) < kind_count);
    else
        RC_ASSERT(!book.error().to_do.empty());
}
