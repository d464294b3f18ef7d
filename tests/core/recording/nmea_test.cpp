#include "recording/nmea.hpp"

#include "programs.hpp"
#include "units/units.hpp"

#include <cmath>
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <random>

using namespace heron;

namespace {

const UnixNs heard_at = *parse_rfc3339("2026-05-14T06:12:41Z");

struct Ear {
    NmeaDecoder decoder;
    NavTrack track;
    void hears(const std::string &body, UnixNs at = heard_at) {
        decoder.take(nmea_sentence(body), at, track);
    }
};

} // namespace

// The well-known specimen sentence of the standard's descriptions, checksum 47; from memory.
TEST(Nmea, ChecksumOfTheSpecimenSentence) {
    EXPECT_EQ(nmea_sentence("GPGGA,123519,4807.038,N,01131.000,E,1,08,0.9,545.4,M,46.9,M,,"),
              "$GPGGA,123519,4807.038,N,01131.000,E,1,08,0.9,545.4,M,46.9,M,,*47\r\n");
    EXPECT_TRUE(parse_nmea("$SDDPT,5.64,0.40,60*7E"));
    EXPECT_FALSE(parse_nmea("$SDDPT,5.65,0.40,60*7E"));
    EXPECT_TRUE(parse_nmea("$SDDPT,5.65,0.40,60")); // old talkers send none
}

TEST(Nmea, PositionsBearTheReceiversOwnTime) {
    Ear ear;
    ear.hears("GPRMC,061240.20,A,4630.033,N,02114.961,W,2.72,90.0,140526,2.0,W,A");
    ear.hears("GPGGA,061240.40,4630.0331,N,02114.9600,W,2,12,0.7,1.1,M,48.0,M,,");
    ASSERT_EQ(ear.track.positions().size(), 2u);
    EXPECT_EQ(print_rfc3339(ear.track.positions()[0].time), "2026-05-14T06:12:40.200Z");
    EXPECT_EQ(print_rfc3339(ear.track.positions()[1].time), "2026-05-14T06:12:40.400Z");
    EXPECT_NEAR(ear.track.positions()[0].place.latitude_deg, 46.50055, 1e-9);
    EXPECT_NEAR(ear.track.positions()[0].place.longitude_deg, -21.24935, 1e-9);
    EXPECT_NEAR(ear.track.positions()[0].speed_m_s, m_s_from_knots(2.72), 1e-9);
    EXPECT_NEAR(ear.track.positions()[1].sd_m, 0.7, 1e-9); // from HDOP until GST speaks
    ear.hears("GPGST,061240.60,0.6,0.5,0.4,0.0,0.3,0.4,0.9");
    ear.hears("GPGGA,061240.60,4630.0331,N,02114.9600,W,2,12,0.7,1.1,M,48.0,M,,");
    EXPECT_NEAR(ear.track.positions()[2].sd_m, std::sqrt((0.09 + 0.16) / 2), 1e-9);
}

TEST(Nmea, TheDayTurnsOverBetweenSentences) {
    Ear ear;
    ear.hears("GPRMC,235959.80,A,4630.0,N,02114.9,W,2.7,90.0,311225,,,A",
              *parse_rfc3339("2025-12-31T23:59:59.8Z"));
    ear.hears("GPGGA,000000.00,4630.0,N,02114.9,W,1,9,0.8,1,M,48,M,,",
              *parse_rfc3339("2026-01-01T00:00:00Z"));
    EXPECT_EQ(print_rfc3339(ear.track.positions().back().time, 0), "2026-01-01T00:00:00Z");
}

TEST(Nmea, MagneticHeadingsWaitForAVariation) {
    Ear ear;
    ear.hears("HCHDM,100.0,M");
    EXPECT_TRUE(ear.track.attitudes().empty());
    ear.hears("GPRMC,061240.20,A,4630.033,N,02114.961,W,2.72,90.0,140526,2.5,W,A");
    ear.hears("HCHDM,100.0,M");
    ASSERT_EQ(ear.track.attitudes().size(), 1u);
    EXPECT_DOUBLE_EQ(ear.track.attitudes()[0].heading_deg, 97.5);
    ear.hears("HCHDG,100.0,1.0,E,3.0,E");
    EXPECT_DOUBLE_EQ(ear.track.attitudes()[1].heading_deg, 104);
    ear.hears("HEHDT,012.3,T");
    EXPECT_DOUBLE_EQ(ear.track.attitudes()[2].heading_deg, 12.3);
}

