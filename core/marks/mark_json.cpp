#include "marks/mark_json.hpp"

#include "files/json.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <stdexcept>

namespace heron {
namespace {

using nlohmann::json;

// Names the field; caught at the edge of this file.
struct Bad : std::runtime_error {
    using std::runtime_error::runtime_error;
};

void put(json &j, const char *name, const std::string &text) {
    if (!text.empty())
        j[name] = text;
}
void put(json &j, const char *name, double v) {
    if (v != 0 && std::isfinite(v))
        j[name] = v;
}
void put(json &j, const char *name, const std::optional<double> &v) {
    if (v && std::isfinite(*v))
        j[name] = *v;
}
void put(json &j, const std::string &name, const std::optional<Estimate> &e) {
    if (e && std::isfinite(e->value)) {
        j[name + "_m"] = e->value;
        j[name + "_sd_m"] = std::isfinite(e->sd) ? e->sd : 0;
    }
}

std::string text(const json &j, const char *name, std::size_t most) {
    const auto at = j.find(name);
    if (at == j.end() || at->is_null())
        return {};
    if (!at->is_string())
        throw Bad(told("'{}' is no text", name));
    auto s = at->get<std::string>();
    if (s.size() > most)
        throw Bad(told("'{}' is longer than {} bytes", name, most));
    return s;
}
std::optional<double> figure(const json &j, const std::string &name, double low, double high) {
    const auto at = j.find(name);
    if (at == j.end() || at->is_null())
        return std::nullopt;
    if (!at->is_number())
        throw Bad(told("'{}' is no figure", name));
    const double v = at->get<double>();
    if (!(v >= low && v <= high))
        throw Bad(told("'{}' is {}, not between {} and {}", name, v, low, high));
    return v;
}
std::optional<Estimate> estimate(const json &j, const std::string &name, double low, double high) {
    const auto v = figure(j, name + "_m", low, high);
    if (!v)
        return std::nullopt;
    return Estimate{*v, figure(j, name + "_sd_m", 0, 1e5).value_or(0)};
}
bool yes(const json &j, const char *name) {
    const auto at = j.find(name);
    return at != j.end() && at->is_boolean() && at->get<bool>();
}
UnixNs instant(const json &j, const char *name) {
    const auto s = text(j, name, 60);
    if (s.empty())
        return 0;
    const auto t = parse_rfc3339(s);
    if (!t)
        throw Bad(told("'{}' is no time", name));
    return *t;
}
const json &list(const json &j, const char *name, std::size_t most) {
    static const json none = json::array();
    const auto at = j.find(name);
    if (at == j.end() || at->is_null())
        return none;
    if (!at->is_array())
        throw Bad(told("'{}' is no list", name));
    if (at->size() > most)
        throw Bad(told("'{}' holds more than {}", name, most));
    return *at;
}

void put_look(json &j, const Sighting &s) {
    if (s.time != 0)
        j["time"] = print_rfc3339(s.time, 9);
    if (s.place) {
        j["latitude_deg"] = s.place->latitude_deg;
        j["longitude_deg"] = s.place->longitude_deg;
    }
    put(j, "east_east_m2", s.place_covariance.east_east);
    put(j, "east_north_m2", s.place_covariance.east_north);
    put(j, "north_north_m2", s.place_covariance.north_north);
    if (s.family != Family::unsure)
        j["family"] = name_of(s.family);
    if (s.kind != Kind::none)
        j["kind"] = name_of(s.kind);
    put(j, "side", s.side);
    put(j, "slant_m", s.slant_m);
    put(j, "ground_m", s.ground_m);
    put(j, "seen_from_deg", s.seen_from_deg);
    put(j, "depth", s.depth_m);
    put(j, "height", s.height_m);
    if (s.height_at_least)
        j["height_at_least"] = true;
    put(j, "range_setting_m", s.range_setting_m);
    put(j, "frequency_hz", s.frequency_hz);
    put(j, "gain", static_cast<double>(s.gain));
    put(j, "source", s.source);
    put(j, "by", s.by);
}

void put_chip(json &j, const KeptChip &chip) {
    if (!chip.empty())
        j["chip"] = base64_of(pack_chip(*chip.look()));
}

Chip chip_in(const json &j) {
    const auto packed = text(j, "chip", MarkBounds::chip * 4 / 3 + 8);
    if (packed.empty())
        return {};
    const auto bytes = bytes_of_base64(packed);
    const auto chip = bytes ? unpack_chip(*bytes) : std::nullopt;
    if (!chip)
        throw Bad(told("'chip' is no picture"));
    return *chip;
}

// Places, settings and measures are told alike in a mark and in each of its sightings.
Sighting read_look(const json &j) {
    Sighting s;
    s.time = instant(j, "time");
    const auto lat = figure(j, "latitude_deg", -90, 90), lon = figure(j, "longitude_deg", -180, 180);
    if (lat && lon)
        s.place = GeoPoint{*lat, *lon};
    s.place_covariance = {figure(j, "east_east_m2", 0, 1e12).value_or(0),
                          figure(j, "east_north_m2", -1e12, 1e12).value_or(0),
                          figure(j, "north_north_m2", 0, 1e12).value_or(0)};
    s.family = family_named(text(j, "family", 40)).value_or(Family::unsure);
    s.kind = kind_named(text(j, "kind", 40)).value_or(Kind::none);
    s.side = text(j, "side", 40);
    s.slant_m = figure(j, "slant_m", 0, 1e5).value_or(0);
    s.ground_m = figure(j, "ground_m", 0, 1e5).value_or(0);
    s.seen_from_deg = figure(j, "seen_from_deg", 0, 360);
    s.depth_m = estimate(j, "depth", -1000, 12'000);
    s.height_m = estimate(j, "height", -1000, 1000);
    s.height_at_least = yes(j, "height_at_least");
    s.range_setting_m = figure(j, "range_setting_m", 0, 1e5).value_or(0);
    s.frequency_hz = figure(j, "frequency_hz", 0, 1e9).value_or(0);
    s.gain = static_cast<int>(figure(j, "gain", -1000, 1000).value_or(0));
    s.source = text(j, "source", MarkBounds::short_text);
    s.by = text(j, "by", MarkBounds::short_text);
    return s;
}

template <class T, class Read>
Result<T> read(const json &j, const Read &body) {
    if (!j.is_object())
        return fail(told("this is no mark: no object of fields"), told("it was not taken"), told(""));
    try {
        return body();
    } catch (const Bad &bad) {
        return fail(told("this is no lawful mark: {}", bad.what()), told("it was not taken"), told(""));
    } catch (const json::exception &bad) {
        return fail(told("this is no lawful mark: {}", bad.what()), told("it was not taken"), told(""));
    }
}

void trim(std::string &s, std::size_t most, bool lines = false) {
    std::erase_if(s, [lines](char c) {
        const auto u = static_cast<unsigned char>(c);
        return u < 0x20 && !(lines && (c == '\n' || c == '\t'));
    });
    if (s.size() <= most)
        return;
    s.resize(most);
    // Not in the midst of a letter of several bytes.
    while (!s.empty() && (static_cast<unsigned char>(s.back()) & 0xC0) == 0x80)
        s.pop_back();
    if (!s.empty() && static_cast<unsigned char>(s.back()) >= 0xC0)
        s.pop_back();
}

double within(double v, double low, double high) {
    return std::isfinite(v) ? std::clamp(v, low, high) : 0;
}

void hold(std::optional<Estimate> &e, double low, double high) {
    if (e && !std::isfinite(e->value))
        e.reset();
    if (e)
        *e = {std::clamp(e->value, low, high), within(e->sd, 0, 1e5)};
}

} // namespace

std::string base64_of(const std::vector<std::uint8_t> &bytes) {
    static constexpr std::string_view letters =
        "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::string out;
    out.reserve(bytes.size() * 4 / 3 + 4);
    for (std::size_t i = 0; i < bytes.size(); i += 3) {
        const auto n = std::min<std::size_t>(3, bytes.size() - i);
        std::uint32_t v = 0;
        for (std::size_t k = 0; k < 3; ++k)
            v = v << 8 | (k < n ? bytes[i + k] : 0U);
        for (std::size_t k = 0; k < 4; ++k)
            out += k <= n ? letters[v >> (18 - 6 * k) & 63U] : '=';
    }
    return out;
}

std::optional<std::vector<std::uint8_t>> bytes_of_base64(std::string_view text) {
    static const auto values = [] {
        std::array<int, 256> v{};
        v.fill(-1);
        static constexpr std::string_view letters =
            "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
        for (std::size_t i = 0; i < letters.size(); ++i)
            v[static_cast<unsigned char>(letters[i])] = static_cast<int>(i);
        return v;
    }();
    if (text.size() % 4 != 0)
        return std::nullopt;
    std::vector<std::uint8_t> out;
    out.reserve(text.size() / 4 * 3);
    for (std::size_t i = 0; i < text.size(); i += 4) {
        std::uint32_t v = 0;
        int pads = 0;
        for (std::size_t k = 0; k < 4; ++k) {
            const char c = text[i + k];
            const bool last = i + 4 == text.size();
            if (c == '=' && last && k >= 2) {
                ++pads;
                v <<= 6;
                continue;
            }
            const int value = values[static_cast<unsigned char>(c)];
            if (value < 0 || pads > 0)
                return std::nullopt;
            v = v << 6 | static_cast<std::uint32_t>(value);
        }
        for (int k = 0; k < 3 - pads; ++k)
            out.push_back(static_cast<std::uint8_t>(v >> (16 - 8 * k)));
    }
    return out;
}

json json_of(const Sighting &s, bool chip) {
    json j = json::object();
    put_look(j, s);
    if (!s.reasons.empty())
        j["reasons"] = s.reasons;
    if (chip)
        put_chip(j, s.chip);
    return j;
}

json json_of(const Outcome &o) {
    json j{{"what", name_of(o.what)}};
    if (o.time != 0)
        j["time"] = print_rfc3339(o.time, 9);
    put(j, "species", o.species);
    put(j, "length_m", o.length_m);
    if (o.released)
        j["released"] = true;
    put(j, "out_of_water_s", o.out_of_water_s);
    put(j, "note", o.note);
    put(j, "by", o.by);
    return j;
}

json json_of(const Mark &m, bool chips) {
    json j{{"id", m.id}};
    put_look(j, sighting_of(m));
    put(j, "name", m.name);
    put(j, "note", m.note);
    put(j, "place_remark", m.place_remark);
    put(j, "foreign_gpx", m.foreign_gpx);
    put(j, "lake", m.lake);
    put(j, "bottom", m.bottom);
    put(j, "length_m", m.length_m);
    put(j, "lake_level_m", m.lake_level_m);
    if (!m.tags.empty())
        j["tags"] = m.tags;
    if (!m.shape.empty()) {
        auto shape = json::array();
        for (const auto &p : m.shape)
            shape.push_back({p.east_m, p.north_m});
        j["shape_m"] = shape;
        j["closed"] = m.closed;
    }
    if (m.confirmed != Confirmed::no)
        j["confirmed"] = name_of(m.confirmed);
    if (m.turned_out != Kind::none)
        j["turned_out"] = name_of(m.turned_out);
    j["level"] = name_of(m.level);
    for (const auto &[field, level] : m.field_levels)
        j["field_levels"][std::string(name_of(field))] = name_of(level);
    for (const auto &s : m.sightings)
        j["sightings"].push_back(json_of(s, chips));
    for (const auto &o : m.outcomes)
        j["outcomes"].push_back(json_of(o));
    if (chips)
        put_chip(j, m.chip);
    return j;
}

Result<Sighting> sighting_of_json(const json &j) {
    return read<Sighting>(j, [&] {
        auto s = read_look(j);
        for (const auto &r : list(j, "reasons", MarkBounds::reasons)) {
            if (!r.is_string() || r.get_ref<const std::string &>().size() > MarkBounds::short_text)
                throw Bad(told("a reason is no short text"));
            s.reasons.push_back(r.get<std::string>());
        }
        s.chip = chip_in(j);
        return s;
    });
}

Result<Outcome> outcome_of_json(const json &j) {
    return read<Outcome>(j, [&] {
        Outcome o;
        const auto what = outcome_named(text(j, "what", 40));
        if (!what)
            throw Bad(told("'{}' is no outcome", text(j, "what", 40)));
        o.what = *what;
        o.time = instant(j, "time");
        o.species = text(j, "species", MarkBounds::tag);
        o.length_m = figure(j, "length_m", 0, 10);
        o.released = yes(j, "released");
        o.out_of_water_s = figure(j, "out_of_water_s", 0, 1e5);
        o.note = text(j, "note", MarkBounds::short_text);
        o.by = text(j, "by", MarkBounds::short_text);
        return o;
    });
}

Result<Mark> mark_of_json(const json &j) {
    return read<Mark>(j, [&]() -> Mark {
        const auto s = read_look(j);
        Mark m;
        m.id = text(j, "id", MarkBounds::id);
        if (m.id.empty())
            throw Bad(told("'id' is missing"));
        m.time = s.time;
        m.place = s.place;
        m.place_covariance = s.place_covariance;
        m.family = s.family;
        m.kind = s.kind;
        m.side = s.side;
        m.slant_m = s.slant_m;
        m.ground_m = s.ground_m;
        m.seen_from_deg = s.seen_from_deg;
        m.depth_m = s.depth_m;
        m.height_m = s.height_m;
        m.height_at_least = s.height_at_least;
        m.range_setting_m = s.range_setting_m;
        m.frequency_hz = s.frequency_hz;
        m.gain = s.gain;
        m.source = s.source;
        m.by = s.by;
        m.name = text(j, "name", MarkBounds::name);
        m.note = text(j, "note", MarkBounds::note);
        m.place_remark = text(j, "place_remark", MarkBounds::short_text);
        m.foreign_gpx = text(j, "foreign_gpx", MarkBounds::note);
        m.lake = text(j, "lake", MarkBounds::name);
        m.bottom = text(j, "bottom", MarkBounds::tag);
        m.length_m = figure(j, "length_m", 0, 1e5);
        m.lake_level_m = figure(j, "lake_level_m", -1000, 1000);
        for (const auto &t : list(j, "tags", MarkBounds::tags)) {
            if (!t.is_string() || t.get_ref<const std::string &>().size() > MarkBounds::tag)
                throw Bad(told("a tag is no short text"));
            m.tags.push_back(t.get<std::string>());
        }
        for (const auto &p : list(j, "shape_m", MarkBounds::shape)) {
            if (!p.is_array() || p.size() != 2 || !p[0].is_number() || !p[1].is_number() ||
                !(std::fabs(p[0].get<double>()) < 1e5) || !(std::fabs(p[1].get<double>()) < 1e5))
                throw Bad(told("a corner of 'shape_m' is no [east, north]"));
            m.shape.push_back({p[0].get<double>(), p[1].get<double>()});
        }
        m.closed = yes(j, "closed");
        m.confirmed = confirmed_named(text(j, "confirmed", 40)).value_or(Confirmed::no);
        m.turned_out = kind_named(text(j, "turned_out", 40)).value_or(Kind::none);
        // What is not said is kept close, but for hazards.
        m.level = level_named(text(j, "level", 40))
                      .value_or(m.family == Family::hazard ? Level::anyone : Level::crew);
        if (const auto at = j.find("field_levels"); at != j.end() && at->is_object())
            for (const auto &[name, level] : at->items())
                if (const auto f = field_named(name); f && level.is_string())
                    if (const auto l = level_named(level.get<std::string>()))
                        m.field_levels[*f] = *l;
        for (const auto &one : list(j, "sightings", MarkBounds::sightings)) {
            auto look = sighting_of_json(one);
            if (!look)
                throw Bad(told("a sighting: {}", look.error().happened));
            m.sightings.push_back(std::move(*look));
        }
        for (const auto &one : list(j, "outcomes", MarkBounds::outcomes)) {
            auto outcome = outcome_of_json(one);
            if (!outcome)
                throw Bad(told("an outcome: {}", outcome.error().happened));
            m.outcomes.push_back(std::move(*outcome));
        }
        m.chip = chip_in(j);
        return m;
    });
}

void hold_to_bounds(Mark &m) {
    trim(m.id, MarkBounds::id);
    trim(m.name, MarkBounds::name);
    trim(m.note, MarkBounds::note, true);
    trim(m.lake, MarkBounds::name);
    trim(m.bottom, MarkBounds::tag);
    trim(m.source, MarkBounds::short_text);
    trim(m.by, MarkBounds::short_text);
    trim(m.side, 40);
    trim(m.place_remark, MarkBounds::short_text);
    if (m.foreign_gpx.size() > MarkBounds::note)
        m.foreign_gpx.clear();
    if (m.tags.size() > MarkBounds::tags)
        m.tags.resize(MarkBounds::tags);
    for (auto &t : m.tags)
        trim(t, MarkBounds::tag);
    std::erase_if(m.tags, [](const std::string &t) { return t.empty(); });
    m.slant_m = within(m.slant_m, 0, 1e5);
    m.ground_m = within(m.ground_m, 0, 1e5);
    m.range_setting_m = within(m.range_setting_m, 0, 1e5);
    m.frequency_hz = within(m.frequency_hz, 0, 1e9);
    hold(m.depth_m, -1000, 12'000);
    hold(m.height_m, -1000, 1000);
    auto &c = m.place_covariance;
    c = {within(c.east_east, 0, 1e12), within(c.east_north, -1e12, 1e12), within(c.north_north, 0, 1e12)};
    if (m.shape.size() > MarkBounds::shape)
        m.shape.resize(MarkBounds::shape);
    if (m.sightings.size() > MarkBounds::sightings)
        m.sightings.resize(MarkBounds::sightings);
    if (m.outcomes.size() > MarkBounds::outcomes)
        m.outcomes.resize(MarkBounds::outcomes);
}

} // namespace heron
