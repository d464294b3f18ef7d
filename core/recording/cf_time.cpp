#include "recording/cf_time.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <netcdf.h>
#include <string>
#include <utility>

namespace heron {
namespace {

constexpr std::size_t most_times = 50'000'000;

std::optional<long double> unit_named(std::string_view told) {
    std::string word(told);
    for (auto &c : word)
        c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    if (word.size() > 3 && word.back() == 's')
        word.pop_back();
    constexpr std::pair<std::string_view, long double> units[] = {
        {"nanosecond", 1}, {"nsec", 1},    {"ns", 1},         {"microsecond", 1e3L}, {"usec", 1e3L},
        {"us", 1e3L},      {"msec", 1e6L}, {"ms", 1e6L},      {"millisecond", 1e6L}, {"second", 1e9L},
        {"sec", 1e9L},     {"s", 1e9L},    {"min", 60e9L},    {"minute", 60e9L},     {"hour", 3600e9L},
        {"hr", 3600e9L},   {"h", 3600e9L}, {"day", 86400e9L}, {"d", 86400e9L},
    };
    for (const auto &[name, ns] : units)
        if (word == name)
            return ns;
    return std::nullopt;
}

// Reads a text from its front.
struct Cursor {
    std::string_view rest;

    void blanks() {
        while (!rest.empty() && rest.front() == ' ')
            rest.remove_prefix(1);
    }
    bool take(char c) {
        if (rest.empty() || rest.front() != c)
            return false;
        rest.remove_prefix(1);
        return true;
    }
    // A whole number of at most `most_digits`, without a sign.
    std::optional<int> number(std::size_t most_digits) {
        int value = 0;
        const auto *end = rest.data() + std::min(most_digits, rest.size());
        if (rest.empty() || rest.front() == '-')
            return std::nullopt;
        const auto [stop, error] = std::from_chars(rest.data(), end, value);
        if (error != std::errc())
            return std::nullopt;
        rest.remove_prefix(static_cast<std::size_t>(stop - rest.data()));
        return value;
    }
};

// Seconds east of Greenwich; nothing where what is left is no zone.
std::optional<int> zone(Cursor at) {
    at.blanks();
    if (at.rest.empty() || at.rest == "Z" || at.rest == "z" || at.rest == "UTC" || at.rest == "GMT")
        return 0;
    const bool west = at.take('-');
    if (!west && !at.take('+'))
        return std::nullopt;
    const auto digits = std::min(at.rest.find_first_not_of("0123456789"), at.rest.size());
    auto hours = at.number(4);
    std::optional<int> minutes = 0;
    if (digits > 2 && hours)
        minutes = *hours % 100, hours = *hours / 100;
    else if (at.take(':'))
        minutes = at.number(2);
    at.blanks();
    if (!hours || !minutes || *hours > 14 || *minutes > 59 || !at.rest.empty())
        return std::nullopt;
    return (west ? -1 : 1) * (*hours * 3600 + *minutes * 60);
}

} // namespace

std::optional<CfTimeUnit> cf_time_unit(std::string_view units) {
    constexpr std::string_view word = " since ";
    const auto since = units.find(word);
    if (since == std::string_view::npos)
        return std::nullopt;
    const auto unit = unit_named(units.substr(0, since));
    Cursor at{units.substr(since + word.size())};
    at.blanks();
    const auto year = at.number(4);
    const bool first = at.take('-');
    const auto month = at.number(2);
    const bool second = at.take('-');
    const auto day = at.number(2);
    if (!unit || !year || !first || !month || !second || !day || *year < 1 || *month < 1 || *month > 12 ||
        *day < 1 || *day > 31)
        return std::nullopt;
    std::int64_t hour = 0, minute = 0, micro = 0;
    auto clock = at;
    if (!clock.take('T'))
        clock.blanks();
    // "2000-01-01 +2" tells a zone and no time of day.
    if (const auto h = clock.number(2)) {
        const auto m = clock.take(':') ? clock.number(2) : std::nullopt;
        if (!m || *h > 23 || *m > 59)
            return std::nullopt;
        hour = *h;
        minute = *m;
        if (clock.take(':')) {
            const auto s = clock.number(2);
            if (!s || *s > 60)
                return std::nullopt;
            micro = *s * 1'000'000L;
            if (clock.take('.'))
                for (std::int64_t step = 100'000;
                     !clock.rest.empty() && clock.rest.front() >= '0' && clock.rest.front() <= '9';
                     step /= 10) {
                    micro += step * (clock.rest.front() - '0');
                    clock.rest.remove_prefix(1);
                }
        }
        at = clock;
    }
    const auto east_s = zone(at);
    if (!east_s)
        return std::nullopt;
    const auto days = days_from_civil(*year, static_cast<unsigned>(*month), static_cast<unsigned>(*day));
    return CfTimeUnit{*unit, (days * 86400 + hour * 3600 + minute * 60 - *east_s) * 1'000'000 + micro};
}

Result<std::vector<std::optional<UnixNs>>> read_times(const NcVariable &axis) {
    CfTimeUnit unit{1, -seconds_1601_to_1970 * 1'000'000};
    if (const auto units = axis.text_attribute("units")) {
        const auto told_unit = cf_time_unit(*units);
        if (!told_unit)
            return fail(told("unknown units '{}'", *units));
        unit = *told_unit;
    }
    const auto place = [&](long double value) -> std::optional<UnixNs> {
        const long double t = static_cast<long double>(unit.epoch_us) * 1000 + value * unit.unit_ns;
        if (!(t > -9.2e18L && t < 9.2e18L))
            return std::nullopt;
        const auto time = static_cast<UnixNs>(std::llroundl(t));
        return plausible_time(time) ? std::optional(time) : std::nullopt;
    };
    std::vector<std::optional<UnixNs>> times;
    if (axis.shape.size() != 1)
        return fail("wrong dimensions");
    if (axis.shape[0] > most_times)
        return fail(told("{} entries are more than this program takes", axis.shape[0]));
    const auto n = axis.shape[0];
    if (n == 0)
        return times;
    times.reserve(n);
    const bool whole = !axis.packing().packed();
    if (whole && axis.type == NC_UINT64) {
        std::vector<unsigned long long> v(n);
        if (nc_get_var_ulonglong(axis.group, axis.id, v.data()) != NC_NOERR)
            return fail("damaged");
        const auto fill = axis.number_attribute("_FillValue");
        for (const auto t : v) {
            const bool none = t == NC_FILL_UINT64 || t == 0 || (fill && static_cast<double>(t) == *fill);
            times.push_back(none ? std::nullopt : place(static_cast<long double>(t)));
        }
    } else if (whole && axis.type == NC_INT64) {
        std::vector<long long> v(n);
        if (nc_get_var_longlong(axis.group, axis.id, v.data()) != NC_NOERR)
            return fail("damaged");
        for (const auto t : v)
            times.push_back(t == NC_FILL_INT64 ? std::nullopt : place(static_cast<long double>(t)));
    } else {
        const auto v = axis.numbers();
        if (!v)
            return fail("holds no readable numbers");
        for (const double t : *v)
            times.push_back(std::isfinite(t) ? place(static_cast<long double>(t)) : std::nullopt);
    }
    return times;
}

} // namespace heron
