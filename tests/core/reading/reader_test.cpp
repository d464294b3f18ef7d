// Reading: what stands out, what lies behind it, what it is called, where it is put.
#include "exchange/results_geojson.hpp"
#include "found.hpp"
#include "lake.hpp"
#include "programs.hpp"
#include "reading/reader.hpp"
#include "recording/recording.hpp"

#include <gmock/gmock.h>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;
using testing::Contains;
using testing::HasSubstr;

namespace {

// Levels of a fully developed speckle with nothing in it: decibels of an exponential.
Scan speckle(std::size_t rows, std::uint32_t seed) {
    Scan scan;
    std::mt19937 random(seed);
    std::exponential_distribution<double> energy(1);
    for (std::size_t n = 0; n < rows; ++n) {
        Ping p;
        p.time = static_cast<UnixNs>(n) * ns_per_s / 10;
        p.sample_interval_s = 2 * 0.03 / 1480;
        p.frequency_hz = 800e3;
        p.pulse_s = 4e-5;
        for (const auto side : {Side::port, Side::starboard}) {
            Beam b;
            b.side = side;
            b.azimuth_deg = side == Side::port ? -90 : 90;
            b.scale.db_per_code = 0.25;
            b.scale.db_at_zero = 0;
            for (std::size_t k = 0; k < 800; ++k) {
                const double r = 0.03 * static_cast<double>(k);
                const double db = (r < 5 ? 10 : 40) + 10 * std::log10(std::max(1e-4, energy(random)));
                b.code.push_back(static_cast<std::uint16_t>(std::clamp(db * 4, 0.0, 255.0)));
            }
            p.beams.push_back(std::move(b));
        }
        scan.nav.add_speed(p.time, 1);
        scan.push({std::move(p), std::nullopt, {}});
    }
    return scan;
}

nlohmann::json with(std::vector<nlohmann::json> things, double depth = 5) {
    auto j = test::basin(depth);
    for (auto &t : things)
        j["things"].push_back(std::move(t));
    return j;
}

std::vector<Contact> read(const nlohmann::json &scene, std::size_t rows = 500, double range_m = 22) {
    Scan scan;
    SoundingSettings s;
    s.range_m = range_m;
    test::sound(scan, scene, rows, s);
    Reader reader;
    return join_contacts(reader.advance(scan, true));
}

// The contact nearest to a place of the basin.
const Contact *near(const std::vector<Contact> &all, double east, double north, double within_m = 2.5) {
    const LocalPlane plane({46.5, -21.25});
    const Contact *best = nullptr;
    for (const auto &c : all) {
        if (!c.place)
            continue;
        const auto p = plane.to_plane(c.place->place);
        const double d = std::hypot(p.east_m - east, p.north_m - north);
        if (d < within_m) {
            within_m = d;
            best = &c;
        }
    }
    return best;
}

} // namespace

TEST(Swath, TakesAngleAndRangeOutOfAnEvenBottom) {
    Scan scan;
    test::sound(scan, test::basin(), 300);
    const auto s = prepare_swath(scan, Side::port, 0, scan.end());
    ASSERT_GT(s.lines(), 200u);
    // Mean levels of bands of range differ by many decibels before and by less than half of one after.
    const auto band = [&](const std::vector<float> &v, std::size_t from, std::size_t to) {
        double sum = 0, n = 0;
        for (std::size_t l = 0; l < s.lines(); ++l)
            for (auto c = from; c < to; ++c)
                if (const float x = v[l * s.ground.columns + c]; x == x) {
                    sum += static_cast<double>(x);
                    n += 1;
                }
        return sum / n;
    };
    EXPECT_GT(std::fabs(band(s.ground_level_db, 40, 80) - band(s.ground_level_db, 300, 340)), 3);
    EXPECT_NEAR(band(s.ground.off, 40, 80), 0, 0.6);
    EXPECT_NEAR(band(s.ground.off, 300, 340), 0, 0.6);
}

