#include "trip/nav_codec.hpp"

#include "sonar/ping_codec.hpp"
#include "sonar/within.hpp"

#include <limits>

namespace heron {
namespace {
constexpr std::uint8_t form = 1;
constexpr float none = std::numeric_limits<float>::quiet_NaN();
constexpr double most_depth_m = 2000, fastest_m_s = 100;

// What a receiver can tell; what it cannot is not kept, whoever wrote it.
bool plausible(const PositionSample &p) {
    return plausible_time(p.time) && within(p.place.latitude_deg, -90, 90) &&
           within(p.place.longitude_deg, -180, 180) && within(p.sd_m, 0, 1e5) &&
           within(p.speed_m_s, -1e3, fastest_m_s);
}
bool plausible(const AttitudeSample &a) {
    return plausible_time(a.time) && within(a.heading_deg, -720, 720) && within(a.pitch_deg, -180, 180) &&
           within(a.roll_deg, -180, 180);
}
} // namespace

std::vector<std::uint8_t> pack_nav(const NavTrack &nav) {
    ByteWriter w;
    w.put(form);
    w.put(static_cast<std::uint32_t>(nav.positions().size()));
    for (const auto &p : nav.positions()) {
        w.put(p.time);
        w.put(p.place.latitude_deg);
        w.put(p.place.longitude_deg);
        w.put_float(p.sd_m);
        w.put_float(p.speed_m_s);
        w.put(static_cast<std::uint8_t>(p.broken_before));
    }
    w.put(static_cast<std::uint32_t>(nav.attitudes().size()));
    for (const auto &a : nav.attitudes()) {
        w.put(a.time);
        w.put_float(a.heading_deg);
        w.put_float(a.pitch_deg);
        w.put_float(a.roll_deg);
        w.put(static_cast<std::uint8_t>(a.broken_before));
    }
    w.put(static_cast<std::uint32_t>(nav.depths().size()));
    for (const auto &d : nav.depths()) {
        w.put(d.time);
        w.put_float(d.below_transducer_m);
        w.put(d.to_waterline_m ? static_cast<float>(*d.to_waterline_m) : none);
    }
    w.put(static_cast<std::uint32_t>(nav.speeds().size()));
    for (const auto &s : nav.speeds()) {
        w.put(s.time);
        w.put_float(s.m_s);
    }
    return std::move(w.bytes);
}

bool unpack_nav(std::span<const std::uint8_t> bytes, NavSamples &into) {
    ByteReader r(bytes);
    if (r.get<std::uint8_t>() != form)
        return false;
    for (auto n = r.get<std::uint32_t>(); n > 0 && !r.too_short(); --n) {
        PositionSample p;
        p.time = r.get<UnixNs>();
        p.place.latitude_deg = r.get<double>();
        p.place.longitude_deg = r.get<double>();
        p.sd_m = r.get_float();
        p.speed_m_s = r.get_float();
        p.broken_before = r.get<std::uint8_t>() != 0;
        if (!r.too_short() && plausible(p))
            into.positions.push_back(p);
    }
    for (auto n = r.get<std::uint32_t>(); n > 0 && !r.too_short(); --n) {
        AttitudeSample a;
        a.time = r.get<UnixNs>();
        a.heading_deg = r.get_float();
        a.pitch_deg = r.get_float();
        a.roll_deg = r.get_float();
        a.broken_before = r.get<std::uint8_t>() != 0;
        if (!r.too_short() && plausible(a))
            into.attitudes.push_back(a);
    }
    for (auto n = r.get<std::uint32_t>(); n > 0 && !r.too_short(); --n) {
        DepthSample d;
        d.time = r.get<UnixNs>();
        d.below_transducer_m = r.get_float();
        if (const double line = r.get_float(); within(line, -most_depth_m, most_depth_m))
            d.to_waterline_m = line;
        if (!r.too_short() && plausible_time(d.time) && within(d.below_transducer_m, 0, most_depth_m))
            into.depths.push_back(d);
    }
    for (auto n = r.get<std::uint32_t>(); n > 0 && !r.too_short(); --n) {
        SpeedSample s;
        s.time = r.get<UnixNs>();
        s.m_s = r.get_float();
        if (!r.too_short() && plausible_time(s.time) && within(s.m_s, 0, fastest_m_s))
            into.speeds.push_back(s);
    }
    return !r.too_short();
}

bool unpack_nav(std::span<const std::uint8_t> bytes, NavTrack &into) {
    NavSamples samples;
    const bool whole = unpack_nav(bytes, samples);
    into.add(samples);
    return whole;
}

} // namespace heron