TEST(Nmea, DepthsTemperatureAndSpeed) {
    Ear ear;
    ear.hears("SDDPT,5.64,0.40,60");
    ear.hears("SDDPT,5.64,-1.2,60"); // an offset to the keel leads to no waterline
    ear.hears("SDDBT,18.5,f,,M,,F");
    ear.hears("SDDPT,9999,0.40,"); // deeper than any lake
    ear.hears("SDDBT,30000,f,,M,,F");
    ear.hears("SDMTW,15.5,C");
    ear.hears("GPVTG,90.0,T,92.0,M,2.50,N,4.63,K,A");
    ASSERT_EQ(ear.track.depths().size(), 3u);
    EXPECT_DOUBLE_EQ(*ear.track.depths()[0].to_waterline_m, 0.4);
    EXPECT_FALSE(ear.track.depths()[1].to_waterline_m);
    EXPECT_NEAR(ear.track.depths()[2].below_transducer_m, 5.6388, 1e-9);
    EXPECT_DOUBLE_EQ(*ear.decoder.water_temperature_c(), 15.5);
    EXPECT_NEAR(*ear.track.speed_at(heard_at), m_s_from_knots(2.5), 1e-9);
}

// What newer receivers and compasses of two antennas say; gpsdecode reads the same places out of it.
TEST(Nmea, PlacesAndHeadingsOfOtherSentences) {
    Ear ear;
    const std::string date = "GNRMC,061240.20,A,4630.033,N,02114.961,W,2.72,90.0,140526,2.0,W,A",
                      gns = "GNGNS,061240.40,4630.0331,N,02114.9600,W,AAN,14,0.7,1.1,48.0,,,",
                      gll = "GNGLL,4630.0335,N,02114.9590,W,061240.60,A,A";
    for (const auto &s : {date, gns, gll})
        ear.hears(s);
    const auto &track = ear.track.positions();
    ASSERT_EQ(track.size(), 3u);
    EXPECT_EQ(print_rfc3339(track[1].time), "2026-05-14T06:12:40.400Z");
    EXPECT_NEAR(track[1].sd_m, 0.7, 1e-9);
    EXPECT_EQ(print_rfc3339(track[2].time), "2026-05-14T06:12:40.600Z");
    for (std::size_t i = 1; i < 3; ++i) {
        // It tells an epoch when it has seen how epochs end.
        std::string said;
        for (const char *second : {"40", "41", "42", "43"})
            for (auto sentence : {date, i == 1 ? gns : gll}) {
                sentence.replace(sentence.find(",0612") + 5, 2, second);
                said += nmea_sentence(sentence);
            }
        const auto decoded = test::run("printf '%s' '" + said + "' | gpsdecode");
        const auto place = fmt::format("\"lat\":{:.9f},\"lon\":{:.9f}", track[i].place.latitude_deg,
                                       track[i].place.longitude_deg);
        EXPECT_NE(decoded.out.find(place), std::string::npos) << decoded.out << place;
    }
    // No fix, or none of the epoch's own.
    ear.hears("GNGNS,061240.80,4630.0331,N,02114.9600,W,NNN,00,,,,,,");
    ear.hears("GNGNS,061240.80,,,,,,00,,,,,,");
    ear.hears("GNGLL,4630.0335,N,02114.9590,W,061241.00,V,N");
    ear.hears("GNGLL,4630.0335,N,02114.9590,W,061240.60,A,A");
    EXPECT_EQ(ear.track.positions().size(), 3u);
    ear.hears("HETHS,012.3,A");
    ear.hears("HETHS,012.9,V");
    ASSERT_EQ(ear.track.attitudes().size(), 1u);
    EXPECT_DOUBLE_EQ(ear.track.attitudes()[0].heading_deg, 12.3);
    EXPECT_EQ(ear.decoder.unknown(), 0u);
    EXPECT_EQ(ear.decoder.damaged(), 0u);
}