// Box means of speckle in decibels are near Gaussian; 3.7 standard deviations are passed by 1.08e-4 of
// independent boxes, 4.3 by 8.5e-6 (table of the normal distribution). Log-speckle has its long tail
// downwards.
TEST(Echoes, OnPureSpeckleAreAsRareAsTheirLevelSays) {
    const auto scan = speckle(700, 4);
    double cells = 0;
    std::size_t found = 0, dark = 0;
    for (const auto side : {Side::port, Side::starboard}) {
        const auto s = prepare_swath(scan, side, 0, scan.end());
        ASSERT_GT(s.lines(), 500u);
        cells +=
            static_cast<double>(s.lines()) / (0.25 / s.spacing_m) * static_cast<double>(s.ground.columns) / 2;
        for (const auto &e : test::everything_in(s)) {
            found += e.zone == Zone::ground;
            dark += e.zone == Zone::dark;
        }
    }
    // Boxes of four sizes, each slid by a cell, are some eight independent ones.
    const double expected = 8 * cells * 1.08e-4;
    EXPECT_LT(static_cast<double>(found), expected + 4 * std::sqrt(expected)) << cells;
    EXPECT_LT(dark, 60u);
    // And none of it is believed.
    Reader reader;
    EXPECT_LT(join_contacts(reader.advance(scan, true)).size(), 3u);
}

TEST(Reader, FindsABoulderWhereItLiesAndAsHighAsItIs) {
    const auto all =
        read(with({{{"kind", "boulder"}, {"at", {72, 30}}, {"length_m", 1.4}, {"height_m", 0.9}}}));
    const auto *c = near(all, 72, 30);
    ASSERT_NE(c, nullptr);
    EXPECT_EQ(c->family, Family::structure);
    EXPECT_EQ(c->placement, Placement::on_bottom);
    EXPECT_EQ(c->side, Side::starboard);
    EXPECT_GT(c->confidence, 0.8);
    EXPECT_NEAR(c->ground_m.value, 12, 1);
    ASSERT_TRUE(c->height_m);
    EXPECT_NEAR(c->height_m->value, 0.9, std::max(0.25, 2 * c->height_m->sd));
    EXPECT_NEAR(c->depth_m, 5, 0.4);
    EXPECT_FALSE(c->reasons.empty());
    EXPECT_THAT(c->reasons, Contains(HasSubstr("shadow")));
}

TEST(Reader, AFishInMidwaterFloats) {
    const auto all =
        read(with({{{"kind", "fish"}, {"at", {49, 35}}, {"above_bottom_m", 1.2}, {"length_m", 0.7}}}));
    const auto *c = near(all, 49, 35, 3);
    ASSERT_NE(c, nullptr);
    EXPECT_EQ(c->family, Family::fish);
    EXPECT_EQ(c->placement, Placement::suspended);
}

TEST(Reader, AnEmptyLakeHoldsNextToNothing) {
    EXPECT_LE(read(test::basin(), 1100).size(), 1u);
}

TEST(Reader, InBlocksAsItGrowsFindsTheSameAsInOneGo) {
    auto j = with({{{"kind", "boulder"}, {"at", {72, 30}}, {"length_m", 1.4}, {"height_m", 0.9}},
                   {{"kind", "stump"}, {"at", {50, 45}}, {"width_m", 0.8}, {"height_m", 1}}});
    Scan whole, growing;
    test::sound(whole, j, 700);
    Reader once;
    const auto all = join_contacts(once.advance(whole, true));
    Reader live;
    std::vector<Contact> found;
    test::sound(growing, j, 700, {}, [&](sim::Sounder &) {
        if (growing.end() % 100 == 0)
            for (auto &c : live.advance(growing, false))
                found.push_back(std::move(c));
    });
    for (auto &c : live.advance(growing, true))
        found.push_back(std::move(c));
    found = join_contacts(std::move(found));
    for (const auto &[e, n] : {std::pair{72, 30}, {50, 45}}) {
        const auto *a = near(all, e, n), *b = near(found, e, n);
        ASSERT_NE(a, nullptr);
        ASSERT_NE(b, nullptr);
        EXPECT_EQ(a->family, b->family);
    }
}

