#include "sonar/instant.hpp"

#include <array>
#include <chrono>
#include <fmt/format.h>

namespace heron {
namespace {

// Reads exactly `digits` digits at `at`; moves `at` on. Returns −1 where there are none.
int read_digits(std::string_view text, std::size_t &at, std::size_t digits) {
    if (at + digits > text.size())
        return -1;
    int value = 0;
    for (std::size_t i = 0; i < digits; ++i) {
        const char c = text[at + i];
        if (c < '0' || c > '9')
            return -1;
        value = value * 10 + (c - '0');
    }
    at += digits;
    return value;
}

bool read_char(std::string_view text, std::size_t &at, std::string_view any_of) {
    if (at >= text.size() || any_of.find(text[at]) == std::string_view::npos)
        return false;
    ++at;
    return true;
}

} // namespace

std::int64_t days_from_civil(int year, unsigned month, unsigned day) {
    using namespace std::chrono;
    return sys_days{std::chrono::year{year} / std::chrono::month{month} / std::chrono::day{day}}
        .time_since_epoch()
        .count();
}

std::string print_rfc3339(UnixNs time, int decimals) {
    using namespace std::chrono;
    const sys_time<nanoseconds> t{nanoseconds{time}};
    const auto date = floor<days>(t);
    const year_month_day ymd{date};
    const auto in_day = t - date;
    const auto whole = duration_cast<seconds>(in_day).count();
    auto text = fmt::format("{:04d}-{:02d}-{:02d}T{:02d}:{:02d}:{:02d}", static_cast<int>(ymd.year()),
                            static_cast<unsigned>(ymd.month()), static_cast<unsigned>(ymd.day()),
                            whole / 3600, whole / 60 % 60, whole % 60);
    if (decimals > 0) {
        const auto fraction = (in_day - seconds{whole}).count();
        text += "." + fmt::format("{:09d}", fraction).substr(0, static_cast<std::size_t>(decimals));
    }
    return text + "Z";
}

std::optional<UnixNs> parse_rfc3339(std::string_view text) {
    std::size_t at = 0;
    const int year = read_digits(text, at, 4);
    if (year < 1678 || year > 2261 || !read_char(text, at, "-"))
        return std::nullopt; // what 64-bit ns can hold
    const int month = read_digits(text, at, 2);
    if (month < 1 || month > 12 || !read_char(text, at, "-"))
        return std::nullopt;
    const int day = read_digits(text, at, 2);
    using namespace std::chrono;
    const year_month_day date{std::chrono::year{year}, std::chrono::month{static_cast<unsigned>(month)},
                              std::chrono::day{static_cast<unsigned>(day < 0 ? 0 : day)}};
    if (!date.ok() || !read_char(text, at, "Tt "))
        return std::nullopt;
    const int hour = read_digits(text, at, 2);
    if (hour < 0 || hour > 23 || !read_char(text, at, ":"))
        return std::nullopt;
    const int minute = read_digits(text, at, 2);
    if (minute < 0 || minute > 59 || !read_char(text, at, ":"))
        return std::nullopt;
    const int second = read_digits(text, at, 2);
    if (second < 0 || second > 60)
        return std::nullopt;
    std::int64_t fraction = 0;
    if (read_char(text, at, ".")) {
        std::int64_t unit = 100'000'000;
        const auto start = at;
        while (at < text.size() && text[at] >= '0' && text[at] <= '9') {
            fraction += unit * (text[at] - '0');
            unit /= 10;
            ++at;
        }
        if (at == start)
            return std::nullopt;
    }
    std::int64_t offset_s = 0;
    if (!read_char(text, at, "Zz")) {
        const bool behind = at < text.size() && text[at] == '-';
        if (!read_char(text, at, "+-"))
            return std::nullopt;
        const int h = read_digits(text, at, 2);
        if (h < 0 || h > 23 || !read_char(text, at, ":"))
            return std::nullopt;
        const int m = read_digits(text, at, 2);
        if (m < 0 || m > 59)
            return std::nullopt;
        offset_s = (behind ? -60L : 60L) * (h * 60L + m);
    }
    if (at != text.size())
        return std::nullopt;
    const auto days = sys_days{date}.time_since_epoch().count();
    return (static_cast<std::int64_t>(days) * 86400 + hour * 3600L + minute * 60L + second - offset_s) *
               ns_per_s +
           fraction;
}

} // namespace heron
