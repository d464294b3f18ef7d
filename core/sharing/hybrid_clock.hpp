// Time that orders edits on several screens, whatever their clocks say.
#pragma once

#include "sonar/instant.hpp"

#include <compare>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace heron {

/// A hybrid logical clock's reading: milliseconds as far as any screen has come, a count among those alike,
/// and the screen that made it. S. S. Kulkarni, M. Demirbas, D. Madappa, B. Avva, M. Leone (2014), "Logical
/// Physical Clocks", OPODIS 2014, LNCS 8878.
struct Stamp {
    std::int64_t milliseconds = 0;
    std::uint32_t count = 0;
    std::string screen;
    auto operator<=>(const Stamp &) const = default; // NOLINT(modernize-use-nullptr): its own zero
};
/// "1800000000000.3.bow" and back; nothing for other text, or a time more than a lifetime from 1970.
std::string text_of(const Stamp &stamp);
std::optional<Stamp> stamp_of(std::string_view text);

class HybridClock {
  public:
    explicit HybridClock(std::string screen) : screen_(std::move(screen)) {}
    /// For an edit made here now.
    Stamp now(UnixNs wall);
    /// Another screen's stamp was seen: what is made here from now on comes after it. A stamp from farther
    /// ahead than `most_ahead_ms` does not pull the clock along (nothing lawful is so far off); the edit
    /// still stands.
    void seen(const Stamp &other, UnixNs wall);
    static constexpr std::int64_t most_ahead_ms = 400LL * 24 * 3600 * 1000;
    const std::string &screen() const { return screen_; }

  private:
    std::string screen_;
    std::int64_t milliseconds_ = 0;
    std::uint32_t count_ = 0;
};

} // namespace heron