// The border of two blocks is laid through every line of a boulder so strong that its brightest line is a
// matter of chance.
TEST(Reader, WhatLiesAtTheBorderOfTwoBlocksIsToldOnce) {
    Scan scan;
    SoundingSettings hot;
    hot.range_m = 22;
    hot.gain = 66;
    test::sound(scan, with({{{"kind", "boulder"}, {"at", {70, 30}}, {"length_m", 1.6}, {"height_m", 1}}}),
                450, hot);
    for (double block_m = 18.4; block_m < 22; block_m += 0.12) {
        ReaderSettings settings;
        settings.block_m = block_m;
        Reader reader(KindModel::shipped(), settings);
        int told = 0;
        for (const auto &c : reader.advance(scan, true))
            told += c.zone == Zone::ground && c.side == Side::starboard && c.confidence > 0.9 &&
                    std::fabs(c.ground_m.value - 10) < 1.5;
        EXPECT_EQ(told, 1) << "blocks of " << block_m << " m";
    }
}

RC_GTEST_PROP(KindModel, ChancesAreChancesWhateverIsMeasured, ()) {
    Features f{};
    for (auto &v : f)
        v = *rc::gen::inRange(-500, 600) / 100.0;
    for (const auto zone : {Zone::ground, Zone::water, Zone::dark}) {
        const auto p = KindModel::shipped().chances(zone, f);
        double sum = 0;
        for (const double v : p) {
            RC_ASSERT(v >= 0 && v <= 1);
            sum += v;
        }
        RC_ASSERT(std::fabs(sum - 1) < 1e-9);
        Contact c;
        c.zone = zone;
        c.features = f;
        c.chances = p;
        settle_kind(c);
        RC_ASSERT(c.confidence >= 0 && c.confidence <= 1);
        RC_ASSERT(c.family != Family::none);
    }
}

// Half a metre long, and two metres of lit ground before its shadow: whatever the weights say of it, it hangs
// in the water. The same shadow right behind it says nothing of the kind.
TEST(KindModel, WhatIsSmallAndThrowsItsShadowFarOffFloats) {
    const auto &model = KindModel::shipped();
    Features f = model.zones[0].mean;
    f[feature_named("length")] = -1;
    f[feature_named("shadow")] = 2;
    f[feature_named("gap")] = 2;
    f[feature_named("gap height")] = 0.49;
    const auto near = model.chances(Zone::ground, f);
    f[feature_named("gap height")] = 0.51;
    const auto off = model.chances(Zone::ground, f);
    const auto share = [](const KindChances &p, Family family) {
        double sum = 0, all = 0;
        for (std::size_t k = 1; k < kind_count; ++k) {
            all += p[k];
            sum += family_of(static_cast<Kind>(k)) == family ? p[k] : 0;
        }
        return sum / all;
    };
    EXPECT_LT(share(off, Family::structure), 0.8 * share(near, Family::structure));
    EXPECT_GT(share(off, Family::fish), share(near, Family::fish));
    f[feature_named("length")] = 1.5;
    const auto large = model.chances(Zone::ground, f);
    f[feature_named("gap height")] = 0.49;
    EXPECT_NEAR(share(large, Family::structure), share(model.chances(Zone::ground, f), Family::structure),
                0.01)
        << "a tree lets light through";
}

// What a reason claims is what the weights say: shares add up to the odds.
TEST(KindModel, SharesOfTheFeaturesAddUpToTheOdds) {
    const auto &model = KindModel::shipped();
    Features f{};
    for (std::size_t i = 0; i < f.size(); ++i)
        f[i] = 0.1 * static_cast<double>(i % 7);
    const auto p = model.chances(Zone::ground, f);
    const auto &w = model.zones[0];
    const auto of = [](Kind k) { return static_cast<std::size_t>(k); };
    double sum = w.weight[of(Kind::boulder)][0] - w.weight[of(Kind::fish)][0];
    for (const auto &s : model.shares(Zone::ground, f, Kind::boulder, Kind::fish))
        sum += s.adds;
    EXPECT_NEAR(sum / w.temperature, std::log(p[of(Kind::boulder)] / p[of(Kind::fish)]), 1e-9);
}

