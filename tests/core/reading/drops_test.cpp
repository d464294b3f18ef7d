// Ledges and channels that the boat ran over, told from the depths under its track.
#include "exchange/results_geojson.hpp"
#include "lake.hpp"
#include "reading/drops.hpp"
#include "reading/reader.hpp"

#include <gmock/gmock.h>
#include <random>

using namespace heron;
using testing::Contains;
using testing::HasSubstr;

namespace {

// Ledges run from west to east over the whole basin; the boat goes north over them.
nlohmann::json ledge(double north, double drop_m, double run_m, bool falls_ahead = true) {
    // What lies to the right of the way from the first point to the last is the deeper side.
    const double west = 0, east = 120;
    return {{"type", "ledge"},
            {"path", falls_ahead ? nlohmann::json{{east, north}, {west, north}}
                                 : nlohmann::json{{west, north}, {east, north}}},
            {"drop_m", drop_m},
            {"run_m", run_m}};
}

Scan sounded(const nlohmann::json &features, double depth = 5, double undulation = 0) {
    auto j = test::basin(depth);
    j["terrain"]["features"] = features;
    j["terrain"]["undulation_m"] = undulation;
    Scan scan;
    SoundingSettings s;
    s.range_m = 20;
    test::sound(scan, j, 1200, s);
    return scan;
}

std::vector<double> run_of(const Scan &scan) {
    std::vector<double> run{0};
    for (std::size_t row = 1; row < scan.end(); ++row)
        run.push_back(run.back() + step_over_ground(scan.facts(row - 1), scan.facts(row)));
    return run;
}

std::vector<Drop> drops_of(const Scan &scan) {
    return find_drops(scan, run_of(scan), 0, scan.end());
}

double north_of(const Contact &c) {
    return LocalPlane({46.5, -21.25}).to_plane(c.place->place).north_m;
}

} // namespace

TEST(Drops, ALedgeIsToldWhereItRunsAndAsHighAsItIs) {
    for (const bool falls : {true, false}) {
        const auto scan = sounded(nlohmann::json::array({ledge(55, 1.2, 1.5, falls)}));
        const auto all = drops_of(scan);
        ASSERT_EQ(all.size(), 1u) << falls;
        EXPECT_NEAR(all[0].falls_m, falls ? 1.2 : -1.2, std::max(0.15, 3 * all[0].sd_m));
        EXPECT_NEAR(all[0].altitude_m, scan.bottom(all[0].row).altitude_m, 0.7);
        EXPECT_LT(all[0].first_row, all[0].row);
        EXPECT_GT(all[0].last_row, all[0].row);
        Reader reader;
        const auto contacts = join_contacts(reader.advance(scan, true));
        const auto found = std::find_if(contacts.begin(), contacts.end(),
                                        [](const Contact &c) { return c.kind == Kind::ledge; });
        ASSERT_NE(found, contacts.end());
        EXPECT_NEAR(north_of(*found), 55, 1.5);
        EXPECT_GT(found->confidence, 0.8);
        EXPECT_EQ(found->placement, Placement::on_bottom);
        ASSERT_TRUE(found->height_m);
        EXPECT_NEAR(found->height_m->value, 1.2, 3 * found->height_m->sd);
        EXPECT_THAT(found->reasons, Contains(HasSubstr(falls ? "falls" : "rises")));
    }
}

TEST(Drops, AnEvenSlopeAndAWavyBottomHoldNone) {
    EXPECT_TRUE(
        drops_of(sounded({{{"type", "slope"}, {"at", {60, 60}}, {"bearing_deg", 0}, {"slope_deg", 3}}}))
            .empty());
    EXPECT_TRUE(drops_of(sounded(nlohmann::json::array(), 6, 0.15)).empty());
}

TEST(Drops, WhatIsLowOrGentleIsNoLedge) {
    EXPECT_TRUE(drops_of(sounded(nlohmann::json::array({ledge(55, 0.2, 1)}))).empty());
    EXPECT_TRUE(drops_of(sounded(nlohmann::json::array({ledge(55, 1.2, 14)}))).empty());
}

TEST(Drops, DownAndUpAgainIsAChannelBetween) {
    const auto scan = sounded(nlohmann::json::array({ledge(50, 1, 1.5, true), ledge(62, 1, 1.5, false)}));
    Reader reader;
    const auto contacts = join_contacts(reader.advance(scan, true));
    const auto found = std::find_if(contacts.begin(), contacts.end(),
                                    [](const Contact &c) { return c.kind == Kind::channel; });
    ASSERT_NE(found, contacts.end());
    EXPECT_NEAR(north_of(*found), 56, 1.5);
    ASSERT_TRUE(found->height_m);
    EXPECT_NEAR(found->height_m->value, -1, 0.25);
    ASSERT_TRUE(found->width_m);
    EXPECT_NEAR(*found->width_m, 12, 1.5);
    EXPECT_TRUE(std::none_of(contacts.begin(), contacts.end(), [](const Contact &c) {
        return c.kind == Kind::ledge;
    })) << "its banks are part of it";
    EXPECT_THAT(found->reasons, Contains(HasSubstr("rises again")));
}

