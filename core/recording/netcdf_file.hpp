// A thin, safe face of the netCDF-C library: groups, variables and attributes as plain values.
#pragma once

#include "fault/fault.hpp"

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <filesystem>
#include <limits>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <vector>

namespace heron {

/// netCDF and HDF5 are not made for threads: whoever calls them holds this lock.
std::recursive_mutex &netcdf_lock();
/// The library under netCDF prints what it does not find, in each thread anew; callers tell faults
/// themselves.
void quiet_netcdf();
/// A forked child inherits the lock as its parent held it; it takes a fresh one.
void renew_netcdf_lock_in_child();

/// How numbers are stored, by the attributes that CF asks for (CF-1.7, sections 2.5.1 and 8.1): a stored
/// number times `scale_factor` plus `add_offset`, or nothing where it says so.
struct NcPacking {
    double scale = 1, offset = 0;
    std::vector<double> missing; ///< stored numbers that stand for none
    double least = -std::numeric_limits<double>::infinity();
    double most = std::numeric_limits<double>::infinity(); ///< stored numbers beyond are none
    bool packed() const { return scale != 1 || offset != 0; }
    bool usable() const { return std::isfinite(scale) && scale != 0 && std::isfinite(offset); }
    bool is_missing(double stored) const {
        return !(stored >= least && stored <= most) ||
               std::find(missing.begin(), missing.end(), stored) != missing.end();
    }
    /// Not-a-number where there is none.
    double value(double stored) const {
        return is_missing(stored) ? std::numeric_limits<double>::quiet_NaN() : stored * scale + offset;
    }
};

struct NcVariable {
    int group = 0;
    int id = 0;
    int type = 0;
    int base_type = 0; ///< of the elements, for variable-length and enum types; else `type`
    bool variable_length = false;
    std::string name;
    std::vector<std::size_t> shape;
    std::vector<int> dimension;

    NcPacking packing() const;
    /// All values as double, unpacked: not-a-number where there is none. Empty when it cannot be read as
    /// numbers.
    std::optional<std::vector<double>> numbers() const;
    /// All values as text, from strings or padded char arrays (one a row), without trailing blanks.
    std::optional<std::vector<std::string>> texts() const;
    std::optional<std::string> text_attribute(const std::string &attribute) const;
    std::optional<double> number_attribute(const std::string &attribute) const;
    std::string dimension_name(std::size_t i) const;
};

struct NcGroup {
    int id = 0;
    std::string name;
    std::string path;

    std::optional<NcGroup> child(const std::string &child_name) const;
    std::vector<NcGroup> children() const;
    std::optional<NcVariable> variable(const std::string &variable_name) const;
    std::optional<std::string> text_attribute(const std::string &attribute) const;
};

/// An open file; closes itself.
class NcFile {
  public:
    static Result<NcFile> open(const std::filesystem::path &path);
    NcFile(NcFile &&other) noexcept;
    NcFile &operator=(NcFile &&other) noexcept;
    NcFile(const NcFile &) = delete;
    NcFile &operator=(const NcFile &) = delete;
    ~NcFile();
    NcGroup root() const { return {id_, "", "/"}; }

  private:
    explicit NcFile(int id) : id_(id) {}
    int id_ = -1;
};

} // namespace heron
