// What others have drawn, under the chart: files made by GDAL's own programs, and hostile ones.
#include "exchange/backdrop.hpp"
#include "programs.hpp"

#include <cmath>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

using namespace heron;

namespace {

const UtmZone zone{27, true};

void put(const std::string &file, const std::string &text) {
    std::ofstream(file, std::ios::binary) << text;
}

const char *const outline = R"({"type":"FeatureCollection","features":[
 {"type":"Feature","properties":{"name":"Old shore"},"geometry":{"type":"Polygon","coordinates":[[[-21.25,46.5],[-21.248,46.5],[-21.248,46.501],[-21.25,46.5]]]}},
 {"type":"Feature","properties":{"name":"Mill"},"geometry":{"type":"Point","coordinates":[-21.249,46.5005]}},
 {"type":"Feature","properties":{},"geometry":{"type":"LineString","coordinates":[[100,10],[101,10]]}}]})";

} // namespace

TEST(Backdrop, LinesAndPointsOfEachKindLieWhereTheyAre) {
    const test::Folder folder;
    put(folder.file("o.geojson"), outline);
    ASSERT_EQ(test::run("ogr2ogr -f GPKG " + folder.file("o.gpkg") + " " + folder.file("o.geojson")).code, 0);
    ASSERT_EQ(test::run("ogr2ogr -f KML " + folder.file("o.kml") + " " + folder.file("o.geojson")).code, 0);
    ASSERT_EQ(test::run("ogr2ogr -f GPX " + folder.file("o.gpx") + " " + folder.file("o.geojson") +
                        " -where \"name='Mill'\" -nlt POINT -select name")
                  .code,
              0);
    const auto mill = to_utm(zone, {46.5005, -21.249});
    for (const char *name : {"o.geojson", "o.gpkg", "o.kml", "o.gpx"}) {
        const auto b = Backdrop::open(folder.file(name), zone);
        ASSERT_TRUE(b) << name << ": " << b.error().line();
        ASSERT_EQ(b->points().size(), 1u) << name;
        EXPECT_NEAR(b->points()[0].at.east_m, mill.east_m, 0.01) << name;
        EXPECT_NEAR(b->points()[0].at.north_m, mill.north_m, 0.01) << name;
        EXPECT_EQ(b->points()[0].name, "Mill") << name;
        EXPECT_FALSE(b->has_picture());
        if (std::string(name) == "o.gpx")
            continue;
        ASSERT_EQ(b->lines().size(), 1u) << name << ": the line on the other side of the globe stays out";
        EXPECT_TRUE(b->lines()[0].closed) << name;
        EXPECT_THAT(b->warnings(), testing::ElementsAre(testing::HasSubstr("elsewhere"))) << name;
        ASSERT_TRUE(b->extent());
        EXPECT_LT(b->extent()->west_m, mill.east_m);
    }
}

