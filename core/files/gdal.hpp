// GDAL as this program uses it: quiet, without plugins, and following no file to another.
#pragma once

#include <gdal.h>
#include <memory>
#include <string>

namespace heron {

/// Registers GDAL's drivers, once; its errors are kept, not printed.
void begin_gdal();
/// What it said last, for a fault; empty when nothing.
std::string gdal_said();

struct CloseDataset {
    void operator()(GDALDatasetH dataset) const { GDALClose(dataset); }
};
using GdalDataset = std::unique_ptr<void, CloseDataset>;

} // namespace heron
