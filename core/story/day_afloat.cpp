#include "story/day_afloat.hpp"

#include "fault/told.hpp"
#include "files/json.hpp"
#include "files/json_in.hpp"
#include "geo/position.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace heron {
namespace {

using nlohmann::json;

constexpr std::array doing_names{std::string_view("scan"), std::string_view("fish"), std::string_view("run"),
                                 std::string_view("ashore")};
constexpr UnixNs step_ns = static_cast<UnixNs>(day_step_s * 1e9);
constexpr std::size_t most_steps = static_cast<std::size_t>(2 * 86'400 / day_step_s);
constexpr double fastest_scan_m_s = 2.9, slowest_scan_m_s = 0.7, about_a_spot = 0.35;
constexpr UnixNs ashore_ns = 300 * ns_per_s, short_ns = 120 * ns_per_s, short_run_ns = 45 * ns_per_s;
constexpr std::size_t most_days = 20'000, most_spans = 500, longest_words = 400, longest_condition = 60;

double median(std::vector<double> &values) {
    if (values.empty())
        return std::numeric_limits<double>::quiet_NaN();
    const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    return *middle;
}

struct Heard {
    std::vector<double> depth, speed, depth_told, speed_told;
    std::optional<GeoPoint> place;
    bool sounded = false, any = false;
};

Doing guess(const DayStep &s, double speed) {
    if (std::isnan(speed))
        return s.sounded ? Doing::scan : Doing::fish;
    if (speed > fastest_scan_m_s)
        return Doing::run;
    const bool round_a_spot = s.straight < about_a_spot && speed < 1.5;
    if (speed < slowest_scan_m_s || round_a_spot || !s.sounded)
        return Doing::fish;
    return Doing::scan;
}

void join_like(std::vector<DaySpan> &spans) {
    std::vector<DaySpan> out;
    for (const auto &s : spans) {
        if (s.to <= s.from)
            continue;
        if (!out.empty() && out.back().what == s.what && out.back().by_hand == s.by_hand &&
            out.back().to == s.from)
            out.back().to = s.to;
        else
            out.push_back(s);
    }
    spans = std::move(out);
}

} // namespace

std::string_view name_of(Doing doing) {
    return doing_names[static_cast<std::size_t>(doing)];
}

std::optional<Doing> doing_named(std::string_view name) {
    for (std::size_t i = 0; i < doing_names.size(); ++i)
        if (doing_names[i] == name)
            return static_cast<Doing>(i);
    return std::nullopt;
}

std::vector<DayStep> steps_of(const NavTrack &nav, std::span<const RowFacts> rows, double transducer_m) {
    UnixNs first = std::numeric_limits<UnixNs>::max();
    const auto begins = [&](UnixNs time) {
        if (plausible_time(time))
            first = std::min(first, time);
    };
    for (const auto &r : rows)
        if (!r.place_unknown)
            begins(r.time);
    if (!nav.positions().empty())
        begins(nav.positions().front().time);
    if (!nav.depths().empty())
        begins(nav.depths().front().time);
    if (!nav.speeds().empty())
        begins(nav.speeds().front().time);
    if (first == std::numeric_limits<UnixNs>::max())
        return {};
    first -= first % step_ns;

    std::map<std::size_t, Heard> heard;
    const auto at = [&](UnixNs time) -> Heard * {
        if (time < first || static_cast<std::size_t>((time - first) / step_ns) >= most_steps)
            return nullptr;
        auto &h = heard[static_cast<std::size_t>((time - first) / step_ns)];
        h.any = true;
        return &h;
    };
    for (const auto &r : rows)
        if (auto *h = r.place_unknown ? nullptr : at(r.time)) {
            h->sounded = true;
            if (r.bottom.found && r.bottom.altitude_m > 0)
                h->depth.push_back(r.bottom.altitude_m + transducer_m);
            if (std::isfinite(r.speed_m_s))
                h->speed.push_back(static_cast<double>(r.speed_m_s));
        }
    for (const auto &p : nav.positions())
        if (auto *h = at(p.time)) {
            if (!h->place)
                h->place = p.place;
            if (p.speed_m_s >= 0)
                h->speed_told.push_back(p.speed_m_s);
        }
    for (const auto &s : nav.speeds())
        if (auto *h = at(s.time))
            h->speed_told.push_back(s.m_s);
    for (const auto &d : nav.depths())
        if (auto *h = at(d.time))
            h->depth_told.push_back(d.below_transducer_m + d.to_waterline_m.value_or(0));

    std::vector<DayStep> steps;
    const auto place = [&](std::size_t i) -> std::optional<GeoPoint> {
        const auto found = heard.find(i);
        return found == heard.end() ? std::nullopt : found->second.place;
    };
    for (auto &[i, h] : heard) {
        DayStep s;
        s.time = first + static_cast<UnixNs>(i) * step_ns;
        s.sounded = h.sounded;
        s.depth_m = median(h.depth.empty() ? h.depth_told : h.depth);
        s.speed_m_s = median(h.speed.empty() ? h.speed_told : h.speed);
        if (std::isnan(s.speed_m_s) && h.place)
            if (const auto next = place(i + 1))
                s.speed_m_s = leg_between(*h.place, *next).distance_m / day_step_s;
        // From a minute before to a minute after.
        constexpr std::size_t about = static_cast<std::size_t>(60 / day_step_s);
        double run = 0;
        std::optional<GeoPoint> began, last;
        for (std::size_t k = i >= about ? i - about : 0; k <= i + about; ++k)
            if (const auto p = place(k)) {
                if (last)
                    run += leg_between(*last, *p).distance_m;
                else
                    began = p;
                last = p;
            }
        if (began && last && run > 1)
            s.straight = leg_between(*began, *last).distance_m / run;
        steps.push_back(s);
    }
    return steps;
}

std::vector<DaySpan> doings_of(std::span<const DayStep> steps) {
    std::vector<DaySpan> spans;
    for (std::size_t i = 0; i < steps.size(); ++i) {
        std::vector<double> speeds;
        for (std::size_t k = i >= 2 ? i - 2 : 0; k < std::min(steps.size(), i + 3); ++k)
            if (std::isfinite(steps[k].speed_m_s))
                speeds.push_back(steps[k].speed_m_s);
        const auto from = steps[i].time;
        if (!spans.empty() && from > spans.back().to) {
            if (from - spans.back().to >= ashore_ns)
                spans.push_back({spans.back().to, from, Doing::ashore});
            else
                spans.back().to = from;
        }
        spans.push_back({from, from + step_ns, guess(steps[i], median(speeds))});
    }
    join_like(spans);
    // The shortest goes with the longer of its neighbours, until none is too short.
    const auto short_of = [](const DaySpan &s) {
        return s.what == Doing::ashore ? UnixNs(0) : s.what == Doing::run ? short_run_ns : short_ns;
    };
    while (spans.size() > 1) {
        std::optional<std::size_t> least;
        for (std::size_t i = 0; i < spans.size(); ++i) {
            const bool beside = (i > 0 && spans[i - 1].what != Doing::ashore) ||
                                (i + 1 < spans.size() && spans[i + 1].what != Doing::ashore);
            const auto lasts = spans[i].to - spans[i].from;
            if (beside && lasts < short_of(spans[i]) &&
                (!least || lasts < spans[*least].to - spans[*least].from))
                least = i;
        }
        if (!least)
            break;
        const auto lasts = [&](std::size_t i) {
            return i < spans.size() && spans[i].what != Doing::ashore ? spans[i].to - spans[i].from : -1;
        };
        const auto i = *least;
        spans[i].what = spans[i > 0 && lasts(i - 1) >= lasts(i + 1) ? i - 1 : i + 1].what;
        join_like(spans);
    }
    return spans;
}

std::vector<DaySpan> put_right(std::span<const DaySpan> guessed, std::span<const DaySpan> by_hand) {
    std::vector<DaySpan> spans(guessed.begin(), guessed.end());
    if (spans.empty())
        return spans;
    const auto first = spans.front().from, last = spans.back().to;
    for (auto said : by_hand) {
        said.from = std::max(said.from, first);
        said.to = std::min(said.to, last);
        said.by_hand = true;
        if (said.to <= said.from)
            continue;
        std::vector<DaySpan> out;
        for (const auto &s : spans) {
            out.push_back({s.from, std::min(s.to, said.from), s.what, s.by_hand});
            out.push_back({std::max(s.from, said.to), s.to, s.what, s.by_hand});
        }
        out.push_back(said);
        std::erase_if(out, [](const DaySpan &s) { return s.to <= s.from; });
        std::sort(out.begin(), out.end(), [](const DaySpan &a, const DaySpan &b) { return a.from < b.from; });
        spans = std::move(out);
    }
    join_like(spans);
    return spans;
}

std::string days_to_json(const DaysNotes &days) {
    json all = json::object();
    for (const auto &[date, notes] : days) {
        if (notes == DayNotes())
            continue;
        json one = json::object();
        if (!notes.aboard.empty())
            one["aboard"] = notes.aboard;
        for (const auto &s : notes.by_hand)
            one["doing"].push_back({{"from", print_rfc3339(s.from, 0)},
                                    {"to", print_rfc3339(s.to, 0)},
                                    {"what", std::string(name_of(s.what))}});
        if (const auto &c = notes.conditions; c != DayConditions()) {
            auto &j = one["conditions"];
            for (const auto &[name, word] :
                 {std::pair{"wind", &c.wind}, {"sky", &c.sky}, {"clarity", &c.clarity}, {"level", &c.level}})
                if (!word->empty())
                    j[name] = *word;
            if (c.temperature_c)
                j["temperature_c"] = *c.temperature_c;
            if (c.level_m)
                j["level_m"] = *c.level_m;
        }
        all[date] = std::move(one);
    }
    return all.dump(1, ' ', false, json::error_handler_t::replace);
}

Result<DaysNotes> days_from_json(std::string_view text) {
    const auto refuse = [](const std::string &what) {
        return fail(told("the notes of days cannot be read: {}", what), told("the file is left as it is"));
    };
    try {
        const auto j = parse_json(text, 64u << 20);
        if (!j.is_object() || j.size() > most_days)
            return refuse(told("this is no list of days"));
        DaysNotes days;
        for (const auto &[date, one] : j.items()) {
            if (!one.is_object() || !parse_rfc3339(date + "T00:00:00Z"))
                return refuse(told("'{}' is no day", date.substr(0, 40)));
            DayNotes notes;
            notes.aboard = one.value("aboard", std::string());
            const auto spans = one.value("doing", json::array());
            if (notes.aboard.size() > longest_words || !spans.is_array() || spans.size() > most_spans)
                return refuse(told("the day {} is longer than any", date));
            for (const auto &s : spans) {
                const auto from = parse_rfc3339(s.at("from").get<std::string>()),
                           to = parse_rfc3339(s.at("to").get<std::string>());
                const auto what = doing_named(s.at("what").get<std::string>());
                if (!from || !to || !what || *to <= *from)
                    return refuse(told("a stretch of the day {} cannot be", date));
                notes.by_hand.push_back({*from, *to, *what, true});
            }
            const auto conditions = one.value("conditions", json::object());
            if (!conditions.is_object())
                return refuse(told("the conditions of the day {} cannot be", date));
            auto &c = notes.conditions;
            for (const auto &[name, word] : {std::pair{"wind", &c.wind},
                                             {"sky", &c.sky},
                                             {"clarity", &c.clarity},
                                             {"level", &c.level}}) {
                *word = conditions.value(name, std::string());
                if (word->size() > longest_condition)
                    return refuse(told("the conditions of the day {} cannot be", date));
            }
            for (const auto &[name, figure, lawful] :
                 {std::tuple{"temperature_c", &c.temperature_c, &DayConditions::lawful_temperature},
                  {"level_m", &c.level_m, &DayConditions::lawful_level}})
                if (conditions.contains(name)) {
                    *figure = conditions.at(name).get<double>();
                    if (!lawful(**figure))
                        return refuse(told("the conditions of the day {} cannot be", date));
                }
            days[date] = std::move(notes);
        }
        return days;
    } catch (const json::exception &) {
        return refuse(told("this is no list of days"));
    }
}

} // namespace heron
