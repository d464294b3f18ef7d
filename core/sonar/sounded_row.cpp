#include "sonar/sounded_row.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

namespace heron {

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