TEST(TrackDepths, ASlopeAcrossParallelTracksIsFound) {
    auto j = test::basin(8);
    j["terrain"]["features"] = {{{"type", "slope"}, {"at", {60, 60}}, {"bearing_deg", 90}, {"slope_deg", 5}}};
    j["boat"]["route"] = {{52, 20}, {52, 90}, {66, 90}, {66, 20}};
    Scan scan;
    SoundingSettings s;
    s.range_m = 30;
    test::sound(scan, j, 1500, s);
    TrackDepths depths;
    depths.add(scan, 0, scan.end());
    ASSERT_GT(depths.size(), 80u);
    const LocalPlane plane({46.5, -21.25});
    const auto east = depths.slope_towards(plane.to_globe({59, 55}), 90),
               north = depths.slope_towards(plane.to_globe({59, 55}), 0);
    EXPECT_NEAR(east.rises_deg, -5, 1.2) << "it falls to the east";
    EXPECT_NEAR(north.rises_deg, 0, 1.2);
    // One straight track tells nothing across itself, and says so.
    TrackDepths one;
    one.add(scan, 0, 500);
    EXPECT_GT(one.slope_towards(plane.to_globe({52, 40}), 90).sd_deg, 1.5);
}

// One straight track along a slope: that it rises, and to which side, is heard in the sides' first returns.
TEST(SlopeOfSides, OneTrackAlongASlopeTellsToWhichSideItRises) {
    const auto told = [](double slope_deg, double bearing_deg) {
        auto j = test::basin(7);
        if (slope_deg > 0)
            j["terrain"]["features"] = {{{"type", "slope"},
                                         {"at", {60, 60}},
                                         {"bearing_deg", bearing_deg},
                                         {"slope_deg", slope_deg}}};
        Scan scan;
        SoundingSettings s;
        s.range_m = 22;
        test::sound(scan, j, 500, s);
        std::vector<double> run{0};
        for (std::size_t row = 1; row < scan.end(); ++row)
            run.push_back(run.back() + step_over_ground(scan.facts(row - 1), scan.facts(row)));
        const auto slope = slope_of_sides(scan, run, 300);
        EXPECT_TRUE(slope);
        EXPECT_FALSE(slope_of_sides(scan, run, run.size())) << "beyond what was run";
        return slope.value_or(TrackDepths::Slope{});
    };
    const auto level = told(0, 0);
    EXPECT_NEAR(level.rises_deg, 0, 2 * level.sd_deg);
    EXPECT_LT(level.sd_deg, 2.5);
    // It deepens to the east, then to the west.
    for (const double steep : {4.0, 8.0}) {
        const auto falls = told(steep, 90), rises = told(steep, 270);
        EXPECT_LT(falls.rises_deg, -0.5) << steep;
        EXPECT_GT(rises.rises_deg, 0.5) << steep;
        EXPECT_NEAR(falls.rises_deg, -steep, 2 * falls.sd_deg) << steep;
        EXPECT_NEAR(rises.rises_deg, steep, 2 * rises.sd_deg) << steep;
    }
}

// By hand: 2° ± 1° and 5° ± 2° are (4·2 + 5) ÷ 5 = 2.6° ± 0.894°.
TEST(SlopeOfSides, TwoEstimatesCountByTheirDoubt) {
    const auto both = both_slopes({2, 1}, {5, 2});
    EXPECT_NEAR(both.rises_deg, 2.6, 1e-9);
    EXPECT_NEAR(both.sd_deg, 2 / std::sqrt(5), 1e-9);
    // What knows no more than was taken beforehand adds nothing.
    const auto alone = both_slopes({0, 2.5}, {-1, 1.5}, 2.5);
    EXPECT_NEAR(alone.rises_deg, -1, 1e-9);
    EXPECT_NEAR(alone.sd_deg, 1.5, 1e-9);
}

