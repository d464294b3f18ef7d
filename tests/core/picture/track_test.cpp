#include "picture/chip.hpp"
#include "picture/mosaic.hpp"
#include "picture/overview.hpp"
#include "picture/plan_patch.hpp"
#include "picture/stretches.hpp"
#include "picture/track_lines.hpp"

#include "lake.hpp"

#include <cmath>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

// Out and back on lines 16 m apart, with a boulder between the two.
const Scan &both_ways() {
    static const Scan scan = [] {
        auto scene = test::basin(4, "silt");
        scene["boat"]["route"] = {{52, 20}, {52, 90}, {70, 90}, {70, 20}};
        scene["things"] = {{{"kind", "boulder"}, {"at", {61, 55}}, {"length_m", 1.6}, {"height_m", 1.2}}};
        Scan s;
        test::sound(s, scene, 2700);
        return s;
    }();
    return scan;
}

GeoPoint boulder() {
    return LocalPlane({46.5, -21.25}).to_globe({61, 55});
}

} // namespace

TEST(TrackLines, EveryRowStandsInItsLineAndLinesGoInOrder) {
    const auto &scan = both_ways();
    for (const double metres : {0.02, 0.07, 0.5}) {
        const TrackLines lines(Along::ground, metres);
        std::int64_t last = -1;
        for (std::size_t n = 0; n < scan.end(); ++n) {
            const auto line = lines.line_of(scan, n);
            EXPECT_GE(line, last);
            last = line;
            const auto [from, to] = lines.rows_of(scan, line);
            EXPECT_LE(from, n);
            EXPECT_GT(to, n);
        }
        EXPECT_EQ(lines.rows_of(scan, last + 1).first, scan.end());
    }
    const TrackLines raw(Along::pings, 1);
    EXPECT_EQ(raw.line_of(scan, 77), 77);
    EXPECT_EQ(raw.rows_of(scan, 77), (std::pair<std::size_t, std::size_t>(77, 78)));
}

// Speed over ground is what the sentences say: 60 m of straight run are 60 m of picture.
TEST(TrackLines, MetresAlongAreMetresOverGround) {
    const auto &scan = both_ways();
    std::size_t from = 0, to = 0;
    const LocalPlane plane({46.5, -21.25});
    for (std::size_t n = 0; n < 1200; ++n) {
        const auto p = scan.nav.position_at(scan.facts(n).time);
        if (!p)
            continue;
        const double north = plane.to_plane(p->place).north_m;
        if (north < 25)
            from = n;
        if (north < 85)
            to = n;
    }
    EXPECT_NEAR(scan.facts(to).along_m - scan.facts(from).along_m, 60, 1.5);
}

TEST(TrackLines, AStandingBoatRunsOnTime) {
    Scan scan;
    auto scene = test::basin();
    scene["boat"]["speed_m_s"] = 0;
    test::sound(scan, scene, 120);
    const TrackLines lines(Along::ground, 0.07);
    EXPECT_TRUE(lines.on_time(scan, lines.line_of(scan, 100)));
    EXPECT_EQ(lines.line_of(scan, 110) - lines.line_of(scan, 60), 50) << "a line a ping";
    EXPECT_FALSE(lines.on_time(both_ways(), lines.line_of(both_ways(), 300)));
}

TEST(Stretches, StraightLinesAndTurnsArePartedAndLeaveNoRowOut) {
    const auto &scan = both_ways();
    const auto all = stretches(scan, 0, scan.end());
    ASSERT_GE(all.size(), 3u);
    std::size_t next = 0, longest = 0;
    for (const auto &s : all) {
        EXPECT_EQ(s.first_row, next);
        next = s.last_row + 1;
        if (s.straight)
            longest = std::max(longest, s.last_row - s.first_row);
    }
    EXPECT_EQ(next, scan.end());
    EXPECT_GT(longest, 700u);
    EXPECT_NEAR(all.front().depth_m, 4, 0.2);
    EXPECT_NEAR(all.front().speed_m_s, 1.4, 0.2);
    EXPECT_GT(all.front().line.size(), 20u);
}

