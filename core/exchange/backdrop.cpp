#include "exchange/backdrop.hpp"

#include "exchange/plane_srs.hpp"
#include "fault/told.hpp"
#include "files/atomic_file.hpp"
#include "files/gdal.hpp"
#include "files/xml_in.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <cpl_conv.h>
#include <gdalwarper.h>
#include <ogr_api.h>
#include <ogr_srs_api.h>

namespace heron {
namespace {

namespace fs = std::filesystem;

struct DestroyTransform {
    void operator()(OGRCoordinateTransformationH t) const { OCTDestroyCoordinateTransformation(t); }
};
using Transform = std::unique_ptr<std::remove_pointer_t<OGRCoordinateTransformationH>, DestroyTransform>;

tl::unexpected<Fault> refused(const fs::path &file, const std::string &why, const std::string &to_do) {
    return fail(told("{} cannot lie under the chart: {}", file.string(), why), told("the chart is as it was"),
                to_do);
}

std::string lower(std::string s) {
    std::transform(s.begin(), s.end(), s.begin(), [](unsigned char c) { return std::tolower(c); });
    return s;
}

// What a file of that name may be opened as, and by nothing else.
std::vector<const char *> drivers_of(const std::string &suffix) {
    if (suffix == ".json" || suffix == ".geojson")
        return {"GeoJSON", nullptr};
    if (suffix == ".gpx")
        return {"GPX", nullptr};
    if (suffix == ".kml")
        return {"KML", nullptr};
    if (suffix == ".gpkg")
        return {"GPKG", nullptr};
    if (suffix == ".tif" || suffix == ".tiff")
        return {"GTiff", nullptr};
    return {};
}

} // namespace

void Backdrop::cover(const EastNorth &p) {
    if (!extent_)
        extent_ = Extent{p.east_m, p.north_m, p.east_m, p.north_m};
    extent_->west_m = std::min(extent_->west_m, p.east_m);
    extent_->east_m = std::max(extent_->east_m, p.east_m);
    extent_->south_m = std::min(extent_->south_m, p.north_m);
    extent_->north_m = std::max(extent_->north_m, p.north_m);
}

Result<void> Backdrop::take_lines(void *dataset, const UtmZone &zone) {
    const auto to = srs_of(zone);
    std::size_t features = 0, taken = 0, elsewhere = 0;
    const auto count = GDALDatasetGetLayerCount(dataset);
    for (int l = 0; l < count; ++l) {
        const auto layer = GDALDatasetGetLayer(dataset, l);
        const auto from = OGR_L_GetSpatialRef(layer);
        Transform transform;
        if (from != nullptr) {
            Srs own(OSRClone(from));
            OSRSetAxisMappingStrategy(own.get(), OAMS_TRADITIONAL_GIS_ORDER);
            transform.reset(OCTNewCoordinateTransformation(own.get(), to.get()));
        }
        if (!transform) {
            warnings_.push_back(
                told("layer {} says not where it lies and was left out", OGR_L_GetName(layer)));
            continue;
        }
        OGR_L_ResetReading(layer);
        while (auto feature = OGR_L_GetNextFeature(layer)) {
            struct Destroy {
                OGRFeatureH f;
                ~Destroy() { OGR_F_Destroy(f); }
            } destroy{feature};
            if (++features > most_features)
                return refused(file_, told("it holds more than {} things", most_features),
                               told("take a part of it"));
            std::string name;
            for (const char *field : {"name", "Name", "NAME"})
                if (const int i = OGR_F_GetFieldIndex(feature, field); i >= 0 && name.empty())
                    name = std::string(OGR_F_GetFieldAsString(feature, i)).substr(0, 120);
            // Parts of parts, to a few levels only.
            const auto take = [&](auto &self, OGRGeometryH g, int depth) -> bool {
                if (g == nullptr || depth > 6)
                    return true;
                if (const int parts = OGR_G_GetGeometryCount(g); parts > 0) {
                    for (int i = 0; i < parts; ++i)
                        if (!self(self, OGR_G_GetGeometryRef(g, i), depth + 1))
                            return false;
                    return true;
                }
                const int n = OGR_G_GetPointCount(g);
                if (n <= 0)
                    return true;
                taken += static_cast<std::size_t>(n);
                if (taken > most_points)
                    return false;
                std::vector<EastNorth> line;
                bool far = false;
                for (int i = 0; i < n; ++i) {
                    double x = OGR_G_GetX(g, i), y = OGR_G_GetY(g, i);
                    // Beyond a fifth of the globe a zone's plane means nothing.
                    constexpr double farthest_m = 2.5e6, middle_m = 5e5;
                    if (!OCTTransform(transform.get(), 1, &x, &y, nullptr) || !std::isfinite(x) ||
                        !std::isfinite(y) || std::fabs(x - middle_m) > farthest_m) {
                        far = true;
                        break;
                    }
                    line.push_back({x, y});
                }
                if (far) {
                    ++elsewhere;
                    return true;
                }
                for (const auto &p : line)
                    cover(p);
                if (line.size() == 1) {
                    points_.push_back({line.front(), name});
                } else {
                    const auto type = wkbFlatten(OGR_G_GetGeometryType(g));
                    const bool ring = type == wkbLinearRing || (line.front().east_m == line.back().east_m &&
                                                                line.front().north_m == line.back().north_m);
                    lines_.push_back({std::move(line), ring, name});
                }
                return true;
            };
            if (!take(take, OGR_F_GetGeometryRef(feature), 0))
                return refused(file_, told("it holds more than {} points", most_points),
                               told("take a part of it"));
        }
    }
    if (elsewhere > 0)
        warnings_.push_back(told("{} things lie elsewhere on the globe and were left out", elsewhere));
    if (lines_.empty() && points_.empty())
        return refused(file_, told("it holds no line and no point that has a place here"),
                       told("choose another file"));
    return {};
}

Result<void> Backdrop::take_picture(std::shared_ptr<void> dataset, const UtmZone &zone) {
    std::array<double, 6> t{};
    if (GDALGetGeoTransform(dataset.get(), t.data()) != CE_None ||
        GDALGetSpatialRef(dataset.get()) == nullptr)
        return refused(file_, told("the picture says not where it lies"),
                       told("ask for a GeoTIFF with a place"));
    const int bands = GDALGetRasterCount(dataset.get());
    if (bands < 1)
        return refused(file_, told("it holds no picture"), told("choose another file"));
    const auto type = GDALGetRasterDataType(GDALGetRasterBand(dataset.get(), 1));
    figures_ = type == GDT_Float32 || type == GDT_Float64 || type == GDT_Int16 || type == GDT_Int32;
    char *wkt = nullptr;
    const auto to = srs_of(zone);
    OSRExportToWkt(to.get(), &wkt);
    source_ = std::move(dataset);
    picture_.reset(GDALAutoCreateWarpedVRT(source_.get(), nullptr, wkt,
                                           figures_ ? GRA_NearestNeighbour : GRA_Bilinear, 0.25, nullptr),
                   CloseDataset());
    CPLFree(wkt);
    if (!picture_ || GDALGetGeoTransform(picture_.get(), t.data()) != CE_None)
        return refused(file_,
                       told("it cannot be laid on this plane{}",
                            gdal_said().empty() ? std::string() : ": " + gdal_said()),
                       told("choose another file"));
    cover({t[0], t[3]});
    cover(
        {t[0] + t[1] * GDALGetRasterXSize(picture_.get()), t[3] + t[5] * GDALGetRasterYSize(picture_.get())});
    return {};
}

Result<Backdrop> Backdrop::open(const fs::path &file, const UtmZone &zone) {
    begin_gdal();
    Backdrop b;
    b.file_ = file;
    const auto drivers = drivers_of(lower(file.extension().string()));
    if (drivers.empty())
        return refused(file, told("it is of no kind that is read here"),
                       told("GeoJSON, GPX, KML, GeoPackage and GeoTIFF are"));
    std::error_code error;
    const auto bytes = fs::file_size(file, error);
    if (error || !fs::is_regular_file(file))
        return refused(file, told("there is no such file"), told("choose another file"));
    const std::string driver = drivers.front();
    if (driver != "GTiff" && bytes > most_vector_bytes)
        return refused(file, told("it is larger than {} MB", most_vector_bytes >> 20),
                       told("take a part of it"));
    if (driver == "GPX" || driver == "KML")
        if (const auto text = read_whole_file(file, most_vector_bytes); !text || defines_entities(*text))
            return refused(file, told("it defines entities of its own, which no such file needs"),
                           told("do not trust who made it"));
    // By the name of a driver the file's contents cannot choose another, a list of further files say.
    const auto kinds = static_cast<unsigned>(driver == "GTiff" ? GDAL_OF_RASTER : GDAL_OF_VECTOR);
    GdalDataset d(GDALOpenEx(file.c_str(), GDAL_OF_READONLY | kinds, drivers.data(), nullptr, nullptr));
    if (!d)
        return refused(file,
                       gdal_said().empty() ? told("it is broken, or of another kind than its name says")
                                           : told("it is broken: {}", gdal_said()),
                       told("ask for the file once more"));
    auto taken = driver == "GTiff" ? b.take_picture(std::move(d), zone) : b.take_lines(d.get(), zone);
    if (!taken)
        return tl::unexpected(taken.error());
    return b;
}

Result<BackdropPicture> Backdrop::picture(double west, double north, double cell, int columns,
                                          int rows) const {
    constexpr int most_side = 8192;
    BackdropPicture out{std::clamp(columns, 1, most_side), std::clamp(rows, 1, most_side), {}};
    const auto n = static_cast<std::size_t>(out.columns) * static_cast<std::size_t>(out.rows);
    out.argb.assign(n, 0);
    std::array<double, 6> t{};
    if (!picture_ || GDALGetGeoTransform(picture_.get(), t.data()) != CE_None || !(cell > 0))
        return out;
    // The part of the picture that is asked for, in its own cells, and where it comes to lie.
    const double x0 = (west - t[0]) / t[1], y0 = (north - t[3]) / t[5], x1 = x0 + out.columns * cell / t[1],
                 y1 = y0 - out.rows * cell / t[5];
    const double wide = GDALGetRasterXSize(picture_.get()), high = GDALGetRasterYSize(picture_.get());
    const double fx = std::max(0.0, x0), fy = std::max(0.0, y0), tx = std::min(wide, x1),
                 ty = std::min(high, y1);
    if (tx - fx < 1 || ty - fy < 1)
        return out;
    const int ix = static_cast<int>(fx), iy = static_cast<int>(fy),
              nx = std::max(1, static_cast<int>(std::min(wide, std::ceil(tx))) - ix),
              ny = std::max(1, static_cast<int>(std::min(high, std::ceil(ty))) - iy);
    const double per_x = out.columns / (x1 - x0), per_y = out.rows / (y1 - y0);
    const int left = std::clamp(static_cast<int>(std::lround((ix - x0) * per_x)), 0, out.columns - 1),
              top = std::clamp(static_cast<int>(std::lround((iy - y0) * per_y)), 0, out.rows - 1),
              w = std::clamp(static_cast<int>(std::lround(nx * per_x)), 1, out.columns - left),
              h = std::clamp(static_cast<int>(std::lround(ny * per_y)), 1, out.rows - top);
    const auto many = static_cast<std::size_t>(w) * static_cast<std::size_t>(h);
    const int bands = GDALGetRasterCount(picture_.get());
    std::array<std::vector<std::uint8_t>, 4> channel;
    const auto read = [&](int band, std::vector<std::uint8_t> &into) {
        into.assign(many, 0);
        return GDALRasterIO(GDALGetRasterBand(picture_.get(), band), GF_Read, ix, iy, nx, ny, into.data(), w,
                            h, GDT_Byte, 0, 0) == CE_None;
    };
    const auto colours = GDALGetRasterColorTable(GDALGetRasterBand(picture_.get(), 1));
    const int last = bands >= 3 ? 3 : 1;
    for (int i = 0; i < last; ++i)
        if (!read(i + 1, channel[static_cast<std::size_t>(i)]))
            return fail(told("a part of {} cannot be read: {}", file_.string(), gdal_said()),
                        told("the chart goes on without it"), told("ask for the file once more"));
    const int alpha = bands == 4 ? 4 : bands == 2 ? 2 : 0;
    if (alpha == 0 || !read(alpha, channel[3]))
        channel[3].assign(many, 255);
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) {
            const auto i =
                static_cast<std::size_t>(y) * static_cast<std::size_t>(w) + static_cast<std::size_t>(x);
            std::uint32_t r = channel[0][i], g = last == 3 ? channel[1][i] : r,
                          b = last == 3 ? channel[2][i] : r;
            if (last == 1 && colours != nullptr) {
                GDALColorEntry e{};
                if (GDALGetColorEntryAsRGB(colours, static_cast<int>(r), &e)) {
                    r = static_cast<std::uint32_t>(e.c1 & 255);
                    g = static_cast<std::uint32_t>(e.c2 & 255);
                    b = static_cast<std::uint32_t>(e.c3 & 255);
                }
            }
            out.argb[static_cast<std::size_t>(top + y) * static_cast<std::size_t>(out.columns) +
                     static_cast<std::size_t>(left + x)] =
                static_cast<std::uint32_t>(channel[3][i]) << 24 | r << 16 | g << 8 | b;
        }
    return out;
}

std::optional<double> Backdrop::depth_at(const EastNorth &at) const {
    std::array<double, 6> t{};
    if (!figures_ || !picture_ || GDALGetGeoTransform(picture_.get(), t.data()) != CE_None)
        return std::nullopt;
    const double x = (at.east_m - t[0]) / t[1], y = (at.north_m - t[3]) / t[5];
    if (!(x >= 0) || !(y >= 0) || x >= GDALGetRasterXSize(picture_.get()) ||
        y >= GDALGetRasterYSize(picture_.get()))
        return std::nullopt;
    const auto band = GDALGetRasterBand(picture_.get(), 1);
    double v = 0;
    if (GDALRasterIO(band, GF_Read, static_cast<int>(x), static_cast<int>(y), 1, 1, &v, 1, 1, GDT_Float64, 0,
                     0) != CE_None)
        return std::nullopt;
    int has = 0;
    const double nothing = GDALGetRasterNoDataValue(band, &has);
    if (!std::isfinite(v) || (has != 0 && v == nothing) || std::fabs(v) > 12'000)
        return std::nullopt;
    return std::fabs(v);
}

} // namespace heron
