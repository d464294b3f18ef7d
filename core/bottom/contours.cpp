#include "bottom/contours.hpp"

#include "files/gdal.hpp"

#include <cpl_string.h>
#include <fmt/format.h>
#include <gdal_alg.h>
#include <ogr_api.h>

namespace heron {

std::vector<Contour> contours_of(const GroundRaster &r, std::span<const float> values,
                                 const std::vector<double> &at) {
    std::vector<Contour> all;
    if (values.size() != r.cells() || r.cells() == 0 || at.empty())
        return all;
    begin_gdal();
    constexpr float nothing = -9999;
    std::vector<float> filled(values.begin(), values.end());
    for (auto &v : filled)
        if (!(v == v))
            v = nothing;
    const GdalDataset memory(GDALCreate(GDALGetDriverByName("MEM"), "", static_cast<int>(r.columns),
                                        static_cast<int>(r.rows), 1, GDT_Float32, nullptr));
    const GdalDataset lines(GDALCreate(GDALGetDriverByName("Memory"), "", 0, 0, 0, GDT_Unknown, nullptr));
    if (!memory || !lines)
        return all;
    std::array<double, 6> transform{r.west_m, r.cell_m, 0, r.north_m, 0, -r.cell_m};
    GDALSetGeoTransform(memory.get(), transform.data());
    const auto band = GDALGetRasterBand(memory.get(), 1);
    GDALSetRasterNoDataValue(band, nothing);
    if (GDALRasterIO(band, GF_Write, 0, 0, static_cast<int>(r.columns), static_cast<int>(r.rows),
                     filled.data(), static_cast<int>(r.columns), static_cast<int>(r.rows), GDT_Float32, 0,
                     0) != CE_None)
        return all;
    const auto layer = GDALDatasetCreateLayer(lines.get(), "contours", nullptr, wkbLineString, nullptr);
    const auto field = OGR_Fld_Create("value", OFTReal);
    OGR_L_CreateField(layer, field, TRUE);
    OGR_Fld_Destroy(field);
    std::string levels = "FIXED_LEVELS=";
    for (std::size_t i = 0; i < at.size(); ++i)
        levels += fmt::format("{}{}", i > 0 ? "," : "", at[i]);
    char **options = nullptr;
    options = CSLAddString(options, levels.c_str());
    options = CSLAddString(options, "ELEV_FIELD=0");
    options = CSLAddString(options, fmt::format("NODATA={}", nothing).c_str());
    const auto done = GDALContourGenerateEx(band, layer, options, nullptr, nullptr);
    CSLDestroy(options);
    if (done != CE_None)
        return all;
    OGR_L_ResetReading(layer);
    while (const auto feature = OGR_L_GetNextFeature(layer)) {
        Contour c;
        c.value = OGR_F_GetFieldAsDouble(feature, 0);
        const auto geometry = OGR_F_GetGeometryRef(feature);
        for (int i = 0; i < OGR_G_GetPointCount(geometry); ++i)
            c.line.push_back({OGR_G_GetX(geometry, i), OGR_G_GetY(geometry, i)});
        OGR_F_Destroy(feature);
        if (c.line.size() > 1)
            all.push_back(std::move(c));
    }
    return all;
}

} // namespace heron
