// Single grains within wood, on grids whose every cell is known.
#include "look/fish_or_leave.hpp"
#include "reading/grains.hpp"
#include "reading/join.hpp"

#include <cmath>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

constexpr double grain_cell = 0.04, grain_spacing = 0.12, grain_edge = 6;
constexpr std::size_t grain_lines = 60, grain_columns = 300;
constexpr std::size_t first_line = 18, last_line = 42, first_column = 60, last_column = 130;

// Branches: chains of lit cells, each smeared by pulse and beam; speckle everywhere.
Swath wood(std::uint32_t seed, int branches) {
    Swath s;
    std::mt19937 random(seed);
    std::exponential_distribution<double> speckle(1);
    std::uniform_real_distribution<double> share(0, 1);
    s.cell_m = grain_cell;
    s.spacing_m = grain_spacing;
    s.pulse_m = 0.04;
    s.beam_rad = 0.015;
    s.ground.lines = grain_lines;
    s.ground.columns = grain_columns;
    for (std::size_t l = 0; l < grain_lines; ++l) {
        s.rows.push_back(100 + l);
        s.along_m.push_back(grain_spacing * static_cast<double>(l));
        s.edge_m.push_back(grain_edge);
        s.altitude_m.push_back(grain_edge);
        s.end_m.push_back(grain_edge + static_cast<double>(grain_columns) * grain_cell);
    }
    std::vector<double> energy(grain_lines * grain_columns, 1);
    for (int n = 0; n < branches; ++n) {
        double line = 30, column = 95;
        const double turn = 6.283 * share(random);
        for (int k = 0; k < 24; ++k) {
            line += 0.5 * std::sin(turn);
            column += 1.4 * std::cos(turn);
            for (auto j = static_cast<std::size_t>(line) - 1; j <= static_cast<std::size_t>(line) + 1; ++j)
                for (auto i = static_cast<std::size_t>(column); i <= static_cast<std::size_t>(column) + 1;
                     ++i)
                    energy[j * grain_columns + i] += 40;
        }
    }
    for (const double e : energy)
        s.ground.off.push_back(static_cast<float>(10 * std::log10(e * std::max(1e-3, speckle(random)))));
    return s;
}

// A hard echo, one beam wide and one pulse deep.
void put_fish(Swath &s, std::size_t line, std::size_t column, double db) {
    for (std::size_t j = line - 1; j <= line + 1; ++j)
        for (std::size_t i = column; i <= column + 1; ++i)
            s.ground.off[j * grain_columns + i] = static_cast<float>(db);
}

Echo crown() {
    Echo e;
    e.zone = Zone::ground;
    e.first_line = first_line;
    e.last_line = last_line;
    e.first_column = first_column;
    e.last_column = last_column;
    e.strongest_line = (first_line + last_line) / 2;
    e.strongest_column = (first_column + last_column) / 2;
    e.near_edge.assign(last_line - first_line + 1, static_cast<int>(first_column));
    e.far_edge.assign(last_line - first_line + 1, static_cast<int>(last_column));
    return e;
}

double likeliest(const std::vector<Grain> &grains) {
    double most = 0;
    for (const auto &g : grains)
        most = std::max(most, g.chance);
    return most;
}

} // namespace

RC_GTEST_PROP(Grains, AreMaximaInTheirEchoAndKeepTheirDistance, ()) {
    const auto seed = *rc::gen::arbitrary<std::uint32_t>();
    const auto s = wood(seed, *rc::gen::inRange(0, 40));
    const auto grains = grains_in(s, crown());
    for (std::size_t i = 0; i < grains.size(); ++i) {
        const auto &g = grains[i];
        RC_ASSERT(g.row >= 100 + first_line && g.row <= 100 + last_line);
        RC_ASSERT(g.slant_m >= grain_edge + grain_cell * static_cast<double>(first_column));
        RC_ASSERT(g.slant_m <= grain_edge + grain_cell * static_cast<double>(last_column + 1));
        RC_ASSERT(g.falls_db >= 0);
        RC_ASSERT(g.chance > 0 && g.chance < 1);
        if (i > 0)
            RC_ASSERT(g.level_db <= grains[i - 1].level_db);
        for (std::size_t k = 0; k < i; ++k)
            RC_ASSERT(std::fabs(g.along_m - grains[k].along_m) > 0.25 ||
                      std::fabs(g.slant_m - grains[k].slant_m) > 0.1);
    }
}

