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
    /// nothing but zeros (what a writer that died leaves behind), nothing below the top of the scale, the
    /// same samples ping after ping, a range of centimetres.
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
    Gap none_, zero_, full_, same_;
    std::vector<std::vector<std::uint16_t>> before_; ///< codes of the ping before, beam by beam
    std::size_t alike_ = 0;                          ///< pings on end that are the same as the one before
    double farthest_m_ = 0;
    struct OneSide {
        std::size_t heard = 0;
        Gap missing;
    };
    std::map<Side, OneSide> sides_;
};

} // namespace heron
