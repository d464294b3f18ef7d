// What leaves for whom: each private field is looked for in all that goes out, in every format.
#include "exchange/mark_files.hpp"
#include "files/identifier.hpp"
#include "files/json.hpp"
#include "files/zip.hpp"
#include "marks/mark_json.hpp"
#include "marks/pack.hpp"
#include "programs.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

using namespace heron;
using testing::HasSubstr;
using testing::Not;

namespace {

// Each field holds a word that stands nowhere else.
Mark telling(Level level, Family family = Family::structure) {
    Mark m;
    m.id = new_identifier();
    m.family = family;
    m.kind = Kind::stump;
    m.level = level;
    m.name = "NAMEWORD";
    m.note = "NOTEWORD";
    m.tags = {"TAGWORD"};
    m.lake = "LAKEWORD";
    m.source = "SOURCEWORD";
    m.by = "BYWORD";
    m.bottom = "BOTTOMWORD";
    m.foreign_gpx = "<kept><sym>FOREIGNWORD</sym></kept>";
    m.side = "starboard";
    m.time = *parse_rfc3339("2026-05-14T06:12:40Z");
    m.place = GeoPoint{46.5012345, -21.2498765};
    m.place_covariance = {1, 0, 1};
    m.depth_m = Estimate{5.4321, 0.2};
    m.slant_m = 17.654;
    m.frequency_hz = 770e3;
    m.range_setting_m = 31.41;
    m.chip = {2, 2, {11, 22, 33, 44}};
    m.sightings = {sighting_of(m)};
    m.sightings[0].reasons = {"REASONWORD"};
    Outcome o;
    o.what = Outcome::What::landed;
    o.species = "SPECIESWORD";
    o.note = "FISHWORD";
    m.outcomes = {o};
    return m;
}

const std::vector<std::pair<Field, std::vector<std::string>>> words{
    {Field::name, {"NAMEWORD"}},
    {Field::note, {"NOTEWORD"}},
    {Field::tags, {"TAGWORD", "LAKEWORD"}},
    {Field::story, {"SOURCEWORD", "BYWORD", "FOREIGNWORD", "REASONWORD"}},
    {Field::measures, {"BOTTOMWORD", "5.43"}},
    {Field::time, {"2026-05-14T06"}},
    {Field::settings, {"17.654", "31.41", "starboard"}},
    {Field::outcomes, {"SPECIESWORD", "FISHWORD"}}};

// All bytes of a pack in a format; what is packed within is unpacked.
std::string bytes_of(const test::Folder &folder, const std::string &suffix, const std::vector<Mark> &marks) {
    const auto file = folder.file("pack" + suffix);
    EXPECT_TRUE(write_mark_file(file, marks)) << suffix;
    auto all = test::contents(file);
    if (suffix == ".kmz") {
        const auto members = read_zip(file, "");
        for (const auto &m : *members)
            all += m.name + m.bytes;
    }
    return all;
}

} // namespace

TEST(Pack, WhatAReceiverMayNotSeeIsInNoByteOfAnyFormat) {
    const test::Folder folder;
    for (const auto receiver : {Level::crew, Level::client, Level::anyone})
        for (const auto family : {Family::structure, Family::hazard})
            for (const char *suffix : {".gpx", ".kml", ".kmz", ".geojson", ".csv", ".gpkg"}) {
                PackSettings settings;
                settings.receiver = receiver;
                const auto out = packed({telling(Level::anyone, family)}, settings);
                ASSERT_EQ(out.size(), 1u);
                const auto all = bytes_of(folder, suffix, out);
                for (const auto &[field, own] : words)
                    if (!open_to(usual_level(field, family == Family::hazard), receiver))
                        for (const auto &w : own)
                            EXPECT_EQ(all.find(w), std::string::npos)
                                << w << " for " << name_of(receiver) << " in " << suffix;
                // And what he may see is there.
                EXPECT_NE(all.find("46.501234") == std::string::npos && std::string(suffix) != ".gpkg", true);
                if (std::string(suffix) != ".gpkg" &&
                    open_to(usual_level(Field::name, family == Family::hazard), receiver)) {
                    EXPECT_NE(all.find("NAMEWORD"), std::string::npos) << suffix;
                }
            }
}