// Over many woods: alone and hard it is found where it lies, and the same wood without it tells of none.
TEST(Grains, AHardEchoOfItsOwnIsFoundAndTwigsAreNot) {
    int found = 0, told_without = 0, told_elsewhere = 0;
    constexpr int woods = 60;
    for (std::uint32_t n = 0; n < woods; ++n) {
        auto s = wood(n, 14);
        told_without += likeliest(grains_in(s, crown())) >= grain_worth_telling;
        const std::size_t line = n % 2 == 0 ? 21 : 39, column = 64 + 6 * (n % 11);
        put_fish(s, line, column, 30);
        for (const auto &g : grains_in(s, crown())) {
            if (g.chance < grain_worth_telling)
                continue;
            const bool at_it =
                std::fabs(g.along_m - grain_spacing * static_cast<double>(line)) < 0.3 &&
                std::fabs(g.slant_m - grain_edge - grain_cell * static_cast<double>(column + 1)) < 0.12;
            (at_it ? found : told_elsewhere) += 1;
        }
    }
    EXPECT_GE(found, woods * 6 / 10);
    EXPECT_LE(told_without, woods / 6);
    EXPECT_LE(told_elsewhere, woods / 6);
}

// The same echo ten times weaker than the stem is no more than half as likely.
TEST(Grains, ASoftOneIsNotToldBesideAHardStem) {
    int told = 0;
    for (std::uint32_t n = 0; n < 40; ++n) {
        auto s = wood(n, 0);
        put_fish(s, 30, 95, 40);
        put_fish(s, 22, 70, 30);
        for (const auto &g : grains_in(s, crown()))
            told += g.chance >= grain_worth_telling && g.level_db < 35;
    }
    EXPECT_EQ(told, 0);
}

TEST(Grains, BelongToEchoesOnTheGround) {
    auto e = crown();
    e.zone = Zone::water;
    EXPECT_TRUE(grains_in(wood(1, 9), e).empty());
    e.zone = Zone::dark;
    EXPECT_TRUE(grains_in(wood(1, 9), e).empty());
}

TEST(Grains, AreSaidInTheReasonsAndKeptWithThePassThatShowedThem) {
    Contact c;
    c.kind = Kind::tree;
    c.family = Family::structure;
    c.chances[static_cast<std::size_t>(Kind::tree)] = 0.9;
    c.chances[static_cast<std::size_t>(Kind::none)] = 0.1;
    EXPECT_TRUE(c.crowned());
    give_reasons(c);
    EXPECT_THAT(c.reasons, testing::Not(testing::Contains(testing::HasSubstr("perhaps"))));
    auto other = c;
    other.row = 900;
    other.maybe_fish = {{902, 9.1, 0.7}, {899, 9.6, 0.6}};
    give_reasons(other);
    EXPECT_THAT(other.reasons, testing::Contains(testing::HasSubstr("2 grains in it")));
    combine_passes(c, other);
    ASSERT_EQ(c.passes.size(), 1u);
    EXPECT_DOUBLE_EQ(c.passes[0].fish_chance, 0.7);
    // Named otherwise since, its grains say nothing.
    other.chances.fill(0);
    other.chances[static_cast<std::size_t>(Kind::boulder)] = 1;
    EXPECT_FALSE(other.crowned());
    give_reasons(other);
    EXPECT_THAT(other.reasons, testing::Not(testing::Contains(testing::HasSubstr("perhaps"))));
}
