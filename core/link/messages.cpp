#include "link/messages.hpp"

#include "files/json.hpp"
#include "files/json_in.hpp"
#include "geo/on_a_boat.hpp"
#include "sonar/ping_codec.hpp"
#include "sonar/within.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace heron {
namespace {

using nlohmann::json;

constexpr std::size_t longest_text = 64u << 10, longest_name = 200, most_bands = 32;
constexpr double longest_range_m = 500, highest_hz = 1e8;
constexpr int most_steps_of_gain = 1000;

json json_in(std::span<const std::uint8_t> payload) {
    return parse_json({reinterpret_cast<const char *>(payload.data()), payload.size()}, longest_text);
}

Bytes bytes_of(const json &value) {
    const auto text = value.dump();
    return {text.begin(), text.end()};
}

tl::unexpected<Fault> bad_message(std::string_view what) {
    return fail(told("the sounder sent {}", what), "the message was left out",
                "if this goes on, restart the sounder");
}

json offset_json(const BodyOffset &o) {
    return json::array({o.forward_m, o.starboard_m, o.down_m});
}
BodyOffset offset_from(const json &j) {
    return {j.at(0).get<double>(), j.at(1).get<double>(), j.at(2).get<double>()};
}

} // namespace

Bytes encode_hello(const SounderHello &hello) {
    json j{{"name", hello.name},
           {"bands_hz", hello.bands_hz},
           {"range_m", {hello.shortest_range_m, hello.longest_range_m}},
           {"most_gain", hello.most_gain},
           {"transducer", offset_json(hello.installation.transducer)},
           {"antenna", offset_json(hello.installation.antenna)},
           {"water_level", hello.installation.water_level_m}};
    if (hello.stream)
        j["stream"] = name_of(*hello.stream);
    if (!hello.takes_requests)
        j["takes_requests"] = false;
    if (hello.steers)
        j["steers"] = true;
    if (!hello.gear.empty())
        j["gear"] = json::parse(hello.gear, nullptr, false);
    return bytes_of(j);
}

Result<SounderHello> decode_hello(std::span<const std::uint8_t> payload) {
    try {
        const auto j = json_in(payload);
        SounderHello hello;
        hello.name = j.at("name").get<std::string>();
        hello.bands_hz = j.at("bands_hz").get<std::vector<double>>();
        hello.shortest_range_m = j.at("range_m").at(0).get<double>();
        hello.longest_range_m = j.at("range_m").at(1).get<double>();
        hello.most_gain = static_cast<int>(whole_in(j.at("most_gain"), 0, most_steps_of_gain));
        hello.installation.transducer = offset_from(j.at("transducer"));
        hello.installation.antenna = offset_from(j.at("antenna"));
        hello.installation.water_level_m = j.at("water_level").get<double>();
        if (j.contains("stream")) {
            hello.stream = stream_named(j.at("stream").get<std::string>());
            if (!hello.stream)
                return bad_message("a greeting of a kind of sonar that is not known");
        }
        if (j.contains("takes_requests"))
            hello.takes_requests = j.at("takes_requests").get<bool>();
        if (j.contains("steers"))
            hello.steers = j.at("steers").get<bool>();
        if (j.contains("gear"))
            hello.gear = j.at("gear").dump();
        const auto band = [](double hz) { return within(hz, 1, highest_hz); };
        if (hello.bands_hz.empty() || hello.bands_hz.size() > most_bands ||
            !std::all_of(hello.bands_hz.begin(), hello.bands_hz.end(), band) ||
            !(hello.shortest_range_m > 0) ||
            !within(hello.longest_range_m, hello.shortest_range_m, longest_range_m) ||
            !within(hello.most_gain, 1, 1000))
            return bad_message("a greeting without bands, ranges or gain");
        if (hello.name.size() > longest_name || !on_a_boat(hello.installation.transducer) ||
            !on_a_boat(hello.installation.antenna) || !on_a_boat(hello.installation.water_level_m))
            return bad_message("a greeting that makes no sense");
        return hello;
    } catch (const json::exception &) {
        return bad_message("a greeting that cannot be read");
    }
}

