// The chart as pictures that lie on the ground: read back by GDAL's own programs and by xmllint.
#include "exchange/chart_pictures.hpp"
#include "files/json.hpp"
#include "files/zip.hpp"
#include "programs.hpp"

#include <cmath>
#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

using namespace heron;

namespace {

// Thirty metres by twenty, a strong cell in its middle, nothing in its eastern third.
ChartPicture made() {
    const auto at = to_utm({27, true}, {46.5, -21.25});
    GroundRaster r{{27, true}, 0.5, std::floor(at.east_m), std::floor(at.north_m), 60, 40};
    std::vector<float> level(r.cells(), -10);
    for (std::size_t i = 0; i < level.size(); ++i)
        if (i % 60 >= 40)
            level[i] = std::nanf("");
    level[20 * 60 + 20] = 18;
    return picture_of_levels(r, level, plain_colour_map());
}

ChartPackage lines(const ChartPicture &p) {
    ChartPackage package;
    package.zone = p.raster.zone;
    package.contours = {{2, {{p.raster.west_m, p.raster.north_m}, {p.raster.west_m + 10, p.raster.north_m}}}};
    package.track = {{{p.raster.west_m, p.raster.north_m - 5}, {p.raster.west_m + 10, p.raster.north_m - 5}}};
    return package;
}

} // namespace

TEST(ChartPictures, APngLiesWhereItsWorldFileSays) {
    const test::Folder folder;
    const auto picture = made();
    ASSERT_TRUE(write_png_with_world(folder.file("m.png"), picture));
    const auto info = test::run("gdalinfo -json " + folder.file("m.png"));
    ASSERT_EQ(info.code, 0) << info.out;
    const auto j = nlohmann::json::parse(info.out);
    EXPECT_NEAR(j["geoTransform"][0].get<double>(), picture.raster.west_m, 1e-3);
    EXPECT_NEAR(j["geoTransform"][3].get<double>(), picture.raster.north_m, 1e-3);
    EXPECT_NEAR(j["geoTransform"][1].get<double>(), 0.5, 1e-9);
    EXPECT_EQ(j["bands"].size(), 4u);
    EXPECT_THAT(test::contents(folder.file("m.prj")), testing::HasSubstr("UTM zone 27N"));
    // The strong cell is the palest, and where nothing is known it is clear.
    const auto strong = test::run("gdallocationinfo -valonly " + folder.file("m.png") + " 20 20");
    EXPECT_THAT(strong.out, testing::StartsWith("244\n238\n220\n255"));
    EXPECT_THAT(test::run("gdallocationinfo -valonly " + folder.file("m.png") + " 50 20").out,
                testing::EndsWith("0\n"));
    // Nothing is left behind where it cannot be written.
    EXPECT_FALSE(write_png_with_world("/nowhere/at/all/m.png", picture));
}

TEST(ChartPictures, AKmzHoldsThePictureAndTheLinesAndSaysNotForNavigation) {
    const test::Folder folder;
    const auto picture = made();
    ASSERT_TRUE(write_kmz(folder.file("c.kmz"), picture, lines(picture), "Ellemoor <Water> & more"));
    const auto members = read_zip(folder.file("c.kmz"), "");
    ASSERT_TRUE(members);
    ASSERT_EQ(members->size(), 2u);
    EXPECT_EQ((*members)[0].name, "doc.kml");
    const auto &kml = (*members)[0].bytes;
    EXPECT_THAT(kml, testing::HasSubstr("Not for navigation"));
    EXPECT_THAT(kml, testing::HasSubstr("Ellemoor &lt;Water&gt; &amp; more"));
    std::ofstream(folder.file("doc.kml")) << kml;
    EXPECT_EQ(test::run("xmllint --noout " + folder.file("doc.kml")).code, 0);
    const auto layers = test::run("ogrinfo -ro -al -so " + folder.file("doc.kml"));
    EXPECT_EQ(layers.code, 0) << layers.out;
    EXPECT_THAT(layers.out, testing::HasSubstr("Contours"));
    // The overlay's edges are the raster's, on the globe.
    const auto globe = on_the_globe(picture);
    ASSERT_TRUE(globe);
    const auto corner = from_utm(picture.raster.zone, picture.raster.west_m, picture.raster.north_m);
    EXPECT_NEAR(globe->west_deg, corner.longitude_deg, 2e-5);
    EXPECT_NEAR(globe->north_deg, corner.latitude_deg, 2e-5);
    EXPECT_FALSE(write_kmz("/nowhere/at/all/c.kmz", picture, lines(picture), "x"));
}

