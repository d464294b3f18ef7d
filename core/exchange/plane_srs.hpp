// The plane of a UTM zone as GDAL knows it.
#pragma once

#include "geo/utm.hpp"

#include <memory>
#include <ogr_srs_api.h>
#include <type_traits>

namespace heron {

struct DestroySrs {
    void operator()(OGRSpatialReferenceH srs) const { OSRDestroySpatialReference(srs); }
};
using Srs = std::unique_ptr<std::remove_pointer_t<OGRSpatialReferenceH>, DestroySrs>;

/// East before north, as rasters and lines here have it.
inline Srs srs_of(const UtmZone &zone) {
    Srs srs(OSRNewSpatialReference(nullptr));
    OSRImportFromEPSG(srs.get(), zone.epsg());
    OSRSetAxisMappingStrategy(srs.get(), OAMS_TRADITIONAL_GIS_ORDER);
    return srs;
}

} // namespace heron
