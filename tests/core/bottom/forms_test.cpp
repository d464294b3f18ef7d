// Ripples, lanes and spawning beds on lanes worked from Lambert's law; late positions told by opposite
// passes; texture against scikit-image.
#include "lake.hpp"
#include "lambert_lane.hpp"

#include "bottom/chart_lines.hpp"
#include "bottom/clock_check.hpp"
#include "bottom/ground_forms.hpp"
#include "bottom/spot.hpp"
#include "bottom/spot_filter.hpp"
#include "bottom/texture.hpp"
#include "programs.hpp"

#include <fmt/format.h>
#include <fstream>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <numbers>
#include <sstream>

using namespace heron;

namespace {

std::vector<GroundForm> of_kind(const std::vector<GroundForm> &all, GroundForm::Kind kind) {
    std::vector<GroundForm> some;
    std::copy_if(all.begin(), all.end(), std::back_inserter(some),
                 [&](const auto &f) { return f.kind == kind; });
    return some;
}

EastNorth on_plane(const GroundMap &map, const test::LambertLane &lane, const EastNorth &at) {
    const auto u = to_utm(map.zone(), LocalPlane(lane.origin).to_globe(at));
    return {u.east_m, u.north_m};
}

using test::uneven_db;

} // namespace

TEST(Forms, RipplesAreToldWithTheirWaveAndTheWayOfTheirCrests) {
    test::LambertLane lane;
    constexpr double wave_m = 1.3, across_deg = 35;
    const double s = std::sin(across_deg / degrees_per_radian), c = std::cos(across_deg / degrees_per_radian);
    lane.adds_db = [&](double e, double n) {
        return std::hypot(e - 9, n - 30) < 7 ? 5 * std::sin(2 * std::numbers::pi * (e * s + n * c) / wave_m)
                                             : 0;
    };
    Scan scan;
    lane.sail(scan);
    const auto map = test::map_of(scan);
    const auto told = of_kind(forms_of(map, hardness_of(map)), GroundForm::Kind::ripples);
    ASSERT_EQ(told.size(), 1u);
    EXPECT_NEAR(told[0].wave_m, wave_m, 0.1);
    EXPECT_NEAR(told[0].bearing_deg, across_deg + 90, 6);
    EXPECT_LE(metres_outside(told[0], on_plane(map, lane, {9, 30})), 0);
    EXPECT_GT(metres_outside(told[0], on_plane(map, lane, {-9, 30})), 5);
    // The chart in wider cells cannot tell them, and says nothing instead of guessing.
    EXPECT_THAT(forms_of(map.coarser(4), hardness_of(map.coarser(4))), testing::IsEmpty());
}

TEST(Forms, ALaneIsAStripThatKeepsItsWidth) {
    test::LambertLane lane;
    // A strip of gravel 3 m wide from south-east to north-west: louder than the ground about it, and uneven.
    lane.adds_db = [&](double e, double n) {
        return std::fabs((e - 8) * 0.8 + (n - 30) * 0.6) < 1.5 ? 10 + uneven_db(e, n, 3) : 0;
    };
    Scan scan;
    lane.sail(scan);
    const auto map = test::map_of(scan);
    const auto h = hardness_of(map);
    const auto told = of_kind(forms_of(map, h), GroundForm::Kind::lane);
    ASSERT_GE(told.size(), 1u);
    const auto &longest = *std::max_element(
        told.begin(), told.end(), [](const auto &a, const auto &b) { return a.length_m < b.length_m; });
    EXPECT_NEAR(longest.width_m, 3, 1.2);
    EXPECT_GE(longest.length_m, 18);
    // What lies on it is told so, and can be wished for.
    const SpotGround ground(h, transitions_of(h), {}, told);
    SpotThing on{"a", SpotMatter::stone, on_plane(map, lane, {8, 30}), 0.5, std::nullopt}, off = on;
    off.at = on_plane(map, lane, {8, 12});
    EXPECT_TRUE(ground.facts_of(on, {}).on_lane);
    EXPECT_FALSE(ground.facts_of(off, {}).on_lane);
    const auto wish = spot_filter_of("stones on an old lane", UnitSystem::metres);
    EXPECT_TRUE(wish.not_understood.empty());
    EXPECT_TRUE(meets(wish, on, ground.facts_of(on, {}), std::nullopt, ""));
    EXPECT_FALSE(meets(wish, off, ground.facts_of(off, {}), std::nullopt, ""));
    EXPECT_TRUE(spot_filter_of("wood in ripples", UnitSystem::metres).ripples);
}