// Three legs over two ledges that run across all of them: two ledges, each as long as it was seen and in the
// middle of that; where a ledge falls the other way it is another.
TEST(Drops, ALedgeThatSeveralLegsCrossIsOne) {
    auto j = test::basin(5);
    j["boat"]["route"] = {{45, 15}, {45, 100}, {57, 100}, {57, 15}, {69, 15}, {69, 100}};
    j["terrain"]["features"] = {ledge(40, 1, 1.5), ledge(72, 1.2, 1.5)};
    Scan scan;
    SoundingSettings s;
    s.range_m = 20;
    test::sound(scan, j, 3900, s);
    Reader reader;
    auto looks = reader.advance(scan, true);
    const auto ledges_of = [](std::vector<Contact> all) {
        std::erase_if(all, [](const Contact &c) { return c.kind != Kind::ledge || c.confidence < 0.5; });
        return all;
    };
    ASSERT_EQ(ledges_of(looks).size(), 6u);
    auto ledges = ledges_of(join_contacts(looks));
    ASSERT_EQ(ledges.size(), 2u);
    std::sort(ledges.begin(), ledges.end(),
              [](const Contact &a, const Contact &b) { return north_of(a) < north_of(b); });
    for (const auto &c : ledges) {
        EXPECT_EQ(c.looks, 3);
        ASSERT_TRUE(c.length_m);
        EXPECT_NEAR(*c.length_m, 24, 2);
        EXPECT_THAT(c.reasons, Contains(HasSubstr("crossed 3 times")));
        EXPECT_NEAR(LocalPlane({46.5, -21.25}).to_plane(c.place->place).east_m, 57, 1.5);
    }
    EXPECT_NEAR(north_of(ledges[0]), 40, 1.5);
    EXPECT_NEAR(north_of(ledges[1]), 72, 1.5);
    for (auto &c : looks)
        if (c.heading_deg && std::fabs(wrap_180(*c.heading_deg - 180)) < 60)
            c.falls_m = -c.falls_m;
    for (const auto &c : ledges_of(join_contacts(looks)))
        EXPECT_LT(c.looks, 3) << "what falls the other way is not the same";
}

// In the results a ledge under the boat is one feature that says where it was seen from.
TEST(Drops, InTheResultsItWasSeenLookingDown) {
    const auto scan = sounded(nlohmann::json::array({ledge(55, 1.2, 1.5)}));
    Reader reader;
    const auto text = geojson_from_contacts(join_contacts(reader.advance(scan, true)));
    const auto j = nlohmann::json::parse(text);
    int ledges = 0;
    for (const auto &f : j.at("features"))
        if (const auto &p = f.at("properties"); p.at("kind") == "ledge") {
            ++ledges;
            EXPECT_EQ(p.at("side"), "down");
            EXPECT_EQ(p.at("family"), "bottom");
            EXPECT_NEAR(p.at("height_m").get<double>(), 1.2, 0.3);
            EXPECT_NEAR(p.at("ground_m").get<double>(), 0, 0.01);
        }
    EXPECT_EQ(ledges, 1);
}

namespace {

// A scan of nothing but depths: the sides' first returns as given, a row every decimetre.
struct Depths {
    Scan scan;
    std::vector<double> run;
    explicit Depths(const std::vector<double> &altitudes) {
        std::vector<BottomPick> picks;
        for (std::size_t n = 0; n < altitudes.size(); ++n) {
            Ping p;
            p.time = static_cast<UnixNs>(n) * ns_per_s / 10;
            scan.push({std::move(p), std::nullopt, {}});
            run.push_back(0.1 * static_cast<double>(n));
            BottomPick pick;
            pick.found = true;
            pick.altitude_m = altitudes[n];
            pick.source = BottomSource::hand;
            picks.push_back(pick);
        }
        scan.correct_bottom(0, picks);
    }
    std::vector<Drop> drops() const { return find_drops(scan, run, 0, scan.end()); }
};

} // namespace

// Depths that err alike for metres on end look like steps; where each errs by itself the same step is one.
TEST(Drops, DepthsThatErrAlikeMakeNoLedge) {
    std::ptrdiff_t of_creep = 0, of_noise = 0;
    const auto told = [](const Depths &depths) {
        const auto all = depths.drops();
        return std::count_if(all.begin(), all.end(), [](const Drop &d) {
            const auto p =
                KindModel::shipped().chances(Zone::track, KindModel::of_drop(d.z, d.falls_m, d.run_m));
            return p[static_cast<std::size_t>(Kind::ledge)] >= 0.5;
        });
    };
    for (std::uint32_t seed = 0; seed < 12; ++seed) {
        std::mt19937 random(seed);
        std::normal_distribution<double> noise(0, 1);
        std::vector<double> creep, white;
        double off = 0;
        for (int n = 0; n < 900; ++n) {
            // A first-order process that forgets over some 0.7 m, and white noise of the same spread.
            off = 0.87 * off + 0.49 * noise(random);
            creep.push_back(10 + 0.25 * off);
            white.push_back(10 + 0.25 * noise(random) + (n >= 450 ? 1.0 : 0));
        }
        of_creep += told(Depths(creep));
        of_noise += told(Depths(white));
    }
    EXPECT_LE(of_creep, 24) << "in a kilometre; 36 if each depth were taken to err by itself";
    EXPECT_NEAR(static_cast<double>(of_noise), 12, 1) << "one step each";
}

TEST(Drops, NextToTheTransducerNothingIsTold) {
    for (const double shallow : {0.6, 1.4}) {
        std::vector<double> altitudes(400, shallow);
        std::fill(altitudes.begin() + 200, altitudes.end(), shallow + 2);
        EXPECT_EQ(Depths(altitudes).drops().size(), shallow > 1 ? 1u : 0u) << shallow;
    }
}
