// Whether the samples of a recording are there: what is missing, and from where to where, in words.
#pragma once

#include "sonar/ping.hpp"

#include <cstddef>
#include <map>
#include <string>
#include <vector>

namespace heron {

/// Looks at pings one after the other, in their order.
class SampleCheck {
  public:
    void add(std::size_t number, const Ping &ping);
    /// One line for each sort of gap: no samples at all, a side that falls silent while others are heard,
    /// nothing but zeros (what a writer that died leaves behind).
    std::vector<std::string> warnings() const;
    std::size_t looked_at() const { return looked_at_; }
    bool nothing_heard() const { return looked_at_ > 0 && none_.count == looked_at_; }

  private:
    struct Gap {
        std::size_t count = 0, first = 0, last = 0;
        void add(std::size_t number) {
            first = count == 0 ? number : first;
            last = number;
            ++count;
        }
    };
    std::string span(const Gap &gap) const;
    std::size_t looked_at_ = 0;
    Gap none_, zero_;
    struct OneSide {
        std::size_t heard = 0;
        Gap missing;
    };
    std::map<Side, OneSide> sides_;
};

} // namespace heron