namespace {

// A dozen spots side by side: light behind a dark side, as the far wall of a bowl is, or light before it, as
// a stone is before its shadow. The boat runs north along the zero of east.
double spots_db(double e, double n, EastNorth middle, bool sunk) {
    constexpr double apart_m = 1.4, dark_db = -12, light_db = 7;
    const double row = std::round((n - middle.north_m) / apart_m),
                 column = std::round((e - middle.east_m) / apart_m);
    if (std::fabs(row) > 1 || std::fabs(column) > 2)
        return 0;
    const double north = n - middle.north_m - row * apart_m,
                 farther = (e - middle.east_m - column * apart_m) * (middle.east_m < 0 ? -1 : 1);
    if (std::fabs(north) > 0.35 || std::fabs(farther) > 0.4)
        return 0;
    return (farther > 0) == sunk ? light_db : dark_db;
}

} // namespace

TEST(Forms, BowlsSideBySideAreSpawningBedsAndStonesAreNone) {
    test::LambertLane lane;
    lane.altitude_m = 2;
    lane.range_m = 16;
    lane.adds_db = [](double e, double n) {
        return spots_db(e, n, {9, 30}, true) + spots_db(e, n, {-8, 22}, false) + uneven_db(e, n, 1);
    };
    Scan scan;
    lane.sail(scan);
    const auto map = test::map_of(scan);
    const auto h = hardness_of(map);
    const auto told = of_kind(forms_of(map, h), GroundForm::Kind::beds);
    ASSERT_EQ(told.size(), 1u);
    EXPECT_LE(metres_outside(told[0], on_plane(map, lane, {9, 30})), 0);
    EXPECT_GE(told[0].bowls.size(), 10u) << "of fifteen";
    EXPECT_LE(told[0].bowls.size(), 15u);
    for (const auto &bowl : told[0].bowls) {
        EXPECT_LE(metres_outside(told[0], bowl), 0);
        // Where one is: the nearest place of the grid, its dark side before the middle.
        const auto at = LocalPlane(lane.origin).to_plane(from_utm(map.zone(), bowl.east_m, bowl.north_m));
        EXPECT_NEAR(std::remainder(at.east_m - 9 + 0.2, 1.4), 0, 0.25);
        EXPECT_NEAR(std::remainder(at.north_m - 30, 1.4), 0, 0.25);
    }
    EXPECT_NEAR(told[0].length_m, 8, 1.5);
    EXPECT_NEAR(told[0].width_m, 5, 1.5);
    EXPECT_NEAR(std::fmod(told[0].bearing_deg, 180), 90, 12) << "longer abeam";
    const auto spots = map.dark_spots();
    EXPECT_GE(std::count_if(spots.begin(), spots.end(), [](const auto &s) { return !s.sunk; }), 8)
        << "the stones were seen as what they are";
    // A thing among them is told so, and can be wished for.
    const SpotGround ground(h, transitions_of(h), {}, told);
    SpotThing in{"a", SpotMatter::wood, on_plane(map, lane, {9, 30}), 0.5, std::nullopt}, off = in;
    off.at = on_plane(map, lane, {-8, 22});
    EXPECT_TRUE(ground.facts_of(in, {}).in_beds);
    EXPECT_FALSE(ground.facts_of(off, {}).in_beds);
    const auto wish = spot_filter_of("wood in spawning beds", UnitSystem::metres);
    EXPECT_TRUE(wish.not_understood.empty());
    EXPECT_TRUE(meets(wish, in, ground.facts_of(in, {}), std::nullopt, ""));
    EXPECT_FALSE(meets(wish, off, ground.facts_of(off, {}), std::nullopt, ""));
    EXPECT_TRUE(spot_filter_of("stones on a lane", UnitSystem::metres).lane);
    EXPECT_FALSE(spot_filter_of("wood in spawning", UnitSystem::metres).not_understood.empty());
}