TEST(Backdrop, APictureIsReadInWindowsAndFiguresAreDepths) {
    const test::Folder folder;
    const auto at = to_utm(zone, {46.5, -21.25});
    // A picture of 400 × 400 cells of half a metre, red in the west, blue in the east; and depths 3 and 9 m
    // below a level, written as heights.
    put(folder.file("make.py"), R"(
import sys
w = 400
open(sys.argv[1] + '/rgb.bin', 'wb').write(b''.join(bytes([200 if x < 200 else 10 for x in range(w)]) for y in range(w)) +
    bytes(w * w) + b''.join(bytes([10 if x < 200 else 200 for x in range(w)]) for y in range(w)))
import struct
open(sys.argv[1] + '/d.bin', 'wb').write(b''.join(struct.pack('<400f', *[-3.0 if x < 200 else -9.0 for x in range(w)]) for y in range(w)))
)");
    ASSERT_EQ(test::run("/usr/bin/python3 " + folder.file("make.py") + " " + folder.file("")).code, 0);
    put(folder.file("rgb.hdr"),
        "ENVI\nsamples=400\nlines=400\nbands=3\ndata type=1\ninterleave=bsq\nbyte order=0\n");
    put(folder.file("d.hdr"),
        "ENVI\nsamples=400\nlines=400\nbands=1\ndata type=4\ninterleave=bsq\nbyte order=0\n");
    const auto place = " -a_srs EPSG:32627 -a_ullr " + std::to_string(at.east_m) + " " +
                       std::to_string(at.north_m + 200) + " " + std::to_string(at.east_m + 200) + " " +
                       std::to_string(at.north_m) + " ";
    for (const char *name : {"rgb", "d"})
        ASSERT_EQ(test::run("gdal_translate -q" + place + folder.file(std::string(name) + ".bin") + " " +
                            folder.file(std::string(name) + ".tif"))
                      .code,
                  0);
    const auto b = Backdrop::open(folder.file("rgb.tif"), zone);
    ASSERT_TRUE(b) << b.error().line();
    EXPECT_TRUE(b->has_picture());
    const auto p = b->picture(at.east_m + 50, at.north_m + 150, 1, 100, 50);
    ASSERT_TRUE(p);
    ASSERT_EQ(p->argb.size(), 5000u);
    EXPECT_EQ(p->argb[10] & 0xFF0000U, 200U << 16) << "red in the west";
    EXPECT_EQ(p->argb[90] & 0xFFU, 200U) << "blue in the east";
    EXPECT_EQ(p->argb[10] >> 24, 255U);
    // Beyond its edge there is nothing.
    const auto beyond = b->picture(at.east_m - 500, at.north_m + 150, 1, 50, 50);
    ASSERT_TRUE(beyond);
    EXPECT_THAT(beyond->argb, testing::Each(0U));
    const auto half = b->picture(at.east_m - 50, at.north_m + 100, 1, 100, 10);
    ASSERT_TRUE(half);
    EXPECT_EQ(half->argb[20], 0U);
    EXPECT_NE(half->argb[80], 0U);
    const auto d = Backdrop::open(folder.file("d.tif"), zone);
    ASSERT_TRUE(d);
    EXPECT_TRUE(d->has_depths());
    EXPECT_NEAR(d->depth_at({at.east_m + 50, at.north_m + 100}).value(), 3, 1e-6);
    EXPECT_NEAR(d->depth_at({at.east_m + 150, at.north_m + 100}).value(), 9, 1e-6);
    EXPECT_FALSE(d->depth_at({at.east_m + 350, at.north_m + 100}));
}

TEST(Backdrop, WhatIsBrokenOrHostileIsRefusedInWords) {
    const test::Folder folder;
    const auto refused = [&](const std::string &name, const std::string &text, const char *why) {
        put(folder.file(name), text);
        const auto b = Backdrop::open(folder.file(name), zone);
        ASSERT_FALSE(b) << name;
        EXPECT_THAT(b.error().line(), testing::HasSubstr(why)) << name;
    };
    refused("bomb.kml",
            "<?xml version=\"1.0\"?><!DOCTYPE k [<!ENTITY a \"xxxxxxxxxx\"><!ENTITY b "
            "\"&a;&a;&a;\">]><kml>&b;</kml>",
            "entities");
    refused("bomb.gpx", "<!DOCTYPE gpx SYSTEM \"file:///etc/passwd\"><gpx/>", "entities");
    // A list of other files that calls itself a picture: its name says how it may be read, not its contents.
    put(folder.file("secret.geojson"), outline);
    refused("vrt.tif",
            "<VRTDataset rasterXSize=\"1\" rasterYSize=\"1\"><VRTRasterBand><SimpleSource><SourceFilename>" +
                folder.file("secret.geojson") +
                "</SourceFilename></SimpleSource></VRTRasterBand></VRTDataset>",
            "broken");
    refused("vrt.geojson", "<OGRVRTDataSource><OGRVRTLayer name=\"x\"/></OGRVRTDataSource>", "broken");
    refused("list.vrt", "<VRTDataset/>", "no kind that is read here");
    refused("cut.gpkg", "SQLite format 3", "broken");
    refused("empty.geojson", R"({"type":"FeatureCollection","features":[]})", "no line and no point");
    EXPECT_FALSE(Backdrop::open(folder.file("not there.kml"), zone));
    // A picture that says not where it lies.
    put(folder.file("p.pgm"), "P5 2 2 255\nabcd");
    ASSERT_EQ(test::run("gdal_translate -q " + folder.file("p.pgm") + " " + folder.file("p.tif")).code, 0);
    const auto nowhere = Backdrop::open(folder.file("p.tif"), zone);
    ASSERT_FALSE(nowhere);
    EXPECT_THAT(nowhere.error().line(), testing::HasSubstr("not where it lies"));
}
