#include "trip/nav_codec.hpp"

#include "sonar/ping_codec.hpp"

#include <limits>

namespace heron {
namespace {
constexpr std::uint8_t form = 1;
constexpr float none = std::numeric_limits<float>::quiet_NaN();
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

bool unpack_nav(std::span<const std::uint8_t> bytes, NavTrack &into) {
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
        if (!r.too_short())
            into.add(p);
    }
    for (auto n = r.get<std::uint32_t>(); n > 0 && !r.too_short(); --n) {
        AttitudeSample a;
        a.time = r.get<UnixNs>();
        a.heading_deg = r.get_float();
        a.pitch_deg = r.get_float();
        a.roll_deg = r.get_float();
        a.broken_before = r.get<std::uint8_t>() != 0;
        if (!r.too_short())
            into.add(a);
    }
    for (auto n = r.get<std::uint32_t>(); n > 0 && !r.too_short(); --n) {
        DepthSample d;
        d.time = r.get<UnixNs>();
        d.below_transducer_m = r.get_float();
        if (const double line = r.get_float(); line == line)
            d.to_waterline_m = line;
        if (!r.too_short())
            into.add(d);
    }
    for (auto n = r.get<std::uint32_t>(); n > 0 && !r.too_short(); --n) {
        const auto time = r.get<UnixNs>();
        const double v = r.get_float();
        if (!r.too_short())
            into.add_speed(time, v);
    }
    return !r.too_short();
}

} // namespace heron
