#include "sharing/hybrid_clock.hpp"

#include <algorithm>
#include <charconv>
#include <fmt/format.h>

namespace heron {

std::string text_of(const Stamp &s) {
    return fmt::format("{}.{}.{}", s.milliseconds, s.count, s.screen);
}

std::optional<Stamp> stamp_of(std::string_view text) {
    constexpr std::size_t longest_screen = 60;
    constexpr std::int64_t lifetime_ms = 200LL * 366 * 24 * 3600 * 1000;
    Stamp s;
    const auto one = text.find('.');
    if (one == std::string_view::npos)
        return std::nullopt;
    const auto two = text.find('.', one + 1);
    if (two == std::string_view::npos || text.size() - two - 1 > longest_screen || two + 1 == text.size())
        return std::nullopt;
    const auto whole = [&](std::size_t from, std::size_t to, auto &into) {
        const auto [end, error] = std::from_chars(text.data() + from, text.data() + to, into);
        return error == std::errc() && end == text.data() + to;
    };
    if (!whole(0, one, s.milliseconds) || !whole(one + 1, two, s.count) || s.milliseconds < 0 ||
        s.milliseconds > lifetime_ms)
        return std::nullopt;
    s.screen = text.substr(two + 1);
    return s;
}

Stamp HybridClock::now(UnixNs wall) {
    const std::int64_t ms = wall / 1'000'000;
    if (ms > milliseconds_) {
        milliseconds_ = ms;
        count_ = 0;
    } else {
        ++count_;
    }
    return {milliseconds_, count_, screen_};
}

void HybridClock::seen(const Stamp &other, UnixNs wall) {
    const std::int64_t ms = wall / 1'000'000;
    if (other.milliseconds > ms + most_ahead_ms && ms > 0)
        return;
    if (other.milliseconds > milliseconds_) {
        milliseconds_ = other.milliseconds;
        count_ = other.count;
    } else if (other.milliseconds == milliseconds_) {
        count_ = std::max(count_, other.count);
    }
}

} // namespace heron
