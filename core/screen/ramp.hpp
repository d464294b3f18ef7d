// Colours back to levels.
#pragma once

#include "screen/straighten.hpp"

#include <cstdint>
#include <optional>
#include <span>
#include <string>

namespace heron {

/// The colours of a picture in order of strength.
struct ColourRamp {
    std::vector<Rgb> colours; ///< from weak to strong
    bool rises = true;        ///< lightness rises all the way: the order is sure
    double spread = 0;        ///< how far the panel's colours lie off it, OKLab distance, the median
};

/// Estimates the ramp of a panel: its colours by lightness, the middling colour at each. Where colours of one
/// lightness differ more than noise and compression make them, it does not rise all the way, and `rises` is
/// false.
ColourRamp estimate_ramp(const Panel &panel);
/// A ramp as told: `rises` says whether lightness rises along it.
ColourRamp ramp_of(std::span<const Rgb> colours);

/// What is to be said of a ramp that does not rise all the way; nothing of one that does.
std::optional<std::string> doubt_of(const ColourRamp &ramp);

/// Levels 0…255 by the nearest place on the ramp, in OKLab, of colours at six bits each. A screen shows few
/// of them: each is worked out when it is first met, so one thread at a time.
class LevelOfColour {
  public:
    explicit LevelOfColour(const ColourRamp &ramp);
    std::uint8_t operator()(Rgb c) {
        auto &known =
            table_[static_cast<std::size_t>(c.red >> 2) << 12 | static_cast<std::size_t>(c.green >> 2) << 6 |
                   static_cast<std::size_t>(c.blue >> 2)];
        if (known == not_met)
            known = nearest(c);
        return static_cast<std::uint8_t>(known);
    }

  private:
    static constexpr std::int16_t not_met = -1;
    std::int16_t nearest(Rgb c) const;
    std::vector<OkLab> stops_;
    std::vector<std::int16_t> table_;
};

} // namespace heron
