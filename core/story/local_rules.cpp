#include "story/local_rules.hpp"

#include "fault/told.hpp"
#include "files/json.hpp"
#include "files/json_in.hpp"

#include <array>
#include <charconv>

namespace heron {
namespace {

using nlohmann::json;

constexpr std::size_t most_rules = 200, longest_text = 400;
constexpr std::array days_of{31, 29, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31};

std::string printed(int month, int day) {
    const auto two = [](int v) { return (v < 10 ? "0" : "") + std::to_string(v); };
    return two(month) + "-" + two(day);
}

} // namespace

bool day_of_year(std::string_view text, int &month, int &day) {
    if (text.size() != 5 || text[2] != '-')
        return false;
    int m = 0, d = 0;
    const auto read = [](std::string_view part, int &v) {
        const auto [end, error] = std::from_chars(part.data(), part.data() + part.size(), v);
        return error == std::errc() && end == part.data() + part.size();
    };
    if (!read(text.substr(0, 2), m) || !read(text.substr(3), d) || m < 1 || m > 12 || d < 1 ||
        d > days_of[static_cast<std::size_t>(m - 1)])
        return false;
    month = m;
    day = d;
    return true;
}

bool holds(const LocalRule &rule, std::string_view date, std::string_view water) {
    if (!rule.water.empty() && rule.water != water)
        return false;
    if (rule.whole_year())
        return true;
    int month = 0, day = 0;
    if (date.size() < 10 || !day_of_year(date.substr(5, 5), month, day))
        return false;
    const int on = month * 100 + day, from = rule.from_month * 100 + rule.from_day,
              to = rule.to_month * 100 + rule.to_day;
    return from <= to ? on >= from && on <= to : on >= from || on <= to;
}

std::vector<LocalRule> rules_on(const std::vector<LocalRule> &rules, std::string_view date,
                                std::string_view water) {
    std::vector<LocalRule> out;
    for (const auto &r : rules)
        if (holds(r, date, water))
            out.push_back(r);
    return out;
}

std::string rules_to_json(const std::vector<LocalRule> &rules) {
    json all = json::array();
    for (const auto &r : rules) {
        json one{{"text", r.text}};
        if (!r.water.empty())
            one["water"] = r.water;
        if (!r.whole_year()) {
            one["from"] = printed(r.from_month, r.from_day);
            one["to"] = printed(r.to_month, r.to_day);
        }
        all.push_back(std::move(one));
    }
    return all.dump(1, ' ', false, json::error_handler_t::replace);
}

Result<std::vector<LocalRule>> rules_from_json(std::string_view text) {
    const auto refuse = [](const std::string &what) {
        return fail(told("the local rules cannot be read: {}", what), told("none is reminded of"),
                    told("enter them again in Log"));
    };
    try {
        const auto j = parse_json(text, 1u << 20);
        if (!j.is_array() || j.size() > most_rules)
            return refuse(told("this is no list of rules"));
        std::vector<LocalRule> rules;
        for (const auto &one : j) {
            LocalRule r;
            r.text = one.at("text").get<std::string>();
            r.water = one.value("water", std::string());
            if (r.text.empty() || r.text.size() > longest_text || r.water.size() > longest_text)
                return refuse(told("entry {} has no text or too long a one", rules.size() + 1));
            if (one.contains("from") &&
                (!day_of_year(one.at("from").get<std::string>(), r.from_month, r.from_day) ||
                 !day_of_year(one.at("to").get<std::string>(), r.to_month, r.to_day)))
                return refuse(told("entry {} has no such days", rules.size() + 1));
            rules.push_back(std::move(r));
        }
        return rules;
    } catch (const json::exception &) {
        return refuse(told("an entry is missing or of another kind"));
    }
}

} // namespace heron
