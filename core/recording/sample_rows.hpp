// The samples of a beam group, read from its file some pings at a time.
#pragma once

#include "fault/fault.hpp"
#include "recording/netcdf_file.hpp"

#include <cstddef>
#include <memory>
#include <vector>

namespace heron {

/// Reads `backscatter_r`, (ping_time, beam) of variable length or (ping_time, beam, sample). Each call of the
/// library costs far more than a row: rows that are known to be sound are fetched together and kept until
/// others are asked for. Whoever reads holds `netcdf_lock`.
class SampleRows {
  public:
    SampleRows() = default;
    SampleRows(NcVariable variable, std::size_t beams);

    /// Rows `first` to `last` (exclusive) may be read together; all others are read one by one.
    void may_read_together(std::size_t first, std::size_t last);
    /// The samples of each beam as they stand in the file, with padding. A fault where the row is damaged.
    Result<std::vector<std::vector<double>>> row(std::size_t row) const;

  private:
    struct Rows;
    std::shared_ptr<const Rows> fetch(std::size_t first, std::size_t count) const;

    NcVariable variable_;
    std::size_t beams_ = 0;
    std::size_t together_first_ = 0, together_last_ = 0;
    mutable std::size_t at_once_ = 32;
    mutable std::shared_ptr<const Rows> kept_;
};

} // namespace heron
