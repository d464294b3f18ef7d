#include "recording/recording.hpp"

#include "picture/scan.hpp"
#include "programs.hpp"

#include <cmath>
#include <fstream>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <random>
#include <sstream>

using namespace heron;
using testing::HasSubstr;

namespace {

// A short recording of our own: both sides and down, with track, compass and sentences.
Recording made(std::size_t pings = 40) {
    Recording r;
    r.head.title = "made for a test";
    r.head.installation = {{-1.5, 0.2, 0.7}, {-0.3, 0, -0.8}, 0.3};
    r.head.sound_speed_m_s = 1460;
    r.head.water_temperature_c = 13.5;
    const UnixNs start = *parse_rfc3339("2026-05-14T06:12:40.25Z");
    std::mt19937 random(2);
    for (std::size_t i = 0; i < pings; ++i) {
        Ping p;
        p.time = start + static_cast<std::int64_t>(i) * 50'000'001;
        p.sound_speed_m_s = 1460;
        p.sample_interval_s = 3e-5;
        p.first_sample_s = 1.5e-5;
        p.frequency_hz = 770e3;
        p.bandwidth_hz = 45e3;
        p.pulse_s = 1e-4;
        for (const auto side : {Side::port, Side::starboard, Side::down}) {
            Beam b;
            b.side = side;
            b.azimuth_deg = nominal_azimuth_deg(side);
            b.depression_deg = side == Side::down ? 90 : 32;
            b.gain_db = 3;
            b.scale = {32, 0.3, 0, 255};
            for (int k = 0; k < 300; ++k)
                b.code.push_back(static_cast<std::uint16_t>(random() % 256));
            p.beams.push_back(b);
        }
        r.pings.push_back(p);
        PositionSample at;
        at.time = p.time;
        at.place = {46.5 + 1e-6 * static_cast<double>(i), -21.25};
        at.speed_m_s = 1.4;
        r.head.nav.add(at);
        AttitudeSample a;
        a.time = p.time;
        a.heading_deg = 359.5 + 0.02 * static_cast<double>(i % 2);
        r.head.nav.add(a);
    }
    r.head.sentences.emplace_back(start, "$SDDPT,5.64,0.40,60*7E");
    return r;
}

Result<void> write(const Recording &r, const std::string &path) {
    auto w = RecordingWriter::create(path, r.head);
    if (!w)
        return tl::unexpected(w.error());
    for (const auto &p : r.pings)
        if (auto added = w->add(p); !added)
            return added;
    return w->finish();
}

} // namespace

TEST(Recording, WhatIsWrittenIsReadBackAlike) {
    const test::Folder folder;
    const auto r = made();
    ASSERT_TRUE(write(r, folder.file("a.nc")));
    const auto back = read_recording(folder.file("a.nc"));
    ASSERT_TRUE(back) << back.error().line();
    EXPECT_TRUE(back->warnings.empty()) << back->warnings.front();
    ASSERT_EQ(back->pings.size(), r.pings.size());
    for (std::size_t i = 0; i < r.pings.size(); ++i) {
        const auto &a = r.pings[i], &b = back->pings[i];
        EXPECT_EQ(a.time, b.time);
        EXPECT_DOUBLE_EQ(a.sample_interval_s, b.sample_interval_s);
        EXPECT_DOUBLE_EQ(a.slant_m(17), b.slant_m(17));
        ASSERT_EQ(b.beams.size(), 3u);
        for (const auto side : {Side::port, Side::starboard, Side::down}) {
            EXPECT_EQ(a.beam(side)->code, b.beam(side)->code);
            EXPECT_NEAR(a.beam(side)->depression_deg, b.beam(side)->depression_deg, 1e-9);
            EXPECT_DOUBLE_EQ(a.beam(side)->level_db(5), b.beam(side)->level_db(5));
        }
    }
    EXPECT_NEAR(back->head.installation.draught_m(), 0.4, 1e-6);
    EXPECT_EQ(back->head.nav.positions().size(), r.head.nav.positions().size());
    ASSERT_EQ(back->head.nav.depths().size(), 1u);
    EXPECT_DOUBLE_EQ(back->head.nav.depths()[0].below_transducer_m, 5.64);
}

TEST(Recording, AnUnfinishedOneLeavesNothingBehind) {
    const test::Folder folder;
    {
        auto w = RecordingWriter::create(folder.file("a.nc"), made().head);
        ASSERT_TRUE(w);
        ASSERT_TRUE(w->add(made().pings.front()));
    }
    EXPECT_EQ(test::run("ls -A " + folder.file(".")).out, "");
}

// ncdump is the general reader of the netCDF library's makers (UCAR); netCDF4 is another binding.
TEST(Recording, OursOpensInNcdumpAndInPython) {
    const test::Folder folder;
    ASSERT_TRUE(write(made(), folder.file("a.nc")));
    const auto dump = test::run("ncdump -h " + folder.file("a.nc"));
    ASSERT_EQ(dump.code, 0);
    for (const char *word :
         {"sonar_convention_name = \"SONAR-netCDF4\"", "group: Beam_group1",
          "sample_t backscatter_r(ping_time, beam)", "db_per_count = 0.3",
          "nanoseconds since 1601-01-01 00:00:00Z", "string NMEA_datagram(time)", "group: Provenance"})
        EXPECT_THAT(dump.out, HasSubstr(word));
    const auto read =
        test::run("/usr/bin/python3 -c \"import netCDF4; g = netCDF4.Dataset('" + folder.file("a.nc") +
                  "')['Sonar/Beam_group1']; print(len(g['ping_time'][:]), list(g['beam'][:]), "
                  "g['backscatter_r'][7, 1][3], int(g['ping_time'][0]))\"");
    const auto expected =
        "40 ['port', 'starboard'] " + std::to_string(made().pings[7].beams[1].code[3]) + " " +
        std::to_string(static_cast<std::uint64_t>(made().pings[0].time) + 11644473600000000000u) + "\n";
    EXPECT_EQ(read.out, expected);
}

