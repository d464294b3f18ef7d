#include "story/record.hpp"

#include "fault/told.hpp"
#include "files/csv.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace heron {
namespace {

constexpr std::size_t few = 5;
constexpr double one_visit_s = 2 * 3600;

// Four-hour blocks of the sun's own day at the place.
std::string hours(const Mark &m, UnixNs time) {
    const double day = static_cast<double>(time) / 86'400e9 + (m.place ? m.place->longitude_deg / 360 : 0),
                 hour = (day - std::floor(day)) * 24;
    const int block = static_cast<int>(hour / 4) * 4;
    return fmt::format("{} to {} h", block, block + 4);
}

} // namespace

std::string depth_band(double m, UnitSystem units) {
    const bool feet = units == UnitSystem::feet;
    const double step = feet ? 5 : 2, v = feet ? feet_from_metres(m) : m, low = std::floor(v / step) * step;
    return fmt::format("{:.0f} to {:.0f} {}", low, low + step, feet ? "ft" : "m");
}

std::string temperature_band(double celsius, UnitSystem units) {
    const bool feet = units == UnitSystem::feet;
    const double step = feet ? 4 : 2, v = feet ? celsius * 9 / 5 + 32 : celsius,
                 low = std::floor(v / step) * step;
    return fmt::format("{:.0f} to {:.0f} {}", low, low + step, feet ? "°F" : "°C");
}

std::string level_band(double m, UnitSystem units) {
    const bool feet = units == UnitSystem::feet;
    const double step = feet ? 2 : 0.5, v = feet ? feet_from_metres(m) : m, low = std::floor(v / step) * step;
    return fmt::format("{:g} to {:g} {}", low + 0.0, low + step, feet ? "ft" : "m");
}

std::vector<Visit> visits_of(const std::vector<Mark> &marks, const std::map<std::string, DayConditions> &days,
                             const std::map<std::string, std::map<std::string, std::string>> &extra,
                             UnitSystem units) {
    std::vector<Visit> visits;
    for (const auto &m : marks) {
        const auto first = visits.size();
        for (const auto &o : m.outcomes) {
            if (o.what == Outcome::What::looked)
                continue;
            const bool bitten = o.what != Outcome::What::fished;
            if (visits.size() > first &&
                std::fabs(seconds_between(visits.back().time, o.time)) < one_visit_s) {
                visits.back().bitten = visits.back().bitten || bitten;
                continue;
            }
            Visit v;
            v.mark = m.id;
            v.time = o.time;
            v.bitten = bitten;
            const auto kind = m.turned_out != Kind::none ? m.turned_out : m.kind;
            if (kind != Kind::none) {
                std::string name(name_of(kind));
                std::replace(name.begin(), name.end(), '_', ' ');
                v.of["kind"] = name;
            }
            if (m.depth_m)
                v.of["depth"] = depth_band(m.depth_m->value, units);
            if (!m.bottom.empty())
                v.of["bottom"] = m.bottom;
            if (!m.lake.empty())
                v.of["water"] = m.lake;
            if (o.time != 0) {
                v.of["hour by the sun"] = hours(m, o.time);
                const auto date = print_rfc3339(o.time, 0).substr(0, 10);
                v.of["month"] = date.substr(5, 2);
                if (m.place)
                    v.of["light"] = std::string(name_of(daylight_at(*m.place, o.time)));
                if (const auto day = days.find(date); day != days.end()) {
                    const auto &c = day->second;
                    for (const auto &[factor, value] : {std::pair{"wind", &c.wind},
                                                        {"sky", &c.sky},
                                                        {"clarity", &c.clarity},
                                                        {"level", &c.level}})
                        if (!value->empty())
                            v.of[factor] = *value;
                    if (c.temperature_c)
                        v.of["water temperature"] = temperature_band(*c.temperature_c, units);
                    if (c.level_m)
                        v.of["lake level"] = level_band(*c.level_m, units);
                }
            }
            if (const auto more = extra.find(m.id); more != extra.end())
                for (const auto &[factor, value] : more->second)
                    v.of[factor] = value;
            visits.push_back(std::move(v));
        }
    }
    return visits;
}

