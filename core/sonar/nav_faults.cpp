#include "sonar/nav_track.hpp"

#include "sonar/boat_limits.hpp"

#include "fault/told.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace heron {
namespace {

// Removes the samples marked bad; the next one kept remembers that something is missing before it.
template <class Sample>
std::size_t remove_bad(std::vector<Sample> &samples, const std::vector<bool> &bad) {
    std::size_t kept = 0;
    bool broken = false;
    for (std::size_t i = 0; i < samples.size(); ++i) {
        if (bad[i]) {
            broken = true;
            continue;
        }
        Sample s = samples[i];
        s.broken_before = s.broken_before || broken;
        broken = false;
        samples[kept++] = s;
    }
    const auto removed = samples.size() - kept;
    samples.resize(kept);
    return removed;
}

// Marks runs of samples with the same value that last longer than `frozen_after_s`, where `moving(first,
// last)` holds.
template <class Sample, class Same, class Moving>
void mark_frozen(const std::vector<Sample> &s, std::vector<bool> &bad, Same same, Moving moving) {
    for (std::size_t first = 0; first < s.size();) {
        std::size_t last = first;
        while (last + 1 < s.size() && same(s[first], s[last + 1]))
            ++last;
        if (last - first >= 3 && seconds_between(s[first].time, s[last].time) > frozen_after_s &&
            moving(first, last))
            for (auto i = first + 1; i <= last; ++i)
                bad[i] = true; // the first was true when it was taken
        first = last + 1;
    }
}

// Splits at leaps, takes the longest stretch for true, and keeps those others that a boat could have reached
// from it.
template <class Sample, class Reachable>
void mark_leaps(const std::vector<Sample> &s, std::vector<bool> &bad, Reachable reachable) {
    struct Stretch {
        std::size_t first, last;
    };
    std::vector<Stretch> stretches;
    for (std::size_t i = 0; i < s.size(); ++i) {
        if (i == 0 || !reachable(s[i - 1], s[i]))
            stretches.push_back({i, i});
        stretches.back().last = i;
    }
    if (stretches.size() < 2)
        return;
    const auto length = [](const Stretch &x) { return x.last - x.first; };
    const auto longest = static_cast<std::size_t>(
        std::max_element(stretches.begin(), stretches.end(),
                         [&](const Stretch &a, const Stretch &b) { return length(a) < length(b); }) -
        stretches.begin());
    const auto drop = [&](const Stretch &x) {
        for (auto i = x.first; i <= x.last; ++i)
            bad[i] = true;
    };
    auto kept = longest;
    for (auto i = longest + 1; i < stretches.size(); ++i) {
        if (reachable(s[stretches[kept].last], s[stretches[i].first]))
            kept = i;
        else
            drop(stretches[i]);
    }
    kept = longest;
    for (auto i = longest; i-- > 0;) {
        if (reachable(s[stretches[i].last], s[stretches[kept].first]))
            kept = i;
        else
            drop(stretches[i]);
    }
}

void warn(std::vector<std::string> &warnings, std::size_t count, const char *what) {
    if (count > 0)
        warnings.push_back(told("{} {}; pings there have no place", count, what));
}

} // namespace

void clean_positions(std::vector<PositionSample> &samples, std::vector<std::string> &warnings) {
    std::vector<bool> bad(samples.size());
    for (std::size_t i = 0; i < samples.size(); ++i) {
        const auto &p = samples[i].place;
        bad[i] = !(std::fabs(p.latitude_deg) <= 90 && std::fabs(p.longitude_deg) <= 360); // also true for NaN
    }
    warn(warnings, remove_bad(samples, bad), "positions hold no number or lie outside the globe");

    bad.assign(samples.size(), false);
    mark_frozen(
        samples, bad,
        [](const PositionSample &a, const PositionSample &b) {
            return a.place.latitude_deg == b.place.latitude_deg &&
                   a.place.longitude_deg == b.place.longitude_deg;
        },
        [&](std::size_t first, std::size_t last) {
            // Told by its own speed, or by where it was a moment before and after.
            double told = -1;
            for (auto i = first; i <= last; ++i)
                told = std::max(told, samples[i].speed_m_s);
            if (told >= 0)
                return told > 0.3;
            const auto speed = [&](std::size_t a, std::size_t b) {
                const double dt = seconds_between(samples[a].time, samples[b].time);
                return dt > 0 ? leg_between(samples[a].place, samples[b].place).distance_m / dt : 0.0;
            };
            const double before = first >= 5 ? speed(first - 5, first) : 0;
            const double after = last + 6 < samples.size() ? speed(last + 1, last + 6) : 0;
            return std::max(before, after) > 0.3;
        });
    warn(warnings, remove_bad(samples, bad), "positions are frozen while the boat moves");

    // How far a good receiver's noise moves it from one sample to the next.
    std::vector<double> steps;
    for (std::size_t i = 1; i < samples.size(); ++i)
        steps.push_back(leg_between(samples[i - 1].place, samples[i].place).distance_m);
    double usual = 0;
    if (!steps.empty()) {
        const auto middle = steps.begin() + static_cast<std::ptrdiff_t>(steps.size() / 2);
        std::nth_element(steps.begin(), middle, steps.end());
        usual = *middle;
    }
    bad.assign(samples.size(), false);
    mark_leaps(samples, bad, [&](const PositionSample &a, const PositionSample &b) {
        const double reach =
            fastest_boat_m_s * std::fabs(seconds_between(a.time, b.time)) + std::max(4.0, 8 * usual);
        return leg_between(a.place, b.place).distance_m <= reach;
    });
    warn(warnings, remove_bad(samples, bad), "positions leap farther than a boat can go");
}

