#include "link/messages.hpp"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace heron {
namespace {

using nlohmann::json;

class Writer {
  public:
    template <class T>
    void put(T value) {
        const auto *p = reinterpret_cast<const std::uint8_t *>(&value);
        out.insert(out.end(), p, p + sizeof value);
    }
    void put_float(double value) { put(static_cast<float>(value)); }
    Bytes out;
};

class Reader {
  public:
    explicit Reader(std::span<const std::uint8_t> bytes) : bytes_(bytes) {}
    template <class T>
    T get() {
        T value{};
        if (bytes_.size() < sizeof value) {
            short_ = true;
            return value;
        }
        std::memcpy(&value, bytes_.data(), sizeof value);
        bytes_ = bytes_.subspan(sizeof value);
        return value;
    }
    double get_float() { return static_cast<double>(get<float>()); }
    std::span<const std::uint8_t> take(std::size_t n) {
        if (bytes_.size() < n) {
            short_ = true;
            return {};
        }
        const auto taken = bytes_.first(n);
        bytes_ = bytes_.subspan(n);
        return taken;
    }
    bool too_short() const { return short_; }
    bool at_end() const { return bytes_.empty(); }

  private:
    std::span<const std::uint8_t> bytes_;
    bool short_ = false;
};

Bytes bytes_of(const json &value) {
    const auto text = value.dump();
    return {text.begin(), text.end()};
}

tl::unexpected<Fault> bad_message(std::string_view what) {
    return fail(fmt::format("the sounder sent {}", what), "the message was left out",
                "if this goes on, restart the sounder");
}

json offset_json(const BodyOffset &o) {
    return json::array({o.forward_m, o.starboard_m, o.down_m});
}
BodyOffset offset_from(const json &j) {
    return {j.at(0).get<double>(), j.at(1).get<double>(), j.at(2).get<double>()};
}

// Whole, finite and in bounds: what of a ping is fit to reckon with.
bool plausible(const Ping &p) {
    const auto in = [](double v, double low, double high) { return v >= low && v <= high; };
    return in(p.sound_speed_m_s, 1000, 2000) && in(p.sample_interval_s, 1e-7, 1e-2) &&
           in(p.first_sample_s, 0, 1) && in(p.frequency_hz, 0, 1e8) && in(p.bandwidth_hz, 0, 1e8) &&
           in(p.pulse_s, 0, 1);
}

} // namespace

Bytes encode_hello(const SounderHello &hello) {
    return bytes_of({{"name", hello.name},
                     {"bands_hz", hello.bands_hz},
                     {"range_m", {hello.shortest_range_m, hello.longest_range_m}},
                     {"most_gain", hello.most_gain},
                     {"transducer", offset_json(hello.installation.transducer)},
                     {"antenna", offset_json(hello.installation.antenna)},
                     {"water_level", hello.installation.water_level_m}});
}

Result<SounderHello> decode_hello(std::span<const std::uint8_t> payload) {
    try {
        const auto j = json::parse(payload.begin(), payload.end());
        SounderHello hello;
        hello.name = j.at("name").get<std::string>();
        hello.bands_hz = j.at("bands_hz").get<std::vector<double>>();
        hello.shortest_range_m = j.at("range_m").at(0).get<double>();
        hello.longest_range_m = j.at("range_m").at(1).get<double>();
        hello.most_gain = j.at("most_gain").get<int>();
        hello.installation.transducer = offset_from(j.at("transducer"));
        hello.installation.antenna = offset_from(j.at("antenna"));
        hello.installation.water_level_m = j.at("water_level").get<double>();
        if (hello.bands_hz.empty() || hello.shortest_range_m <= 0 || hello.most_gain <= 0 ||
            hello.longest_range_m < hello.shortest_range_m)
            return bad_message("a greeting without bands, ranges or gain");
        return hello;
    } catch (const json::exception &) {
        return bad_message("a greeting that cannot be read");
    }
}

