#include "picture/track_lines.hpp"

#include <algorithm>

namespace heron {

// The first row whose line is `line` or later.
std::size_t TrackLines::first_at_or_after(const Scan &scan, std::int64_t line) const {
    auto low = scan.first(), high = scan.end();
    while (low < high) {
        const auto middle = low + (high - low) / 2;
        if (line_of(scan, middle) < line)
            low = middle + 1;
        else
            high = middle;
    }
    return low;
}

std::pair<std::size_t, std::size_t> TrackLines::rows_of(const Scan &scan, std::int64_t line) const {
    if (scan.empty() || line > line_of(scan, scan.end() - 1))
        return {scan.end(), scan.end()};
    if (along_ == Along::pings) {
        const auto row = static_cast<std::size_t>(std::max<std::int64_t>(line, 0));
        return {row, row + 1};
    }
    const auto from = first_at_or_after(scan, line), to = first_at_or_after(scan, line + 1);
    if (from < to)
        return {from, to};
    // No row begins here: the one before reaches over it.
    const auto held = from > scan.first() ? from - 1 : from;
    return {held, held + 1};
}

bool TrackLines::on_time(const Scan &scan, std::int64_t line) const {
    const auto [from, to] = rows_of(scan, line);
    if (from >= scan.end())
        return false;
    const auto v = scan.facts(from).speed_m_s;
    return !(v >= static_cast<float>(standing_m_s));
}

} // namespace heron
