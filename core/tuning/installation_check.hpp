// A guided minute past a dock or a bank on a known side: is the transducer's left the boat's left, are both
// sides equally bright, does it hang level?
#pragma once

#include "picture/scan.hpp"

#include <string>

namespace heron {

class InstallationCheck {
  public:
    /// `known`: the side on which the dock or bank truly is.
    explicit InstallationCheck(Side known) : known_(known) {}
    void add(const Scan &scan, std::size_t row);
    double seconds() const { return seconds_; }
    bool enough() const { return seconds_ >= 45 && rows_ >= 200; }

    struct Verdict {
        enum class Sides { right, swapped, unsure } sides = Sides::unsure;
        double left_over_right_db = 0; ///< at equal angles
        double tilt_deg = 0;           ///< about the boat's length, left side down positive; rough
        bool tilted = false, uneven = false;
        std::string say() const; ///< in sentences
    };
    Verdict verdict() const;

  private:
    Side known_;
    std::size_t rows_ = 0;
    double seconds_ = 0;
    UnixNs last_ = 0;
    double wall_[2] = {0, 0}; // how much stands up on each side: port, starboard
    static constexpr int angles = 12;
    double sum_[2][angles] = {}, n_[2][angles] = {};
};

} // namespace heron