// Positions are off by a metre between two passes: twelve bowls are not twenty-four.
TEST(Forms, BedsThatTwoPassesSawAreToldOnce) {
    Scan scan;
    test::LambertLane lane;
    lane.altitude_m = 2;
    lane.range_m = 16;
    lane.adds_db = [](double e, double n) { return spots_db(e, n, {9, 30}, true); };
    lane.sail(scan);
    lane.start += 200 * ns_per_s;
    lane.seed = 6;
    lane.adds_db = [](double e, double n) { return spots_db(e, n, {10, 30}, true); };
    lane.sail(scan);
    const auto map = test::map_of(scan);
    const auto told = of_kind(forms_of(map, hardness_of(map)), GroundForm::Kind::beds);
    ASSERT_EQ(told.size(), 1u);
    EXPECT_LE(told[0].bowls.size(), 15u);
    // Another map's passes are others than its own.
    auto both = map;
    both.merge(map);
    const auto again = of_kind(forms_of(both, hardness_of(both)), GroundForm::Kind::beds);
    ASSERT_EQ(again.size(), 1u);
    EXPECT_EQ(again[0].bowls.size(), told[0].bowls.size());
}

// Where a run was cut into stretches to be looked over must not show in what is told.
TEST(DarkSpots, AreTheSameWhereverTheRunBegan) {
    constexpr double altitude_m = 2;
    const auto run = [&](double from_m) {
        DarkSpotFinder finder;
        std::vector<DarkSpot> found;
        for (int i = static_cast<int>(from_m * 10); i < 600; ++i) {
            const double along = i * 0.1 + 0.05;
            std::vector<float> levels;
            for (int k = 0; k < 150; ++k) {
                const double abeam = (k + 0.5) * 0.1;
                double db = uneven_db(abeam, along, 1);
                for (double middle = 5; middle < 60; middle += 3)
                    db += spots_db(abeam, along, {9, middle}, true) / 3;
                levels.push_back(static_cast<float>(db));
            }
            finder.add({0, along, 1, 0, along, altitude_m, 1}, levels, found);
        }
        finder.look(found);
        std::erase_if(found, [](const DarkSpot &s) { return s.north_m < 20; });
        std::sort(found.begin(), found.end(), [](const auto &a, const auto &b) {
            return std::pair(a.north_m, a.east_m) < std::pair(b.north_m, b.east_m);
        });
        return found;
    };
    const auto whole = run(0);
    ASSERT_GT(whole.size(), 30u);
    for (const double from : {1.3, 4.7, 11.1}) {
        const auto part = run(from);
        ASSERT_EQ(part.size(), whole.size()) << from;
        for (std::size_t i = 0; i < whole.size(); ++i) {
            EXPECT_NEAR(part[i].east_m, whole[i].east_m, 0.02);
            EXPECT_NEAR(part[i].north_m, whole[i].north_m, 0.12);
            EXPECT_EQ(part[i].sunk, whole[i].sunk);
        }
    }
}

// A boat at rest hears the same decimetre without end; one that jumps begins anew.
TEST(DarkSpots, NeitherRestNorJumpsNorHolesAreTrouble) {
    DarkSpotFinder finder;
    std::vector<DarkSpot> found;
    const std::vector<float> level(100, 0.0F), none(100, std::numeric_limits<float>::quiet_NaN());
    for (int i = 0; i < 5000; ++i)
        finder.add({0, 0, 1, 0, 7, 2, 1}, level, found);
    for (const double along : {7.5, 7.1, 1e9, 1e9 + 0.5, -4.0, std::nan(""), 3.0, 1e300})
        finder.add({0, 0, 1, 0, along, 2, 1}, along > 5 ? level : std::vector<float>(), found);
    for (int i = 0; i < 400; ++i)
        finder.add({0, i * 0.1, 1, 0, i * 0.1, 2, 1}, none, found);
    finder.end(found);
    finder.end(found);
    EXPECT_THAT(found, testing::IsEmpty());
}