TEST(Pack, WhatIsMineNeverLeavesAndEachFieldMayBeHeldCloser) {
    PackSettings settings;
    for (const auto receiver : {Level::crew, Level::client, Level::anyone}) {
        settings.receiver = receiver;
        EXPECT_TRUE(packed({telling(Level::me)}, settings).empty());
    }
    auto m = telling(Level::client);
    settings.receiver = Level::client;
    EXPECT_EQ(packed({m}, settings)[0].name, "NAMEWORD");
    m.field_levels[Field::name] = Level::crew;
    EXPECT_EQ(packed({m}, settings)[0].name, "");
    m.field_levels[Field::place] = Level::crew;
    EXPECT_TRUE(packed({m}, settings).empty()) << "without its place nothing of it goes";
    m = telling(Level::client);
    m.place.reset();
    EXPECT_TRUE(packed({m}, settings).empty());
    // The guide sees all of it.
    settings.receiver = Level::me;
    EXPECT_EQ(json_of(packed({m}, settings)[0], true), json_of(m, true));
    // It says so in words.
    settings.receiver = Level::client;
    const auto said = told_of_pack({telling(Level::client), telling(Level::me)}, settings);
    std::string text;
    for (const auto &line : said)
        text += line + "\n";
    EXPECT_THAT(text, HasSubstr("1 of 2 marks go out"));
    EXPECT_THAT(text, HasSubstr("1 stay here"));
    EXPECT_THAT(text, HasSubstr("in the pack: names, kinds"));
    EXPECT_THAT(text, HasSubstr("outcomes"));
}

TEST(Pack, ACoarsePlaceHoldsTheThingAndGivesNoMoreAway) {
    auto m = telling(Level::anyone);
    for (const double radius : {5.0, 50.0, 400.0, 3000.0}) {
        auto coarse = *as_seen_by(m, Level::anyone);
        coarsen(coarse, radius);
        const double circle = circle_of(radius);
        EXPECT_LE(circle, radius);
        EXPECT_GT(circle, radius / 2);
        EXPECT_LE(leg_between(*m.place, *coarse.place).distance_m, 1.01 * circle);
        EXPECT_TRUE(coarse.chip.empty() && coarse.shape.empty() && coarse.sightings.empty());
        EXPECT_EQ(coarse.time % (86'400 * ns_per_s), 0);
        auto again = *as_seen_by(m, Level::anyone);
        coarsen(again, radius);
        EXPECT_EQ(again.place->latitude_deg, coarse.place->latitude_deg) << "asking often wins nothing";
    }
    // A hazard is told as it is.
    PackSettings settings;
    settings.coarsen_m = 500;
    const auto out = packed({telling(Level::anyone, Family::hazard)}, settings);
    EXPECT_EQ(out[0].place->latitude_deg, m.place->latitude_deg);
}

// Packs of several circles laid over each other tell no more than the smallest: its square lies within those
// of the larger.
RC_GTEST_PROP(Pack, LargerCirclesAddNothingToSmallerOnes, ()) {
    const GeoPoint p{*rc::gen::inRange(-60'000'000, 60'000'000) / 1e6,
                     *rc::gen::inRange(-179'000'000, 179'000'000) / 1e6};
    Mark a, b, c, d;
    a.place = b.place = p;
    const double small = 5.0 * std::pow(2, *rc::gen::inRange(0, 6)),
                 large = small * std::pow(2, *rc::gen::inRange(1, 6));
    coarsen(a, small);
    coarsen(b, large);
    // The small square's middle falls into the same large square as the thing itself.
    c.place = a.place;
    coarsen(c, large);
    RC_ASSERT(std::fabs(c.place->latitude_deg - b.place->latitude_deg) < 1e-9);
    RC_ASSERT(std::fabs(c.place->longitude_deg - b.place->longitude_deg) < 1e-9);
    RC_ASSERT(leg_between(p, *a.place).distance_m <= 1.02 * small);
    RC_ASSERT(leg_between(p, *b.place).distance_m <= 1.02 * large);
}