Bytes encode_ping(const WirePing &wire) {
    const auto &p = wire.ping;
    Writer w;
    w.put(wire.number);
    w.put(wire.monotonic_ns);
    w.put(p.time);
    w.put(p.sound_speed_m_s);
    w.put(p.sample_interval_s);
    w.put(p.first_sample_s);
    w.put(p.frequency_hz);
    w.put(p.bandwidth_hz);
    w.put(p.pulse_s);
    w.put_float(wire.settings.range_m);
    w.put_float(wire.settings.tvg_log);
    w.put(static_cast<std::int16_t>(wire.settings.gain));
    w.put(static_cast<std::uint16_t>(p.beams.size()));
    for (const auto &b : p.beams) {
        const bool wide = std::any_of(b.code.begin(), b.code.end(), [](auto c) { return c > 255; });
        w.put(static_cast<std::uint8_t>(b.side));
        w.put(static_cast<std::uint8_t>(wide ? 2 : 1));
        w.put(static_cast<std::uint16_t>(0));
        for (const double v : {b.azimuth_deg, b.depression_deg, b.width_along_deg, b.width_across_deg,
                               b.gain_db, b.scale.db_at_zero, b.scale.db_per_code})
            w.put_float(v);
        w.put(b.scale.clip_low);
        w.put(b.scale.clip_high);
        w.put(static_cast<std::uint32_t>(b.code.size()));
        for (const auto c : b.code) {
            if (wide)
                w.put(c);
            else
                w.put(static_cast<std::uint8_t>(c));
        }
    }
    return std::move(w.out);
}

Result<WirePing> decode_ping(std::span<const std::uint8_t> payload) {
    Reader r(payload);
    WirePing wire;
    auto &p = wire.ping;
    wire.number = r.get<std::uint64_t>();
    wire.monotonic_ns = r.get<std::int64_t>();
    p.time = r.get<UnixNs>();
    p.sound_speed_m_s = r.get<double>();
    p.sample_interval_s = r.get<double>();
    p.first_sample_s = r.get<double>();
    p.frequency_hz = r.get<double>();
    p.bandwidth_hz = r.get<double>();
    p.pulse_s = r.get<double>();
    wire.settings.frequency_hz = p.frequency_hz;
    wire.settings.range_m = r.get_float();
    wire.settings.tvg_log = r.get_float();
    wire.settings.gain = r.get<std::int16_t>();
    const auto beams = r.get<std::uint16_t>();
    if (r.too_short() || !plausible(p) || beams > 16)
        return bad_message("a ping that makes no sense");
    p.beams.resize(beams);
    for (auto &b : p.beams) {
        const auto side = r.get<std::uint8_t>();
        const auto width = r.get<std::uint8_t>();
        r.get<std::uint16_t>();
        for (double *v : {&b.azimuth_deg, &b.depression_deg, &b.width_along_deg, &b.width_across_deg,
                          &b.gain_db, &b.scale.db_at_zero, &b.scale.db_per_code})
            *v = r.get_float();
        b.scale.clip_low = r.get<int>();
        b.scale.clip_high = r.get<int>();
        const auto count = r.get<std::uint32_t>();
        if (r.too_short() || side > 3 || (width != 1 && width != 2) || count > largest_payload ||
            !std::isfinite(b.scale.db_at_zero) || !std::isfinite(b.scale.db_per_code) ||
            !std::isfinite(b.gain_db) || !std::isfinite(b.azimuth_deg) || !std::isfinite(b.depression_deg))
            return bad_message("a ping with a beam that makes no sense");
        b.side = static_cast<Side>(side);
        const auto data = r.take(std::size_t{count} * width);
        if (r.too_short())
            return bad_message("a ping that is cut short");
        b.code.resize(count);
        if (width == 1)
            std::copy(data.begin(), data.end(), b.code.begin());
        else if (count > 0)
            std::memcpy(b.code.data(), data.data(), data.size());
    }
    if (!r.at_end())
        return bad_message("a ping longer than it says");
    return wire;
}

Bytes encode_settings(const SoundingSettings &s) {
    return bytes_of({{"range_m", s.range_m},
                     {"frequency_hz", s.frequency_hz},
                     {"gain", s.gain},
                     {"tvg_log", s.tvg_log},
                     {"pinging", s.pinging}});
}

Result<SoundingSettings> decode_settings(std::span<const std::uint8_t> payload) {
    try {
        const auto j = json::parse(payload.begin(), payload.end());
        SoundingSettings s;
        s.range_m = j.at("range_m").get<double>();
        s.frequency_hz = j.at("frequency_hz").get<double>();
        s.gain = j.at("gain").get<int>();
        s.tvg_log = j.at("tvg_log").get<double>();
        s.pinging = j.at("pinging").get<bool>();
        if (!(s.range_m > 0 && s.range_m <= 500 && s.frequency_hz > 0 && s.gain >= 0 && s.tvg_log >= 0 &&
              s.tvg_log <= 60))
            return bad_message("settings out of range");
        return s;
    } catch (const json::exception &) {
        return bad_message("settings that cannot be read");
    }
}

} // namespace heron