TEST(JoinContacts, LooksAtOneThingBecomeOneAndNeighboursStay) {
    const LocalPlane plane({46.5, -21.25});
    const auto at = [&](double e, double n, double confidence, std::size_t row) {
        Contact c;
        c.place = LocatedPoint{plane.to_globe({e, n}), {0.1, 0, 0.1}};
        c.family = Family::structure;
        c.kind = Kind::boulder;
        c.confidence = confidence;
        c.row = row;
        c.leg = row > 1000;
        c.chances[static_cast<std::size_t>(Kind::boulder)] = confidence;
        c.chances[0] = 1 - confidence;
        c.length_m = 0.8;
        c.ground_m = {10, 0.3};
        return c;
    };
    const auto all = join_contacts({at(0, 0, 0.7, 10), at(0.6, 0.3, 0.9, 2000), at(4, 0, 0.8, 12)});
    ASSERT_EQ(all.size(), 2u);
    const auto &joined = all[0].looks == 2 ? all[0] : all[1];
    EXPECT_EQ(joined.looks, 2);
    EXPECT_GT(joined.confidence, 0.9) << "two looks that agree are surer than either";
    EXPECT_EQ(joined.row, 2000u) << "the surer look answers";
    EXPECT_EQ(joined.passes.size(), 1u);
}

TEST(ResultsGeoJson, HoldsWhatTheContractAsksAndOgrReadsIt) {
    const test::Folder folder;
    const auto out = folder.file("q.geojson"), track = folder.file("t.geojson");
    const auto ran = test::run(test::program("heron") + " read " + test::sample() + " --marks " + out +
                               " --track " + track);
    ASSERT_EQ(ran.code, 0) << ran.out;
    const auto j = nlohmann::json::parse(test::contents(out));
    ASSERT_GT(j["features"].size(), 10u);
    std::set<std::string> ids;
    for (const auto &f : j["features"]) {
        const auto &p = f["properties"];
        EXPECT_EQ(f["geometry"]["type"], "Point");
        for (const char *key :
             {"id", "family", "kind", "confidence", "placement", "time", "side", "slant_m", "ground_m",
              "depth_m", "height_m", "height_sd_m", "length_m", "width_m", "position_sd_m", "reasons"})
            EXPECT_TRUE(p.contains(key)) << key;
        EXPECT_THAT((std::vector<std::string>{"fish", "structure", "bottom", "unsure"}),
                    Contains(p["family"].get<std::string>()));
        EXPECT_THAT((std::vector<std::string>{"on_bottom", "suspended", "unknown"}),
                    Contains(p["placement"].get<std::string>()));
        const auto kind = p["kind"].get<std::string>();
        EXPECT_TRUE(kind == "unsure" || (kind_named(kind) && kind != "none")) << kind;
        EXPECT_GE(p["confidence"].get<double>(), 0.5);
        EXPECT_EQ(p["height_m"].is_null(), p["height_sd_m"].is_null());
        EXPECT_FALSE(p["reasons"].empty());
        EXPECT_TRUE(ids.insert(p["id"].get<std::string>()).second);
    }
    const auto info = test::run("ogrinfo -ro -al -so " + out);
    EXPECT_THAT(info.out, HasSubstr("Geometry: Point")) << info.out;
    EXPECT_THAT(test::run("ogrinfo -ro -al -so " + track).out, HasSubstr("Line String"));
}

TEST(ReadCommand, RefusesInOneLineAndLeavesNothing) {
    const test::Folder folder;
    std::ofstream(folder.file("broken.nc")) << "no recording";
    for (const auto &in : {folder.file("absent.nc"), folder.file("broken.nc")}) {
        const auto ran =
            test::run(test::program("heron") + " read " + in + " --marks " + folder.file("out.geojson"));
        EXPECT_EQ(ran.code, 2);
        EXPECT_EQ(std::count(ran.out.begin(), ran.out.end(), '\n'), 1) << ran.out;
        EXPECT_FALSE(std::filesystem::exists(folder.file("out.geojson")));
    }
    const auto bottom = test::run(test::program("heron") + " read " + test::sample() + " --marks " +
                                  folder.file("o.geojson") + " --bottom /proc/none/b.tif");
    EXPECT_EQ(bottom.code, 2);
    EXPECT_FALSE(std::filesystem::exists(folder.file("o.geojson")));
}

