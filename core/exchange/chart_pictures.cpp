#include "exchange/chart_pictures.hpp"

#include "exchange/plane_srs.hpp"

#include "fault/told.hpp"
#include "files/atomic_file.hpp"
#include "files/gdal.hpp"
#include "files/identifier.hpp"
#include "files/zip.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <cpl_conv.h>
#include <cpl_string.h>
#include <cpl_vsi.h>
#include <fmt/format.h>
#include <gdal_utils.h>
#include <ogr_srs_api.h>
#include <pugixml.hpp>
#include <sstream>

namespace heron {
namespace {

constexpr double weakest_db = -16, strongest_db = 18;

std::string projection_of(const UtmZone &zone) {
    const auto srs = srs_of(zone);
    char *text = nullptr;
    OSRExportToWkt(srs.get(), &text);
    std::string out = text != nullptr ? text : "";
    CPLFree(text);
    return out;
}

// Four bytes a cell, in memory.
GdalDataset in_memory(const ChartPicture &picture) {
    const auto &r = picture.raster;
    GdalDataset d(GDALCreate(GDALGetDriverByName("MEM"), "", static_cast<int>(r.columns),
                             static_cast<int>(r.rows), 4, GDT_Byte, nullptr));
    if (!d)
        return d;
    std::array<double, 6> transform{r.west_m, r.cell_m, 0, r.north_m, 0, -r.cell_m};
    GDALSetGeoTransform(d.get(), transform.data());
    GDALSetProjection(d.get(), projection_of(r.zone).c_str());
    std::vector<std::uint8_t> band(r.cells());
    for (const auto &[number, shift] : {std::pair{1, 16}, {2, 8}, {3, 0}, {4, 24}}) {
        for (std::size_t i = 0; i < band.size(); ++i)
            band[i] = static_cast<std::uint8_t>(picture.argb[i] >> shift);
        const auto b = GDALGetRasterBand(d.get(), number);
        GDALSetRasterColorInterpretation(b, number == 4   ? GCI_AlphaBand
                                            : number == 1 ? GCI_RedBand
                                            : number == 2 ? GCI_GreenBand
                                                          : GCI_BlueBand);
        if (GDALRasterIO(b, GF_Write, 0, 0, static_cast<int>(r.columns), static_cast<int>(r.rows),
                         band.data(), static_cast<int>(r.columns), static_cast<int>(r.rows), GDT_Byte, 0,
                         0) != CE_None)
            return nullptr;
    }
    return d;
}

// A dataset as the bytes of a PNG; empty where it cannot be made.
std::string png_of(GDALDatasetH from) {
    const auto name = "/vsimem/" + new_identifier() + ".png";
    const GdalDataset made(
        GDALCreateCopy(GDALGetDriverByName("PNG"), name.c_str(), from, FALSE, nullptr, nullptr, nullptr));
    if (made)
        GDALFlushCache(made.get());
    vsi_l_offset size = 0;
    const auto *bytes = VSIGetMemFileBuffer(name.c_str(), &size, FALSE);
    std::string out = made && bytes != nullptr
                          ? std::string(reinterpret_cast<const char *>(bytes), static_cast<std::size_t>(size))
                          : std::string();
    VSIUnlink(name.c_str());
    return out;
}

// Longitude,latitude pairs, seven decimals.
std::string coordinates(const UtmZone &zone, const std::vector<EastNorth> &line) {
    std::string out;
    for (const auto &p : line) {
        const auto at = from_utm(zone, p.east_m, p.north_m);
        out += fmt::format("{:.7f},{:.7f} ", at.longitude_deg, at.latitude_deg);
    }
    return out;
}

void add_style(pugi::xml_node document, const char *id, const char *colour, const char *width) {
    auto style = document.append_child("Style");
    style.append_attribute("id").set_value(id);
    auto line = style.append_child("LineStyle");
    line.append_child("color").text().set(colour);
    line.append_child("width").text().set(width);
}

void add_line(pugi::xml_node folder, const std::string &name, const char *style, const std::string &where) {
    auto mark = folder.append_child("Placemark");
    mark.append_child("name").text().set(name.c_str());
    mark.append_child("styleUrl").text().set(style);
    auto line = mark.append_child("LineString");
    line.append_child("tessellate").text().set("1");
    line.append_child("coordinates").text().set(where.c_str());
}

} // namespace

ChartPicture picture_of_levels(const GroundRaster &raster, const std::vector<float> &level,
                               const ColourMap &map) {
    ChartPicture picture{raster, std::vector<std::uint32_t>(raster.cells(), 0)};
    for (std::size_t i = 0; i < level.size(); ++i) {
        if (!(level[i] == level[i]))
            continue;
        const double share = (static_cast<double>(level[i]) - weakest_db) / (strongest_db - weakest_db);
        picture.argb[i] = map[static_cast<std::uint8_t>(std::clamp(std::lround(255 * share), 0L, 255L))];
    }
    return picture;
}

const ColourMap &plain_colour_map() {
    static const std::array<Rgb, 4> stops{{{18, 26, 32}, {70, 92, 102}, {150, 160, 150}, {244, 238, 220}}};
    static const ColourMap map(stops);
    return map;
}

Result<void> write_png_with_world(const std::filesystem::path &file, const ChartPicture &picture) {
    begin_gdal();
    const auto &r = picture.raster;
    const auto d = in_memory(picture);
    const auto png = d ? png_of(d.get()) : std::string();
    if (png.empty())
        return tl::unexpected(gdal_cannot_write(file));
    auto world = file, plane = file;
    world.replace_extension(".pgw");
    plane.replace_extension(".prj");
    // The six lines of a world file: cell east, turns, cell south, and the middle of the first cell.
    const auto lines =
        fmt::format("{}\n0\n0\n{}\n{:.4f}\n{:.4f}\n", r.cell_m, -r.cell_m, r.east_of(0), r.north_of(0));
    std::vector<std::filesystem::path> written;
    const std::array<std::pair<std::filesystem::path, std::string>, 3> parts{
        {{file, png}, {world, lines}, {plane, projection_of(r.zone)}}};
    for (const auto &[path, bytes] : parts) {
        std::error_code ignored;
        const bool stood = std::filesystem::exists(path, ignored);
        if (auto done = write_file_atomically(path, bytes); !done) {
            for (const auto &w : written)
                std::filesystem::remove(w, ignored);
            return done;
        }
        if (!stood)
            written.push_back(path);
    }
    return {};
}

Result<GlobePicture> on_the_globe(const ChartPicture &picture) {
    begin_gdal();
    const auto d = in_memory(picture);
    const char *words[] = {"-t_srs", "EPSG:4326", "-of", "MEM", "-r", "near", nullptr};
    auto *options = GDALWarpAppOptionsNew(const_cast<char **>(words), nullptr);
    GDALDatasetH from[] = {d.get()};
    int failed = 0;
    const GdalDataset laid(d ? GDALWarp("", nullptr, 1, from, options, &failed) : nullptr);
    GDALWarpAppOptionsFree(options);
    std::array<double, 6> t{};
    if (!laid || failed != 0 || GDALGetGeoTransform(laid.get(), t.data()) != CE_None)
        return fail(told("the chart could not be laid on the globe: {}", gdal_said()),
                    told("nothing was written"), told("write a GeoTIFF instead"));
    GlobePicture out;
    out.png = png_of(laid.get());
    out.west_deg = t[0];
    out.north_deg = t[3];
    out.east_deg = t[0] + t[1] * GDALGetRasterXSize(laid.get());
    out.south_deg = t[3] + t[5] * GDALGetRasterYSize(laid.get());
    return out;
}

Result<void> write_kmz(const std::filesystem::path &file, const ChartPicture &picture,
                       const ChartPackage &package, const std::string &title) {
    auto laid = on_the_globe(picture);
    if (!laid)
        return tl::unexpected(laid.error());
    pugi::xml_document doc;
    auto declaration = doc.append_child(pugi::node_declaration);
    declaration.append_attribute("version").set_value("1.0");
    declaration.append_attribute("encoding").set_value("UTF-8");
    auto kml = doc.append_child("kml");
    kml.append_attribute("xmlns").set_value("http://www.opengis.net/kml/2.2");
    auto document = kml.append_child("Document");
    document.append_child("name").text().set(title.c_str());
    document.append_child("description").text().set("Not for navigation.");
    // Alpha, blue, green, red.
    add_style(document, "contour", "ff8a6a3c", "1.2");
    add_style(document, "transition", "ff2a4fb8", "2.4");
    add_style(document, "track", "ff808080", "1");
    auto overlay = document.append_child("GroundOverlay");
    overlay.append_child("name").text().set("Mosaic");
    overlay.append_child("Icon").append_child("href").text().set("mosaic.png");
    auto box = overlay.append_child("LatLonBox");
    for (const auto &[name, value] : {std::pair{"north", laid->north_deg},
                                      {"south", laid->south_deg},
                                      {"east", laid->east_deg},
                                      {"west", laid->west_deg}})
        box.append_child(name).text().set(fmt::format("{:.9f}", value).c_str());
    const auto folder = [&](const char *name) {
        auto f = document.append_child("Folder");
        f.append_child("name").text().set(name);
        return f;
    };
    auto contours = folder("Contours");
    for (const auto &c : package.contours)
        add_line(contours, fmt::format("{} m", c.value), "#contour", coordinates(package.zone, c.line));
    auto transitions = folder("Transitions");
    for (const auto &t : package.transitions)
        add_line(
            transitions,
            t.of == Transition::Of::weeds
                ? fmt::format("weeds to the {}", t.hard_on_left ? "left" : "right")
                : fmt::format("hard to the {}, {:.0f} dB", t.hard_on_left ? "left" : "right", t.strength_db),
            "#transition", coordinates(package.zone, t.line));
    auto track = folder("Track");
    for (const auto &line : package.track)
        if (line.size() > 1)
            add_line(track, "Track", "#track", coordinates(package.zone, line));
    std::ostringstream text;
    doc.save(text, " ");
    return write_zip(file, {{"doc.kml", text.str()}, {"mosaic.png", std::move(laid->png)}});
}

} // namespace heron