Bytes encode_ping(const WirePing &wire) {
    ByteWriter w;
    w.put(wire.number);
    w.put(wire.monotonic_ns);
    append_settings(w, wire.settings);
    append_ping(w, wire.ping);
    return std::move(w.bytes);
}

Result<WirePing> decode_ping(std::span<const std::uint8_t> payload) {
    ByteReader r(payload);
    WirePing wire;
    wire.number = r.get<std::uint64_t>();
    wire.monotonic_ns = r.get<std::int64_t>();
    wire.settings = read_settings(r);
    if (!within(wire.settings.range_m, 0, longest_range_m) || !within(wire.settings.tvg_log, 0, 60) ||
        !within(wire.settings.frequency_hz, 0, highest_hz) ||
        !within(static_cast<double>(wire.monotonic_ns), 0, 7e18))
        return bad_message("a ping that makes no sense");
    auto ping = read_ping(r);
    if (!ping)
        return bad_message("a ping that makes no sense or is cut short");
    if (!r.at_end())
        return bad_message("a ping longer than it says");
    wire.ping = std::move(*ping);
    wire.settings.frequency_hz = wire.ping.frequency_hz;
    return wire;
}

Bytes encode_settings(const SoundingSettings &s) {
    json j{{"range_m", s.range_m},
           {"frequency_hz", s.frequency_hz},
           {"gain", s.gain},
           {"tvg_log", s.tvg_log},
           {"pinging", s.pinging}};
    if (const auto &t = s.turning)
        j["turning"] = {{"step_deg", t->step_deg},
                        {"pace", t->pace},
                        {"from_deg", t->from_deg},
                        {"wide_deg", t->wide_deg}};
    return bytes_of(j);
}

Result<SoundingSettings> decode_settings(std::span<const std::uint8_t> payload) {
    try {
        const auto j = json_in(payload);
        SoundingSettings s;
        s.range_m = j.at("range_m").get<double>();
        s.frequency_hz = j.at("frequency_hz").get<double>();
        s.gain = static_cast<int>(whole_in(j.at("gain"), 0, most_steps_of_gain));
        s.tvg_log = j.at("tvg_log").get<double>();
        s.pinging = j.at("pinging").get<bool>();
        if (!(s.range_m > 0 && s.range_m <= longest_range_m && within(s.frequency_hz, 1, highest_hz) &&
              within(s.gain, 0, 1000) && within(s.tvg_log, 0, 60)))
            return bad_message("settings out of range");
        if (j.contains("turning")) {
            const auto &turning = j.at("turning");
            Turning t;
            t.step_deg = turning.at("step_deg").get<double>();
            t.pace = static_cast<int>(whole_in(turning.at("pace"), 1, 5));
            t.from_deg = turning.at("from_deg").get<double>();
            t.wide_deg = turning.at("wide_deg").get<double>();
            if (!within(t.step_deg, 0.05, 45) || !within(t.pace, 1, 5) || !within(t.from_deg, -360, 360) ||
                !within(t.wide_deg, 1, 360))
                return bad_message("a way of turning that is out of range");
            s.turning = t;
        }
        return s;
    } catch (const json::exception &) {
        return bad_message("settings that cannot be read");
    }
}

Bytes encode_helm(Helm helm) {
    return bytes_of({{"helm", helm == Helm::hold ? "hold" : "route"}});
}

std::optional<Helm> decode_helm(std::span<const std::uint8_t> payload) {
    try {
        const auto word = json_in(payload).at("helm").get<std::string>();
        return word == "hold"    ? std::optional(Helm::hold)
               : word == "route" ? std::optional(Helm::route)
                                 : std::nullopt;
    } catch (const json::exception &) {
        return std::nullopt;
    }
}

} // namespace heron