TEST(Forms, SpeckleAndOneEdgeAreNone) {
    for (unsigned seed = 1; seed <= 5; ++seed) {
        test::LambertLane lane;
        lane.seed = seed;
        lane.adds_db = [&](double e, double n) { return n + 0.3 * e > 30 ? 10 + uneven_db(e, n, 3) : 0; };
        Scan scan;
        lane.sail(scan);
        const auto map = test::map_of(scan);
        EXPECT_THAT(forms_of(map, hardness_of(map)), testing::IsEmpty()) << seed;
    }
}

// Past the cart lane and the ripples of Ellemoor Water, and along its ledge, whose face is hard, narrow and
// long too: the bottom lies 1.6 m lower on one side of it.
TEST(Forms, OfTheDemoLakeTheLaneTheRipplesAndTheBedsAreToldAndTheLedgeIsNoLane) {
    std::ifstream in(HERON_LAKES "/ellemoor.json");
    auto lake = nlohmann::json::parse(in);
    SoundingSettings settings;
    settings.range_m = 25;
    const auto forms_along = [&](const char *route, std::size_t rows) {
        auto sailed = lake;
        sailed["boat"]["route"] = nlohmann::json::parse(route);
        Scan scan;
        test::sound(scan, sailed, rows, settings);
        const auto map = test::map_of(scan);
        return forms_of(map, hardness_of(map));
    };
    const auto west = forms_along("[[14, 205], [110, 205]]", 1000);
    ASSERT_EQ(west.size(), 1u);
    EXPECT_EQ(west[0].kind, GroundForm::Kind::lane);
    EXPECT_NEAR(west[0].width_m, 3.2, 1);
    EXPECT_GT(west[0].length_m, 36) << "of 64 m, as far as it is seen";
    EXPECT_NEAR(west[0].bearing_deg, 107, 4);

    const auto east = forms_along("[[196, 205], [300, 205]]", 1450);
    ASSERT_EQ(east.size(), 1u);
    EXPECT_EQ(east[0].kind, GroundForm::Kind::ripples);
    EXPECT_NEAR(east[0].wave_m, 1.2, 0.1);
    EXPECT_NEAR(east[0].bearing_deg, 110, 5);
    EXPECT_NEAR(east[0].length_m, 52, 10);

    // The bream's beds, eleven metres aside; the lane lies farther off.
    const auto beds = of_kind(forms_along("[[34, 164], [110, 164]]", 700), GroundForm::Kind::beds);
    ASSERT_EQ(beds.size(), 1u);
    EXPECT_GE(beds[0].bowls.size(), 5u) << "of nine";
    const auto origin = test::scene_of(lake).origin;
    const auto zone = *utm_zone_of(origin);
    const auto at =
        LocalPlane(origin).to_plane(from_utm(zone, beds[0].middle.east_m, beds[0].middle.north_m));
    EXPECT_NEAR(at.east_m, 66, 2);
    EXPECT_NEAR(at.north_m, 153, 2);
}

TEST(Clocks, OppositePassesTellThatPositionsComeLate) {
    for (const double late : {0.0, 0.8, -0.5}) {
        Scan scan;
        test::sail_there_and_back(scan, late);
        const auto curve = test::curve_of(scan);
        ClockCheck check;
        for (auto row = scan.first(); row < scan.end(); ++row)
            check.add(scan, row, curve);
        const auto found = check.found();
        ASSERT_TRUE(found) << late;
        EXPECT_EQ(found->pairs, 1);
        EXPECT_NEAR(found->positions_late_s, late, 0.12);
        EXPECT_LT(std::fabs(found->positions_late_s - late), 2 * found->sd_s);
        // Put right, nothing is left of it.
        scan.nav.positions_late_s = found->positions_late_s;
        ClockCheck again;
        for (auto row = scan.first(); row < scan.end(); ++row)
            again.add(scan, row, curve);
        ASSERT_TRUE(again.found());
        EXPECT_NEAR(again.found()->positions_late_s, 0, 0.12);
    }
}

