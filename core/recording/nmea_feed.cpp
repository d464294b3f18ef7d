#include "recording/nmea_feed.hpp"

#include <algorithm>

namespace heron {

void NmeaFeed::take(std::string_view line, UnixNs host_time, NavTrack &track) {
    UnixNs time = host_time;
    const auto before = decoder_.receiver_time();
    if (before)
        time = *before + std::clamp<std::int64_t>(host_time - epoch_heard_, 0, ns_per_s);
    NavTrack fresh;
    decoder_.take(line, time, fresh);
    for (const auto &p : fresh.positions())
        guard_.take(p, track);
    for (const auto &a : fresh.attitudes())
        guard_.take(a, track);
    for (const auto &d : fresh.depths())
        track.add(d);
    for (const auto &s : fresh.speeds())
        track.add_speed(s.time, s.m_s);
    if (decoder_.receiver_time() != before)
        epoch_heard_ = host_time;
}

} // namespace heron
