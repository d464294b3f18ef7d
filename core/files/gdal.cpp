#include "files/gdal.hpp"

#include "fault/told.hpp"

#include <cpl_conv.h>
#include <cpl_error.h>
#include <mutex>

namespace heron {

void begin_gdal() {
    static std::once_flag once;
    std::call_once(once, [] {
        CPLSetErrorHandler(CPLQuietErrorHandler);
        // No plugins, no network, no side files that a hostile neighbour could lay beside a chart.
        CPLSetConfigOption("GDAL_DRIVER_PATH", "disable");
        CPLSetConfigOption("GDAL_DISABLE_READDIR_ON_OPEN", "EMPTY_DIR");
        CPLSetConfigOption("GDAL_PAM_ENABLED", "NO");
        CPLSetConfigOption("OGR_SQLITE_LOAD_EXTENSIONS", "");
        GDALAllRegister();
    });
}

std::string gdal_said() {
    return CPLGetLastErrorMsg();
}

Fault gdal_cannot_write(const std::filesystem::path &file) {
    const auto said = gdal_said();
    return {told("{} cannot be written{}", file.string(), said.empty() ? said : ": " + said),
            told("nothing was left behind"), told("choose another folder, or make room on the disk")};
}

} // namespace heron
