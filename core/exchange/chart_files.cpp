#include "exchange/chart_files.hpp"

#include "exchange/plane_srs.hpp"
#include "fault/told.hpp"
#include "files/gdal.hpp"

#include <cpl_string.h>
#include <limits>
#include <ogr_api.h>
#include <ogr_srs_api.h>

namespace heron {
namespace {

namespace fs = std::filesystem;

// Beside the file, and put in its place when it is whole.
fs::path beside(const fs::path &file) {
    auto part = file;
    part += ".part" + file.extension().string();
    return part;
}

Result<void> put_in_place(const fs::path &part, const fs::path &file, bool written) {
    std::error_code error;
    if (written)
        fs::rename(part, file, error);
    if (!written || error) {
        std::error_code ignored;
        fs::remove(part, ignored);
        return tl::unexpected(gdal_cannot_write(file));
    }
    return {};
}

struct Column {
    const char *name;
    OGRFieldType type;
};

OGRLayerH layer_of(GDALDatasetH dataset, const char *name, OGRwkbGeometryType type, OGRSpatialReferenceH srs,
                   const std::vector<Column> &fields) {
    const auto layer = GDALDatasetCreateLayer(dataset, name, srs, type, nullptr);
    if (layer == nullptr)
        return nullptr;
    for (const auto &f : fields) {
        const auto field = OGR_Fld_Create(f.name, f.type);
        OGR_L_CreateField(layer, field, TRUE);
        OGR_Fld_Destroy(field);
    }
    return layer;
}

template <class Fill>
bool add_line(OGRLayerH layer, const std::vector<EastNorth> &points, bool closed, const Fill &fill) {
    const auto feature = OGR_F_Create(OGR_L_GetLayerDefn(layer));
    const auto line = OGR_G_CreateGeometry(closed ? wkbLinearRing : wkbLineString);
    for (const auto &p : points)
        OGR_G_AddPoint_2D(line, p.east_m, p.north_m);
    auto geometry = line;
    if (closed) {
        OGR_G_CloseRings(line);
        geometry = OGR_G_CreateGeometry(wkbPolygon);
        OGR_G_AddGeometryDirectly(geometry, line);
    }
    OGR_F_SetGeometryDirectly(feature, geometry);
    fill(feature);
    const bool kept = OGR_L_CreateFeature(layer, feature) == OGRERR_NONE;
    OGR_F_Destroy(feature);
    return kept;
}

} // namespace

Result<void> write_geotiff(const fs::path &file, const GroundRaster &r,
                           const std::vector<RasterBand> &bands) {
    begin_gdal();
    const auto part = beside(file);
    char **options = nullptr;
    options = CSLSetNameValue(options, "COMPRESS", "DEFLATE");
    options = CSLSetNameValue(options, "PREDICTOR", "3");
    options = CSLSetNameValue(options, "TILED", "YES");
    bool written = false;
    {
        const GdalDataset out(GDALCreate(GDALGetDriverByName("GTiff"), part.c_str(),
                                         static_cast<int>(r.columns), static_cast<int>(r.rows),
                                         static_cast<int>(bands.size()), GDT_Float32, options));
        CSLDestroy(options);
        if (!out)
            return put_in_place(part, file, false);
        std::array<double, 6> transform{r.west_m, r.cell_m, 0, r.north_m, 0, -r.cell_m};
        GDALSetGeoTransform(out.get(), transform.data());
        GDALSetSpatialRef(out.get(), srs_of(r.zone).get());
        GDALSetMetadataItem(out.get(), "TIFFTAG_IMAGEDESCRIPTION", "Not for navigation", nullptr);
        written = true;
        for (std::size_t b = 0; b < bands.size(); ++b) {
            const auto band = GDALGetRasterBand(out.get(), static_cast<int>(b) + 1);
            GDALSetDescription(band, bands[b].name.c_str());
            if (b == 0)
                GDALSetRasterNoDataValue(band, std::numeric_limits<double>::quiet_NaN());
            written =
                written &&
                GDALRasterIO(band, GF_Write, 0, 0, static_cast<int>(r.columns), static_cast<int>(r.rows),
                             const_cast<float *>(bands[b].values.data()), static_cast<int>(r.columns),
                             static_cast<int>(r.rows), GDT_Float32, 0, 0) == CE_None;
        }
        GDALFlushCache(out.get());
    }
    return put_in_place(part, file, written);
}

ChartPackage package_of(const GroundMap &map, const Hardness &hardness, const DepthGrid &depth,
                        double contour_m) {
    ChartPackage package;
    package.zone = map.zone();
    package.contours = depth_contours(depth, contour_m);
    package.transitions = transitions_of(hardness);
    for (const int looks : {1, 2, 3})
        package.coverage.push_back({looks, edges_of_looks(map, hardness.raster, looks)});
    package.forms = forms_of(map, hardness);
    package.track = track_of(map);
    return package;
}

Result<void> write_chart_package(const fs::path &file, const ChartPackage &package) {
    begin_gdal();
    const auto part = beside(file);
    std::error_code ignored;
    fs::remove(part, ignored);
    bool written = false;
    {
        const GdalDataset out(
            GDALCreate(GDALGetDriverByName("GPKG"), part.c_str(), 0, 0, 0, GDT_Unknown, nullptr));
        if (!out)
            return put_in_place(part, file, false);
        const auto srs = srs_of(package.zone);
        const auto contours =
            layer_of(out.get(), "contours", wkbLineString, srs.get(), {{"depth_m", OFTReal}});
        const auto transitions = layer_of(out.get(), "transitions", wkbLineString, srs.get(),
                                          {{"length_m", OFTReal},
                                           {"strength_db", OFTReal},
                                           {"hard_side", OFTString},
                                           {"of", OFTString},
                                           {"weeds_side", OFTString}});
        const auto coverage = layer_of(out.get(), "coverage", wkbPolygon, srs.get(), {{"looks", OFTInteger}});
        const auto forms = layer_of(out.get(), "forms", wkbPolygon, srs.get(),
                                    {{"form", OFTString},
                                     {"length_m", OFTReal},
                                     {"width_m", OFTReal},
                                     {"bearing_deg", OFTReal},
                                     {"wave_m", OFTReal},
                                     {"bowls", OFTInteger},
                                     {"bowl_m", OFTReal}});
        const auto track = layer_of(out.get(), "track", wkbLineString, srs.get(), {});
        written = contours && transitions && coverage && forms && track &&
                  GDALDatasetStartTransaction(out.get(), FALSE) == OGRERR_NONE;
        for (const auto &c : package.contours)
            written = written && add_line(contours, c.line, false,
                                          [&](OGRFeatureH f) { OGR_F_SetFieldDouble(f, 0, c.value); });
        for (const auto &t : package.transitions)
            written = written && add_line(transitions, t.line, false, [&](OGRFeatureH f) {
                          OGR_F_SetFieldDouble(f, 0, t.length_m);
                          OGR_F_SetFieldDouble(f, 1, t.strength_db);
                          const bool weeds = t.of == Transition::Of::weeds;
                          OGR_F_SetFieldString(f, weeds ? 4 : 2, t.hard_on_left ? "left" : "right");
                          OGR_F_SetFieldString(f, 3, weeds ? "weeds" : "hardness");
                      });
        for (const auto &c : package.coverage)
            for (const auto &edge : c.edge)
                if (edge.line.size() > 3)
                    written = written && add_line(coverage, edge.line, true, [&](OGRFeatureH f) {
                                  OGR_F_SetFieldInteger(f, 0, c.looks);
                              });
        for (const auto &form : package.forms)
            if (form.outline.size() > 2)
                written = written && add_line(forms, form.outline, true, [&](OGRFeatureH f) {
                              OGR_F_SetFieldString(f, 0, std::string(name_of(form.kind)).c_str());
                              OGR_F_SetFieldDouble(f, 1, form.length_m);
                              OGR_F_SetFieldDouble(f, 2, form.width_m);
                              OGR_F_SetFieldDouble(f, 3, form.bearing_deg);
                              if (form.wave_m > 0)
                                  OGR_F_SetFieldDouble(f, 4, form.wave_m);
                              if (!form.bowls.empty()) {
                                  OGR_F_SetFieldInteger(f, 5, static_cast<int>(form.bowls.size()));
                                  OGR_F_SetFieldDouble(f, 6, form.bowl_m);
                              }
                          });
        for (const auto &line : package.track)
            if (line.size() > 1)
                written = written && add_line(track, line, false, [](OGRFeatureH) {});
        written = written && GDALDatasetCommitTransaction(out.get()) == OGRERR_NONE;
    }
    return put_in_place(part, file, written);
}

} // namespace heron
