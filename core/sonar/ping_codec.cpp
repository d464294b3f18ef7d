#include "sonar/ping_codec.hpp"

#include "sonar/within.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

constexpr std::size_t most_beams = 16;
constexpr std::uint32_t most_samples = 4u << 20;

// Whole, finite and in bounds: what of a ping is fit to compute with.
bool plausible(const Ping &p) {
    return within(p.sound_speed_m_s, 300, 3000) && within(p.sample_interval_s, 1e-9, 1) &&
           within(p.first_sample_s, -1, 10) && within(p.frequency_hz, 0, 1e8) &&
           (p.bandwidth_hz == 0 || within(p.bandwidth_hz, 1, 1e8)) && within(p.pulse_s, 0, 1) &&
           plausible_time(p.time);
}
bool ends_in_reach(const Ping &p, std::uint32_t samples) {
    return p.slant_m(static_cast<double>(samples)) <= most_slant_m;
}
bool plausible(const Beam &b) {
    for (const double v : {b.azimuth_deg, b.depression_deg, b.width_along_deg, b.width_across_deg, b.gain_db,
                           b.scale.db_at_zero, b.scale.db_per_code})
        if (!std::isfinite(v))
            return false;
    return true;
}

} // namespace

void append_ping(ByteWriter &out, const Ping &p) {
    out.put(p.time);
    for (const double v : {p.sound_speed_m_s, p.sample_interval_s, p.first_sample_s, p.frequency_hz,
                           p.bandwidth_hz, p.pulse_s})
        out.put(v);
    out.put(static_cast<std::uint8_t>(p.place_unknown));
    out.put(static_cast<std::uint8_t>(p.beams.size()));
    for (const auto &b : p.beams) {
        const bool wide = std::any_of(b.code.begin(), b.code.end(), [](auto c) { return c > 255; });
        out.put(static_cast<std::uint8_t>(b.side));
        out.put(static_cast<std::uint8_t>(wide ? 2 : 1));
        for (const double v : {b.azimuth_deg, b.depression_deg, b.width_along_deg, b.width_across_deg,
                               b.gain_db, b.scale.db_at_zero, b.scale.db_per_code})
            out.put_float(v);
        out.put(b.scale.clip_low);
        out.put(b.scale.clip_high);
        out.put(static_cast<std::uint32_t>(b.code.size()));
        const auto at = out.bytes.size();
        out.bytes.resize(at + b.code.size() * (wide ? 2 : 1));
        if (wide)
            std::memcpy(out.bytes.data() + at, b.code.data(), b.code.size() * 2);
        else
            std::transform(b.code.begin(), b.code.end(), out.bytes.begin() + static_cast<std::ptrdiff_t>(at),
                           [](std::uint16_t c) { return static_cast<std::uint8_t>(c); });
    }
}

std::optional<Ping> read_ping(ByteReader &r) {
    Ping p;
    p.time = r.get<UnixNs>();
    for (double *v : {&p.sound_speed_m_s, &p.sample_interval_s, &p.first_sample_s, &p.frequency_hz,
                      &p.bandwidth_hz, &p.pulse_s})
        *v = r.get<double>();
    p.place_unknown = r.get<std::uint8_t>() != 0;
    const auto beams = r.get<std::uint8_t>();
    if (r.too_short() || !plausible(p) || beams > most_beams)
        return std::nullopt;
    p.beams.resize(beams);
    for (auto &b : p.beams) {
        const auto side = r.get<std::uint8_t>();
        const auto width = r.get<std::uint8_t>();
        for (double *v : {&b.azimuth_deg, &b.depression_deg, &b.width_along_deg, &b.width_across_deg,
                          &b.gain_db, &b.scale.db_at_zero, &b.scale.db_per_code})
            *v = r.get_float();
        b.scale.clip_low = r.get<int>();
        b.scale.clip_high = r.get<int>();
        const auto count = r.get<std::uint32_t>();
        if (r.too_short() || side > 3 || (width != 1 && width != 2) || count > most_samples ||
            !plausible(b) || !ends_in_reach(p, count))
            return std::nullopt;
        b.side = static_cast<Side>(side);
        const auto data = r.take(std::size_t{count} * width);
        if (r.too_short())
            return std::nullopt;
        b.code.resize(count);
        if (width == 1)
            std::copy(data.begin(), data.end(), b.code.begin());
        else if (count > 0)
            std::memcpy(b.code.data(), data.data(), data.size());
    }
    return p;
}

void append_settings(ByteWriter &out, const SoundingSettings &s) {
    out.put_float(s.range_m);
    out.put_float(s.frequency_hz);
    out.put_float(s.tvg_log);
    out.put(static_cast<std::int16_t>(s.gain));
    out.put(static_cast<std::uint8_t>(s.pinging));
}

SoundingSettings read_settings(ByteReader &bytes) {
    SoundingSettings s;
    s.range_m = bytes.get_float();
    s.frequency_hz = bytes.get_float();
    s.tvg_log = bytes.get_float();
    s.gain = bytes.get<std::int16_t>();
    s.pinging = bytes.get<std::uint8_t>() != 0;
    return s;
}

SoundingSettings held(SoundingSettings s) {
    if (!within(s.range_m, 0, most_slant_m))
        s.range_m = 0;
    if (!within(s.frequency_hz, 0, 1e8))
        s.frequency_hz = 0;
    if (!within(s.tvg_log, 0, 60))
        s.tvg_log = 0;
    return s;
}

} // namespace heron