void clean_attitudes(std::vector<AttitudeSample> &samples, std::vector<std::string> &warnings) {
    std::vector<bool> bad(samples.size());
    for (std::size_t i = 0; i < samples.size(); ++i) {
        bad[i] = !(std::fabs(samples[i].heading_deg) <= 720);
        if (!(std::fabs(samples[i].pitch_deg) <= 90))
            samples[i].pitch_deg = 0;
        if (!(std::fabs(samples[i].roll_deg) <= 180))
            samples[i].roll_deg = 0;
        samples[i].heading_deg = bad[i] ? 0 : wrap_360(samples[i].heading_deg);
    }
    warn(warnings, remove_bad(samples, bad), "headings hold no number");

    // A compass jitters. One that elsewhere changes from sample to sample and then stands still has hung.
    std::size_t same = 0;
    for (std::size_t i = 1; i < samples.size(); ++i)
        same += samples[i].heading_deg == samples[i - 1].heading_deg;
    std::size_t longest = 0, run = 0;
    for (std::size_t i = 1; i < samples.size(); ++i) {
        run = samples[i].heading_deg == samples[i - 1].heading_deg ? run + 1 : 0;
        longest = std::max(longest, run);
    }
    bad.assign(samples.size(), false);
    const auto others = samples.size() - longest;
    if (others > 10 && static_cast<double>(same - longest) < 0.3 * static_cast<double>(others))
        mark_frozen(
            samples, bad,
            [](const AttitudeSample &a, const AttitudeSample &b) { return a.heading_deg == b.heading_deg; },
            [](std::size_t, std::size_t) { return true; });
    warn(warnings, remove_bad(samples, bad), "headings are frozen");

    bad.assign(samples.size(), false);
    mark_leaps(samples, bad, [](const AttitudeSample &a, const AttitudeSample &b) {
        const double reach = fastest_turn_deg_s * std::fabs(seconds_between(a.time, b.time)) + 25;
        return std::fabs(wrap_180(b.heading_deg - a.heading_deg)) <= reach;
    });
    warn(warnings, remove_bad(samples, bad), "headings leap faster than a boat can turn");
}

void compare_with_track(std::vector<AttitudeSample> &samples, const NavTrack &track,
                        std::vector<std::string> &warnings) {
    constexpr double turned_deg = 25, elsewhere_deg = 30;
    constexpr std::size_t least_courses = 5;
    if (samples.size() < 4 || track.positions().empty())
        return;
    std::vector<double> off; // of the heading from the course, a second apart
    for (UnixNs last = std::numeric_limits<UnixNs>::min(); const auto &a : samples) {
        if (ns_between(last, a.time) < ns_per_s)
            continue;
        last = a.time;
        if (const auto course = track.course_at(a.time))
            off.push_back(wrap_180(a.heading_deg - course->bearing_deg));
    }
    if (off.size() < least_courses)
        return;
    // Angles turned so that the first one is nought, to be put in order; single courses wander with the
    // positions.
    auto from_first = off;
    for (auto &o : from_first)
        o = wrap_180(o - off.front());
    std::sort(from_first.begin(), from_first.end());
    const auto at = [&](double share) {
        return from_first[static_cast<std::size_t>(share * static_cast<double>(from_first.size() - 1))];
    };
    const double usual = wrap_180(off.front() + at(0.5));
    const bool turned = at(0.9) - at(0.1) > turned_deg;
    const bool frozen = std::all_of(samples.begin(), samples.end(), [&](const AttitudeSample &a) {
        return a.heading_deg == samples.front().heading_deg;
    });
    if (frozen && (turned || std::fabs(usual) > elsewhere_deg)) {
        warnings.push_back(
            told("the heading never changes from {:.0f} degrees while the track {}; the course "
                 "over ground serves where the boat runs straight",
                 samples.front().heading_deg, turned ? "turns" : "runs elsewhere"));
        samples.clear();
    } else if (std::fabs(usual) > elsewhere_deg) {
        warnings.push_back(told("the heading lies {:.0f} degrees beside the track; places to the side may be "
                                "as far off",
                                std::fabs(usual)));
    }
}

} // namespace heron
