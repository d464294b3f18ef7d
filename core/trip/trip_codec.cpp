#include "trip/trip_codec.hpp"
#include "files/json.hpp"
#include "files/json_in.hpp"
#include "geo/on_a_boat.hpp"

#include <charconv>
#include <cmath>
#include <fmt/format.h>

namespace heron::trip_codec {

using nlohmann::json;

namespace {

double held(const json &metres) {
    const double v = metres.get<double>();
    return on_a_boat(v) ? v : 0;
}

} // namespace

std::string text_of(const Installation &i) {
    const auto offset = [](const BodyOffset &o) {
        return json::array({o.forward_m, o.starboard_m, o.down_m});
    };
    return json{{"transducer", offset(i.transducer)},
                {"antenna", offset(i.antenna)},
                {"water_level", i.water_level_m},
                {"positions_late_s", i.positions_late_s}}
        .dump();
}
Installation installation_in(const std::string &text) {
    Installation i;
    try {
        const auto j = parse_json(text);
        const auto offset = [&](const char *key) {
            const auto &o = j.at(key);
            return BodyOffset{held(o.at(0)), held(o.at(1)), held(o.at(2))};
        };
        i.transducer = offset("transducer");
        i.antenna = offset("antenna");
        i.water_level_m = held(j.at("water_level"));
        const double late_s = j.value("positions_late_s", 0.0);
        if (std::fabs(late_s) <= Installation::most_late_s)
            i.positions_late_s = late_s;
    } catch (const json::exception &) {
        return {};
    }
    return i;
}

void append_row(ByteWriter &w, const SoundedRow &row) {
    w.put(static_cast<std::uint8_t>(row.down.has_value()));
    append_settings(w, row.settings);
    append_ping(w, row.ping);
    if (row.down)
        append_ping(w, *row.down);
}
std::optional<SoundedRow> read_row(ByteReader &r) {
    SoundedRow row;
    const bool down = r.get<std::uint8_t>() != 0;
    row.settings = read_settings(r);
    auto ping = read_ping(r);
    if (!ping)
        return std::nullopt;
    row.ping = std::move(*ping);
    if (down)
        row.down = read_ping(r);
    return row;
}

UnixNs whole_in(const std::string &text) {
    UnixNs v = 0;
    std::from_chars(text.data(), text.data() + text.size(), v);
    return v;
}

std::int64_t number_of(StreamId stream) {
    return static_cast<std::int64_t>(stream);
}

std::int64_t number_of(const Database &db, const char *sql, StreamId stream) {
    auto s = db.prepare(sql);
    return s.ready() && s.bind(1, number_of(stream)).next() ? s.whole(0) : 0;
}

std::string installation_key(StreamId stream) {
    return stream == StreamId::side ? "installation" : fmt::format("installation_{}", name_of(stream));
}

} // namespace heron::trip_codec