TEST(Clocks, PassesTheSameWayAndOtherGroundTellNothing) {
    Scan scan;
    test::LambertLane lane;
    lane.adds_db = [](double e, double n) { return uneven_db(e, n, 4); };
    lane.sail(scan);
    lane.start += 200 * ns_per_s;
    lane.from = {5, 0};
    lane.sail(scan); // the same way
    lane.start += 200 * ns_per_s;
    lane.from = {5, 60};
    lane.heading_deg = 180;
    lane.adds_db = [](double e, double n) { return uneven_db(e + 1000, n - 777, 4); };
    lane.sail(scan); // other ground under the same places
    const auto curve = test::curve_of(scan);
    ClockCheck check;
    for (auto row = scan.first(); row < scan.end(); ++row)
        check.add(scan, row, curve);
    EXPECT_FALSE(check.found());
}

TEST(RowChoice, ABandOrADayAloneIsLaid) {
    Scan scan;
    test::LambertLane lane;
    lane.run_m = 30;
    lane.adds_db = [](double, double) { return 0.0; };
    lane.sail(scan);
    lane.from = {0, 100};
    lane.frequency_hz = 452e3;
    lane.start += 86400 * ns_per_s;
    lane.adds_db = [](double, double) { return 6.0; };
    lane.sail(scan);
    const auto all = test::map_of(scan);
    EXPECT_THAT(all.bands_khz(), testing::ElementsAre(450, 770));
    ASSERT_EQ(all.days().size(), 2u);
    const auto seen = [&](const GroundMap &map, double north) {
        const auto at = on_plane(map, lane, {8, north});
        const auto *c = map.cell(static_cast<int>(std::floor(at.east_m / 0.25)),
                                 static_cast<int>(std::floor(at.north_m / 0.25)));
        return c != nullptr && c->weight() > 0;
    };
    EXPECT_TRUE(seen(all, 15) && seen(all, 115));
    const auto low = test::map_of(scan, {450, std::nullopt}),
               first = test::map_of(scan, {std::nullopt, *all.days().begin()});
    EXPECT_FALSE(seen(low, 15));
    EXPECT_TRUE(seen(low, 115));
    EXPECT_TRUE(seen(first, 15));
    EXPECT_FALSE(seen(first, 115));
    EXPECT_EQ(low.bands_khz(), all.bands_khz()) << "what there is is told whatever is chosen";
}

TEST(Mosaic, LooksBlendByHowWellTheyHear) {
    Scan scan;
    test::LambertLane lane;
    lane.run_m = 30;
    lane.adds_db = [](double, double) { return 0.0; };
    lane.sail(scan);
    lane.start += 200 * ns_per_s;
    lane.seed = 9;
    lane.sail(scan);
    const auto map = test::map_of(scan);
    const auto h = hardness_of(map);
    const auto best = best_levels(map, h.raster), blended = blended_levels(map, h.raster);
    double best_squares = 0, blended_squares = 0, n = 0;
    for (std::size_t i = 0; i < best.size(); ++i) {
        ASSERT_EQ(best[i] == best[i], blended[i] == blended[i]);
        if (!(best[i] == best[i]))
            continue;
        best_squares += static_cast<double>(best[i] * best[i]);
        blended_squares += static_cast<double>(blended[i] * blended[i]);
        n += 1;
    }
    // Speckle of one look has 5.57 dB (F. T. Ulaby and M. C. Dobson 1989, of the logarithm of an
    // exponential); two and more together have less.
    EXPECT_NEAR(std::sqrt(best_squares / n), 5.57, 1.2);
    EXPECT_LT(blended_squares, 0.6 * best_squares);
}