// Some hundred and twenty variants made by another library; the manifest says what docs/recording.md asks of
// each.
TEST(Recording, LawfulOddAndDamagedVariantsAreTakenAsTheContractSays) {
    const test::Folder folder;
    const auto made_them =
        test::run("/usr/bin/python3 " HERON_TESTS "/core/recording/make_variants.py " + folder.file("."));
    ASSERT_EQ(made_them.code, 0) << made_them.out;
    std::ifstream manifest(folder.file("manifest.txt"));
    std::string line;
    int cases = 0;
    while (std::getline(manifest, line)) {
        std::istringstream in(line);
        std::string name, code, text, pings;
        std::getline(in, name, '\t');
        std::getline(in, code, '\t');
        std::getline(in, text, '\t');
        std::getline(in, pings);
        SCOPED_TRACE(name);
        ++cases;
        const auto r = read_recording(folder.file(name + ".nc"));
        EXPECT_EQ(r.has_value(), code == "0") << (r ? "" : r.error().line());
        if (!r) {
            EXPECT_THAT(r.error().line(), HasSubstr(text));
            EXPECT_THAT(r.error().line(), HasSubstr(name + ".nc"));
            EXPECT_THAT(r.error().line(), testing::Not(HasSubstr("\n")));
            continue;
        }
        EXPECT_EQ(r->pings.size(), std::stoul(pings));
        std::string warnings;
        for (const auto &w : r->warnings)
            warnings += w + "\n";
        if (text.empty())
            EXPECT_EQ(warnings, "");
        else
            EXPECT_THAT(warnings, HasSubstr(text));
    }
    EXPECT_GE(cases, 110);
    // All lawful ways to tell the same levels tell the same levels.
    const auto plain = read_recording(folder.file("plain.nc"));
    ASSERT_TRUE(plain);
    for (const char *name : {"vlen-f8", "vlen-i4", "padded-i4", "padded-nan", "decibels", "amplitudes",
                             "amplitudes-padded", "packed-levels"}) {
        const auto other = read_recording(folder.file(std::string(name) + ".nc"));
        ASSERT_TRUE(other) << name;
        const auto &a = plain->pings[11].beams[1], &b = other->pings[11].beams[1];
        ASSERT_EQ(a.code.size(), b.code.size()) << name;
        for (std::size_t k = 0; k < a.code.size(); ++k)
            EXPECT_NEAR(a.level_db(k), b.level_db(k), 0.3) << name << k; // a count is 0.28 dB
    }
}

TEST(Recording, PingsInAGapOrBesideAFrozenCompassHaveNoPlace) {
    const test::Folder folder;
    ASSERT_EQ(
        test::run("/usr/bin/python3 " HERON_TESTS "/core/recording/make_variants.py " + folder.file("."))
            .code,
        0);
    for (const auto &[name, from, to] : {std::tuple{"gap-in-positions", 3.2, 6.0},
                                         {"frozen-headings", 2.2, 6.0},
                                         {"leaping-positions", 3.0, 3.9},
                                         {"nan-positions", 2.0, 3.9}}) {
        const auto r = read_recording(folder.file(std::string(name) + ".nc"));
        ASSERT_TRUE(r);
        const UnixNs start = *parse_rfc3339("2025-06-27T04:53:20Z");
        int inside = 0, placed = 0, outside = 0, lost = 0;
        for (const auto &p : r->pings) {
            const double t = seconds_between(start, p.time);
            const bool known = r->head.nav.fix_at(p.time).has_value();
            if (t > from && t < to)
                ++inside, placed += known;
            if (t < from - 0.3)
                ++outside, lost += !known;
        }
        EXPECT_GT(inside, 5) << name;
        EXPECT_EQ(placed, 0) << name;
        EXPECT_EQ(lost, 0) << name;
    }
}

// Bytes changed at random: whatever comes, an answer comes back.
// Of the batches that begin with 3 and 16 the library spoils memory beside its own while it reads.
TEST(FuzzRecording, SurvivesChangedBytes) {
    const test::Folder folder;
    ASSERT_TRUE(write(made(8), folder.file("a.nc")));
    const auto good = test::contents(folder.file("a.nc"));
    int read = 0;
    for (const unsigned batch : {77u, 3u, 16u}) {
        std::mt19937 random(batch);
        for (int i = 0; i < 150; ++i) {
            auto bad = good;
            for (int n = 1 + static_cast<int>(random() % 20); n > 0; --n)
                bad[random() % bad.size()] = static_cast<char>(random());
            if (i % 5 == 0)
                bad.resize(random() % bad.size());
            std::ofstream(folder.file("b.nc"), std::ios::binary) << bad;
            const auto r = read_recording(folder.file("b.nc"));
            if (r)
                ++read;
            else
                EXPECT_FALSE(r.error().happened.empty());
        }
    }
    EXPECT_GT(read, 0);
}
