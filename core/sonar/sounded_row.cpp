#include "sonar/sounded_row.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

namespace heron {

std::size_t bytes_of(const Ping &ping) {
    std::size_t n = sizeof(Ping);
    for (const auto &b : ping.beams)
        n += sizeof(Beam) + b.code.capacity() * sizeof(b.code[0]);
    return n;
}
std::size_t bytes_of(const SoundedRow &row) {
    return bytes_of(row.ping) + (row.down ? bytes_of(*row.down) : 0) + sizeof(SoundedRow);
}

std::optional<SoundedRow> RowAssembler::take(Ping ping, const SoundingSettings &settings) {
    const bool aside =
        std::any_of(ping.beams.begin(), ping.beams.end(), [](const Beam &b) { return b.side != Side::down; });
    looks_aside_ = looks_aside_ || aside;
    if (!aside && looks_aside_) {
        waiting_ = std::move(ping);
        return std::nullopt;
    }
    SoundedRow row;
    if (waiting_ && std::fabs(seconds_between(waiting_->time, ping.time)) <= longest_wait_s)
        row.down = std::move(waiting_);
    waiting_.reset();
    row.ping = std::move(ping);
    row.settings = settings;
    return row;
}

} // namespace heron