// scikit-image's graycomatrix and graycoprops on the same patches, its four angles averaged; entropy by its
// definition from its matrices.
TEST(Texture, CoOccurrenceIsScikitImages) {
    std::mt19937 random(3);
    test::Folder folder;
    std::ofstream out(folder.file("patches.txt"));
    std::vector<std::vector<int>> patches;
    constexpr int side = 17, levels = 16;
    for (int i = 0; i < 12; ++i) {
        std::vector<int> patch;
        double last = 8;
        for (int k = 0; k < side * side; ++k) {
            last = i % 3 == 0 ? std::uniform_real_distribution<double>(0, 16)(random)
                              : 0.8 * last + 1.6 + std::normal_distribution<double>(0, 1 + i)(random);
            patch.push_back(std::clamp(static_cast<int>(last), 0, levels - 1));
            out << patch.back() << ' ';
        }
        out << '\n';
        patches.push_back(patch);
    }
    out.close();
    std::ofstream script(folder.file("texture.py"));
    script << R"(
import sys
import numpy as np
from skimage.feature import graycomatrix, graycoprops
for line in open(sys.argv[1]):
    v = np.array([int(x) for x in line.split()], dtype=np.uint8).reshape(17, 17)
    p = graycomatrix(v, [1], [0, np.pi / 4, np.pi / 2, 3 * np.pi / 4], levels=16, symmetric=True, normed=True)
    q = p.reshape(256, 4)
    entropy = -np.where(q > 0, q * np.log(np.where(q > 0, q, 1)), 0).sum(axis=0).mean()
    print(graycoprops(p, 'contrast').mean(), graycoprops(p, 'homogeneity').mean(), entropy)
)";
    script.close();
    const auto ran =
        test::run("/usr/bin/python3 " + folder.file("texture.py") + " " + folder.file("patches.txt"));
    ASSERT_EQ(ran.code, 0) << ran.out;
    std::istringstream theirs(ran.out);
    for (const auto &patch : patches) {
        double contrast = 0, homogeneity = 0, entropy = 0;
        ASSERT_TRUE(theirs >> contrast >> homogeneity >> entropy) << ran.out;
        const auto ours = co_occurrence(patch, side, levels);
        EXPECT_NEAR(ours.contrast, contrast, 1e-9);
        EXPECT_NEAR(ours.homogeneity, homogeneity, 1e-9);
        EXPECT_NEAR(ours.entropy, entropy, 1e-9);
    }
    // What is not known counts for nothing; nothing known is all zero.
    std::vector<int> half(patches[0]);
    std::fill(half.begin() + side * 9, half.end(), -1);
    const std::vector<int> upper(half.begin(), half.begin() + side * 9);
    EXPECT_DOUBLE_EQ(co_occurrence(half, side, levels).contrast, co_occurrence(upper, side, levels).contrast);
    EXPECT_EQ(co_occurrence(std::vector<int>(9, -1), 3, levels).entropy, 0);
}

TEST(Texture, SmoothAndRoughGroundDiffer) {
    Scan scan;
    test::LambertLane lane;
    lane.adds_db = [](double e, double n) { return n > 30 ? uneven_db(e, n, 6) : 0; };
    lane.speckle_db = 0;
    lane.sail(scan);
    const auto map = test::map_of(scan);
    const auto t = texture_of(map, hardness_of(map).raster);
    const auto at = [&](const std::vector<float> &of, double north) {
        const auto p = on_plane(map, lane, {9, north});
        const auto i = t.raster.cell_at(p.east_m, p.north_m);
        return i ? static_cast<double>(of[*i]) : std::nan("");
    };
    EXPECT_GT(at(t.spread_db, 45), 3 * at(t.spread_db, 15));
    EXPECT_GT(at(t.contrast, 45), 3 * at(t.contrast, 15));
    EXPECT_GT(at(t.entropy, 45), at(t.entropy, 15) + 0.5);
    EXPECT_LT(at(t.homogeneity, 45), at(t.homogeneity, 15));
}