TEST(Nmea, NoFixIsNoPosition) {
    Ear ear;
    ear.hears("GPGGA,061240.40,4630.0331,N,02114.9600,W,0,00,,,M,,M,,");
    ear.hears("GPRMC,061240.20,V,,,,,,,140526,,,N");
    ear.hears("GPGGA,061240.40,,,,,1,00,,,M,,M,,");
    EXPECT_TRUE(ear.track.positions().empty());
    EXPECT_EQ(ear.decoder.damaged(), 0u);
}

TEST(Nmea, LinesAreCutOutOfGarbage) {
    NmeaLines lines;
    std::string noise = "\x01\xff half $GPGGA,123 no end";
    auto out = lines.push(noise);
    EXPECT_TRUE(out.empty());
    out = lines.push("$SDDPT,5.64,0.40,60*7E\r\n\r\n$SDM");
    ASSERT_EQ(out.size(), 1u);
    EXPECT_EQ(out[0], "$SDDPT,5.64,0.40,60*7E");
    out = lines.push("TW,15.5,C*05\n");
    ASSERT_EQ(out.size(), 1u);
    EXPECT_GT(lines.dropped_bytes(), 0u);
    EXPECT_TRUE(lines.push(std::string(100000, 'x')).empty());
}

TEST(FuzzNmea, SurvivesAnything) {
    std::mt19937 random(9);
    NmeaLines lines;
    NmeaDecoder decoder;
    NavTrack track;
    const std::string good =
        nmea_sentence("GPRMC,061240.20,A,4630.033,N,02114.961,W,2.72,90.0,140526,2.0,W,A") +
        nmea_sentence("SDDPT,5.64,0.40,60");
    for (int i = 0; i < 3000; ++i) {
        auto bytes = good;
        for (auto &c : bytes)
            if (random() % 12 == 0)
                c = static_cast<char>(random());
        for (const auto &line : lines.push(bytes))
            decoder.take(line, heard_at, track);
        // A sentence with a right checksum and senseless fields.
        std::string body = "GPGGA";
        for (int f = 0; f < 14; ++f)
            body += "," + std::string(random() % 9, static_cast<char>('-' + random() % 13));
        decoder.take(nmea_sentence(body), heard_at, track);
    }
    for (const auto &p : track.positions()) {
        EXPECT_LE(std::fabs(p.place.latitude_deg), 90);
        EXPECT_LE(std::fabs(p.place.longitude_deg), 180);
    }
    EXPECT_GT(decoder.damaged(), 100u);
}

// gpsdecode, the decoder of the gpsd project, understands the very sentences that the simulated sounder
// sends.
TEST(Nmea, GpsdecodeReadsTheSounder) {
    const test::Folder folder;
    const auto made = test::run(test::program("heron-sounder") + " " + test::lake() + " --record " +
                                folder.file("a.nc") + " --seconds 3 --start 2026-05-14T06:12:40Z");
    ASSERT_EQ(made.code, 0) << made.out;
    const auto decoded =
        test::run("/usr/bin/python3 -c \"import netCDF4; [print(s) for s in netCDF4.Dataset('" +
                  folder.file("a.nc") + "')['Platform/NMEA/NMEA_datagram'][:]]\" | gpsdecode");
    ASSERT_EQ(decoded.code, 0) << decoded.out;
    EXPECT_NE(decoded.out.find("\"class\":\"TPV\""), std::string::npos) << decoded.out.substr(0, 500);
    EXPECT_NE(decoded.out.find("\"lat\":46.5"), std::string::npos);
    EXPECT_NE(decoded.out.find("2026-05-14T06:12:4"), std::string::npos);
    EXPECT_NE(decoded.out.find("\"class\":\"GST\""), std::string::npos);
}