TEST(PlanPatch, BothPassesAreFoundAndShowTheThingInTheMiddle) {
    const auto &scan = both_ways();
    const auto looks = passes_at(scan, boulder(), scan.end());
    ASSERT_EQ(looks.size(), 2u);
    EXPECT_EQ(looks[0].side, Side::starboard) << "9 m to the right going north";
    EXPECT_EQ(looks[1].side, Side::starboard) << "and to the right again going south";
    for (const auto &look : looks) {
        const auto fix = scan.nav.fix_at(scan.facts(look.row).time);
        EXPECT_NEAR(look.ground_m,
                    leg_between(transducer_place(fix->pose, scan.installation), boulder()).distance_m, 0.2);
    }
    EXPECT_NEAR(looks[0].heading_deg < 180 ? looks[0].heading_deg : looks[0].heading_deg - 360, 0, 12);
    EXPECT_NEAR(looks[1].heading_deg, 180, 12);
    const auto angles = test::angle_levels_of(scan);
    for (const auto &look : looks) {
        const auto patch = plan_patch(scan, look, boulder(), 8, 80, {36, 40}, {}, angles);
        // The brightest square of a metre is the boulder's face; it looks to the boat.
        double best = 0;
        int bx = 0, by = 0;
        for (int y = 0; y + 10 < 80; y += 2)
            for (int x = 0; x + 10 < 80; x += 2) {
                double sum = 0;
                for (int j = 0; j < 10; ++j)
                    for (int i = 0; i < 10; ++i)
                        sum += patch.level[static_cast<std::size_t>((y + j) * 80 + x + i)];
                if (sum > best)
                    best = sum, bx = x + 5, by = y + 5;
            }
        EXPECT_NEAR((bx - 40) * 0.1, look.heading_deg > 90 && look.heading_deg < 270 ? 0.7 : -0.7, 1.2);
        EXPECT_NEAR((40 - by) * 0.1, 0, 1.2);
    }
    EXPECT_TRUE(passes_at(scan, LocalPlane({46.5, -21.25}).to_globe({900, 900}), scan.end()).empty());
}

TEST(Mosaic, LiesWhereTheBottomLies) {
    const auto &scan = both_ways();
    const auto angles = test::angle_levels_of(scan);
    const LocalPlane plane({46.5, -21.25});
    Mosaic mosaic({46.5, -21.25}, 0.25);
    for (std::size_t n = 0; n < scan.end(); ++n)
        mosaic.add(scan, n, angles);
    const auto level_at = [&](double east, double north) {
        const int cx = static_cast<int>(std::floor(east / 0.25)),
                  cy = static_cast<int>(std::floor(north / 0.25));
        const auto key =
            Mosaic::Key{static_cast<int>(std::floor(cx / 256.0)), static_cast<int>(std::floor(cy / 256.0))};
        const auto tile = mosaic.tiles().find(key);
        return tile == mosaic.tiles().end() ? 0
                                            : tile->second[static_cast<std::size_t>(
                                                  (cy - key.second * 256) * 256 + cx - key.first * 256)];
    };
    // Seen all along both lines, unseen far off, and brightest about the boulder.
    int seen = 0, far = 0, brightest = 0;
    double at_east = 0, at_north = 0;
    for (double n = 40; n < 70; n += 0.5)
        for (double e = 54; e < 68; e += 0.5) {
            seen += level_at(e, n) > 0;
            if (level_at(e, n) > brightest)
                brightest = level_at(e, n), at_east = e, at_north = n;
        }
    for (double n = 0; n < 5; n += 0.5)
        far += level_at(5, n) > 0;
    EXPECT_GT(seen, 28 * 60 * 0.9);
    EXPECT_EQ(far, 0);
    EXPECT_NEAR(at_east, 61, 2);
    EXPECT_NEAR(at_north, 55, 2);
}

TEST(Overview, GrowsInLevelsAndComesBackFromItsLines) {
    const auto &scan = both_ways();
    Overview grown;
    for (std::size_t n = 0; n < scan.end(); ++n)
        grown.add(scan.ping(n));
    EXPECT_EQ(grown.lines(0).size(), scan.end() / rows_an_overview_line);
    EXPECT_EQ(grown.lines(1).size(), grown.lines(0).size() / 4);
    EXPECT_EQ(grown.lines(2).size(), grown.lines(1).size() / 4);
    EXPECT_EQ(Overview::rows_a_line(2), 256u);
    Overview read;
    read.add_lines(grown.lines(0));
    for (std::size_t level = 0; level < Overview::levels; ++level)
        EXPECT_EQ(read.lines(level), grown.lines(level));
    EXPECT_EQ(grown.level_for(1000), 0u);
    EXPECT_EQ(grown.level_for(100), 1u);
    // Water is darker than bottom: the middle of a line against its quarter.
    const auto &line = grown.lines(0)[40];
    EXPECT_GT(line[48], line[33]);
    EXPECT_GT(line[16], line[30]);
}

RC_GTEST_PROP(Chips, BytesAndBack, ()) {
    Chip c;
    c.width = *rc::gen::inRange(1, 60);
    c.height = *rc::gen::inRange(1, 60);
    c.level = *rc::gen::container<std::vector<std::uint8_t>>(static_cast<std::size_t>(c.width * c.height),
                                                             rc::gen::arbitrary<std::uint8_t>());
    const auto bytes = pack_chip(c);
    RC_ASSERT(*unpack_chip(bytes) == c);
    RC_ASSERT(!unpack_chip(std::span(bytes).first(bytes.size() - 1)));
}
