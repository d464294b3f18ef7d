#include "picture/overview.hpp"

#include <algorithm>
#include <cmath>

namespace heron {

void Overview::add(const Ping &row) {
    constexpr std::size_t half = 32;
    const double range = row.range_m();
    for (const auto &b : row.beams) {
        if (b.side != Side::port && b.side != Side::starboard)
            continue;
        const auto n = b.code.size();
        if (n == 0 || range <= 0)
            continue;
        for (std::size_t c = 0; c < half; ++c) {
            // Every fourth sample tells enough at this size.
            const auto from = c * n / half, to = std::max(from + 1, (c + 1) * n / half);
            float sum = 0;
            int heard = 0;
            for (auto k = from; k < to; k += 4) {
                if (b.code[k] == missing_code)
                    continue;
                sum += static_cast<float>(b.scale.db(b.code[k]) - b.gain_db);
                ++heard;
            }
            if (heard == 0)
                continue;
            const auto at = b.side == Side::port ? half - 1 - c : half + c;
            sum_[at] += sum / static_cast<float>(heard);
            ++heard_[at];
        }
    }
    if (++rows_ < rows_an_overview_line)
        return;
    OverviewLine line{};
    for (std::size_t i = 0; i < line.size(); ++i)
        if (heard_[i] > 0)
            line[i] = static_cast<std::uint8_t>(std::clamp(
                std::lround(sum_[i] / static_cast<float>(heard_[i]) - static_cast<float>(overview_zero_db)),
                1L, 255L));
    sum_.fill(0);
    heard_.fill(0);
    rows_ = 0;
    levels_[0].push_back(line);
    grow(0);
}

void Overview::grow(std::size_t level) {
    const auto &fine = levels_[level];
    if (level + 1 >= levels || fine.size() % 4 != 0)
        return;
    OverviewLine line{};
    for (std::size_t i = 0; i < line.size(); ++i) {
        int sum = 0, heard = 0;
        for (auto k = fine.size() - 4; k < fine.size(); ++k)
            if (fine[k][i] > 0)
                sum += fine[k][i], ++heard;
        if (heard > 0)
            line[i] = static_cast<std::uint8_t>(sum / heard);
    }
    levels_[level + 1].push_back(line);
    grow(level + 1);
}

void Overview::add_lines(std::span<const OverviewLine> lines) {
    for (const auto &l : lines) {
        levels_[0].push_back(l);
        grow(0);
    }
}

void Overview::clear() {
    *this = Overview();
}

std::size_t Overview::level_for(std::size_t most) const {
    for (std::size_t level = 0; level < levels; ++level)
        if (levels_[level].size() <= most)
            return level;
    return levels - 1;
}

} // namespace heron