TEST(ReadCommand, GoesOnInAFolderWhereItWas) {
    const test::Folder folder;
    std::filesystem::create_directories(folder.file("in"));
    std::filesystem::copy(test::sample(), folder.file("in/a.nc"));
    std::ofstream(folder.file("in/b.nc")) << "no recording";
    const auto command =
        test::program("heron") + " read " + folder.file("in") + " --marks " + folder.file("out");
    const auto first = test::run(command);
    EXPECT_EQ(first.code, 0) << first.out;
    EXPECT_THAT(first.out, HasSubstr("1 of 2 files were refused"));
    EXPECT_TRUE(std::filesystem::exists(folder.file("out/a.geojson")));
    EXPECT_THAT(test::run(command).out, HasSubstr("1 had been read before"));
}

// A ledge: no plane fits both its sides. The second lane runs over its foot, and what stands there is told by
// that lane's depths.
TEST(Slope, AnotherTrackTellsTheBottomWhereTheThingStands) {
    auto j = test::basin(4);
    j["terrain"]["features"] = {
        {{"type", "ledge"}, {"path", {{66, 0}, {66, 120}}}, {"drop_m", 2.5}, {"run_m", 3}}};
    j["boat"]["route"] = {{60, 20}, {60, 60}, {74, 60}, {74, 20}};
    Scan scan;
    test::sound(scan, j, 1500);
    TrackDepths depths;
    depths.add(scan, 0, scan.end());
    const LocalPlane plane({46.5, -21.25});
    const auto over = depths.depth_at(plane.to_globe({74, 40}));
    ASSERT_TRUE(over);
    EXPECT_NEAR(over->altitude_m + scan.installation.draught_m(), 6.5, 0.3);
    EXPECT_GT(over->weight, 0.5);
    const auto boat = depths.depth_at(plane.to_globe({60, 40}));
    ASSERT_TRUE(boat);
    EXPECT_NEAR(boat->altitude_m + scan.installation.draught_m(), 4, 0.3);
    EXPECT_FALSE(depths.depth_at(plane.to_globe({100, 100})));
    // The look's own depths are no witness of what lies beside it.
    EXPECT_FALSE(depths.depth_at(plane.to_globe({60, 40}), scan.facts(210).along_m));
}

// Between two tracks, over a ledge, things are as high as they are: the bottom is not taken as one plane.
TEST(TrackDepths, TheShapeBetweenTwoTracksEntersHeightAndPlace) {
    auto j = with({{{"kind", "boulder"}, {"at", {70, 40}}, {"length_m", 1.5}, {"height_m", 1}}}, 5);
    // Two metres deeper from eight metres off the first track on; the other tracks run there.
    j["terrain"]["features"] = {
        {{"type", "ledge"}, {"path", {{64, 120}, {64, 0}}}, {"drop_m", 1.5}, {"run_m", 2}}};
    j["boat"]["route"] = {{60, 15}, {60, 70}, {67, 70}, {67, 15}, {73, 15}, {73, 70}};
    const auto all = read(j, 1900, 20);
    const auto *c = near(all, 70, 40);
    ASSERT_NE(c, nullptr);
    ASSERT_TRUE(c->height_m);
    EXPECT_NEAR(c->height_m->value, 1, std::max(0.3, 2 * c->height_m->sd));
    const auto at = LocalPlane({46.5, -21.25}).to_plane(c->place->place);
    EXPECT_NEAR(at.east_m, 70, 0.8);
    EXPECT_NEAR(at.north_m, 40, 0.8);
}

TEST(Reader, HeightsBelowALedgeFollowTheProfile) {
    auto j = with({{{"kind", "boulder"}, {"at", {73, 40}}, {"length_m", 1.4}, {"height_m", 0.9}}}, 4);
    j["terrain"]["features"] = {
        {{"type", "ledge"}, {"path", {{66, 0}, {66, 120}}}, {"drop_m", 1.5}, {"run_m", 3}}};
    j["boat"]["route"] = {{60, 20}, {60, 62}, {75, 62}, {75, 15}};
    const auto all = read(j, 1500);
    const auto *c = near(all, 73, 40, 2.5);
    ASSERT_NE(c, nullptr);
    EXPECT_NEAR(c->depth_m, 5.5, 0.45);
}
