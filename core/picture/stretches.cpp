#include "picture/stretches.hpp"

#include "sonar/median.hpp"

#include <algorithm>

namespace heron {
namespace {

constexpr double shortest_s = 2;

Stretch made(const Scan &scan, std::size_t first, std::size_t last, bool straight) {
    Stretch s;
    s.first_row = first;
    s.last_row = last;
    s.straight = straight;
    s.from = scan.facts(first).time;
    s.to = scan.facts(last).time;
    std::vector<double> speeds, depths;
    UnixNs next = 0;
    for (auto n = first; n <= last; ++n) {
        const auto &f = scan.facts(n);
        if (f.speed_m_s >= 0)
            speeds.push_back(static_cast<double>(f.speed_m_s));
        if (f.bottom.found)
            depths.push_back(f.bottom.altitude_m + scan.installation.draught_m());
        if (f.time < next && n != last)
            continue;
        if (const auto p = scan.nav.position_at(f.time); p && !f.place_unknown) {
            s.line.push_back(p->place);
            next = f.time + ns_per_s;
        }
    }
    s.speed_m_s = median_in_place(speeds, 0.0);
    s.depth_m = median_in_place(depths, 0.0);
    return s;
}

} // namespace

std::vector<Stretch> stretches(const Scan &scan, std::size_t first, std::size_t end) {
    std::vector<Stretch> all;
    const SteadyLimits limits;
    const auto straight = [&](std::size_t n) {
        const auto strike = strike_of(scan.facts(n), limits);
        return strike != Strike::turning && strike != Strike::stopped;
    };
    for (auto n = first; n < end;) {
        const bool kind = straight(n);
        auto last = n;
        UnixNs changed = 0;
        for (auto m = n + 1; m < end; ++m) {
            if (straight(m) == kind) {
                last = m;
                changed = 0;
                continue;
            }
            if (changed == 0)
                changed = scan.facts(m).time;
            if (seconds_between(changed, scan.facts(m).time) >= shortest_s)
                break;
            if (m + 1 == end)
                last = m;
        }
        all.push_back(made(scan, n, last, kind));
        n = last + 1;
    }
    return all;
}

} // namespace heron