TEST(Zip, GoesOutAndInAndRefusesWhatIsTooMuch) {
    const test::Folder folder;
    const std::string large(300'000, 'x');
    ASSERT_TRUE(write_zip(folder.file("a.kmz"), {{"doc.kml", "<kml/>"}, {"chips/1.png", large}}));
    const auto all = read_zip(folder.file("a.kmz"), "");
    ASSERT_TRUE(all);
    ASSERT_EQ(all->size(), 2u);
    EXPECT_EQ((*all)[1].bytes, large);
    EXPECT_EQ(read_zip(folder.file("a.kmz"), ".kml")->size(), 1u);
    EXPECT_FALSE(read_zip(folder.file("a.kmz"), "", 1)) << "too many";
    EXPECT_FALSE(read_zip(folder.file("a.kmz"), "", 10, 100'000)) << "too large unpacked";
    std::ofstream(folder.file("no.kmz")) << "this is no archive";
    const auto refused = read_zip(folder.file("no.kmz"), "");
    ASSERT_FALSE(refused);
    EXPECT_THAT(refused.error().happened, testing::HasSubstr("no archive"));
    // By a program of another maker: names that lead out are passed over.
    ASSERT_EQ(test::run("cd " + folder.file("") +
                        " && /usr/bin/python3 -c \"import zipfile; z=zipfile.ZipFile('bad.kmz','w'); "
                        "z.writestr('../out.kml','x'); z.writestr('in.kml','y'); z.close()\"")
                  .code,
              0);
    const auto bad = read_zip(folder.file("bad.kmz"), ".kml");
    ASSERT_TRUE(bad);
    for (const auto &m : *bad)
        EXPECT_EQ(m.name, "in.kml");
}

// Extra fields that are walked through byte by byte: such an archive of 26 MB would keep the library busy for
// minutes.
TEST(Zip, ADirectoryThatIsMadeToTakeLongIsRefusedBeforeItIsRead) {
    const test::Folder folder;
    const auto made = [&](const std::string &name, const std::string &members) {
        return test::run("cd " + folder.file("") +
                         " && /usr/bin/python3 -c \"import zipfile\nz=zipfile.ZipFile('" + name + "','w')\n" +
                         members + "\nz.close()\"")
            .code;
    };
    ASSERT_EQ(made("long.kmz", "for i in range(200):\n"
                               " f=zipfile.ZipInfo('a%d.kml'%i)\n"
                               " f.extra=bytes(65532)\n"
                               " z.writestr(f,'x')"),
              0);
    const auto refused = read_zip(folder.file("long.kmz"), ".kml");
    ASSERT_FALSE(refused);
    EXPECT_THAT(refused.error().happened, testing::HasSubstr("no archive that can be read"));
    // What other programs write is taken: small extra fields, a comment, something before the archive.
    ASSERT_EQ(made("other.kmz", "f=zipfile.ZipInfo('doc.kml')\n"
                                "f.extra=b'UT\\5\\0\\1\\0\\0\\0\\0'\n"
                                "z.writestr(f,'<kml/>')\n"
                                "z.comment=b'by another program'"),
              0);
    const auto whole = test::contents(folder.file("other.kmz"));
    std::ofstream(folder.file("after.kmz"), std::ios::binary) << "what stands before" << whole;
    for (const char *name : {"other.kmz", "after.kmz"}) {
        const auto taken = read_zip(folder.file(name), ".kml");
        ASSERT_TRUE(taken) << name;
        ASSERT_EQ(taken->size(), 1u) << name;
        EXPECT_EQ(taken->front().bytes, "<kml/>") << name;
    }
    // A second directory, of archives beyond 4 GB, to which the first one says nothing.
    const auto end = whole.rfind("PK\5\6");
    ASSERT_NE(end, std::string::npos);
    std::ofstream(folder.file("second.kmz"), std::ios::binary)
        << whole.substr(0, end) << std::string("PK\6\7", 4) << std::string(16, '\0') << whole.substr(end);
    EXPECT_FALSE(read_zip(folder.file("second.kmz"), ".kml"));
    // Cut short anywhere before its comment it is refused.
    for (std::size_t n = 0; n + 18 < whole.size(); n += 7) {
        std::ofstream(folder.file("cut.kmz"), std::ios::binary) << whole.substr(0, n);
        EXPECT_FALSE(read_zip(folder.file("cut.kmz"), ".kml")) << n;
    }
}
