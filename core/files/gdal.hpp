// GDAL as this program uses it: quiet, without plugins, and following no file to another.
#pragma once

#include "fault/fault.hpp"

#include <filesystem>
#include <gdal.h>
#include <memory>
#include <string>

namespace heron {

/// Registers GDAL's drivers, once; its errors are kept, not printed.
void begin_gdal();
/// What it said last, for a fault; empty when nothing.
std::string gdal_said();
/// That a file cannot be written, with what it said.
Fault gdal_cannot_write(const std::filesystem::path &file);

struct CloseDataset {
    void operator()(GDALDatasetH dataset) const { GDALClose(dataset); }
};
using GdalDataset = std::unique_ptr<void, CloseDataset>;

} // namespace heron