std::string table_of(const std::vector<Visit> &visits) {
    std::set<std::string> factors;
    for (const auto &v : visits)
        for (const auto &[factor, value] : v.of)
            factors.insert(factor);
    std::string out = "mark,time,bitten";
    for (const auto &f : factors)
        out += "," + csv_cell(f);
    out += "\r\n";
    for (const auto &v : visits) {
        out += csv_cell(v.mark) + "," + (v.time != 0 ? print_rfc3339(v.time, 0) : "") + "," +
               (v.bitten ? "1" : "0");
        for (const auto &f : factors) {
            const auto at = v.of.find(f);
            out += "," + (at == v.of.end() ? std::string() : csv_cell(at->second));
        }
        out += "\r\n";
    }
    return out;
}

Record record_of(const std::vector<Visit> &visits) {
    Record r;
    r.visits = visits.size();
    std::map<std::string, std::map<std::string, std::pair<std::size_t, std::size_t>>> table;
    for (const auto &v : visits) {
        r.bitten += v.bitten;
        for (const auto &[factor, value] : v.of) {
            auto &[k, n] = table[factor][value];
            k += v.bitten;
            ++n;
        }
    }
    for (const auto &[factor, values] : table) {
        if (values.size() < 2)
            continue; // nothing to hold it against
        std::size_t all_k = 0, all_n = 0;
        for (const auto &[value, c] : values) {
            all_k += c.first;
            all_n += c.second;
        }
        for (const auto &[value, c] : values) {
            Finding f;
            f.factor = factor;
            f.value = value;
            f.k = c.first;
            f.n = c.second;
            f.rest_k = all_k - f.k;
            f.rest_n = all_n - f.n;
            f.share = wilson(f.k, f.n);
            f.rest = wilson(f.rest_k, f.rest_n);
            f.too_few = f.n < few || f.rest_n < few;
            if (!f.too_few)
                f.chance = fisher_exact(f.k, f.n - f.k, f.rest_k, f.rest_n - f.rest_k);
            r.findings.push_back(std::move(f));
        }
    }
    std::vector<double> p;
    for (const auto &f : r.findings)
        if (!f.too_few)
            p.push_back(f.chance);
    r.comparisons = p.size();
    const auto q = benjamini_hochberg(p);
    std::size_t i = 0;
    for (auto &f : r.findings)
        if (!f.too_few)
            f.false_rate = q[i++];
    // A rival: a value of another factor that most of these visits share and most others do not.
    constexpr double goes_along = 0.4, most = 0.6;
    for (auto &f : r.findings) {
        if (f.too_few)
            continue;
        double best = goes_along;
        std::map<std::pair<std::string, std::string>, std::pair<double, double>> others;
        for (const auto &v : visits) {
            const auto own = v.of.find(f.factor);
            if (own == v.of.end())
                continue;
            const bool in = own->second == f.value;
            for (const auto &[factor, value] : v.of)
                if (factor != f.factor)
                    (in ? others[{factor, value}].first : others[{factor, value}].second) += 1;
        }
        for (const auto &[what, c] : others) {
            const double inside = c.first / static_cast<double>(f.n),
                         outside = c.second / static_cast<double>(f.rest_n);
            if (inside >= most && inside - outside > best) {
                best = inside - outside;
                f.rival = told("{} of these {} visits were at {} {}, {} of the other {}",
                               static_cast<std::size_t>(c.first), f.n, what.first, what.second,
                               static_cast<std::size_t>(c.second), f.rest_n);
            }
        }
    }
    std::stable_sort(r.findings.begin(), r.findings.end(), [](const Finding &x, const Finding &y) {
        return x.too_few != y.too_few ? y.too_few : x.chance < y.chance;
    });
    return r;
}

} // namespace heron
