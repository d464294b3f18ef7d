// Pings of a recording that cannot be read, while the others are.
#pragma once

#include "fault/fault.hpp"

#include <cstddef>
#include <string>
#include <vector>

namespace heron {

/// Counts them and keeps why the first was not read.
class DamagedPings {
  public:
    void add(Fault fault) {
        if (count_++ == 0)
            first_ = std::move(fault);
    }
    std::size_t count() const { return count_; }
    const Fault &first() const { return first_; } ///< once there is one
    /// For a recording of which no ping could be read.
    Fault as_refusal() const { return {first_.happened, "nothing was read", first_.to_do}; }
    /// A line about them, where there are any.
    void tell(std::vector<std::string> &warnings) const;

  private:
    std::size_t count_ = 0;
    Fault first_;
};

} // namespace heron
