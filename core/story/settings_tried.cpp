#include "story/settings_tried.hpp"

#include "story/record.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <tuple>

namespace heron {
namespace {

constexpr std::size_t fewest_looks = 5;
constexpr UnixNs again_ns = 600 * ns_per_s;

// Whether the first look was right; nothing where nobody looked again.
std::optional<bool> bore_out(const Mark &m, const std::vector<Sighting> &looks) {
    const auto &first = looks.front();
    if (m.confirmed != Confirmed::no)
        return m.turned_out == Kind::none || family_of(m.turned_out) == first.family;
    std::optional<bool> again;
    for (const auto &look : looks)
        if (look.time - first.time >= again_ns && look.family != Family::unsure)
            again = look.family == first.family;
    return again;
}

} // namespace

std::vector<SettingsTried> settings_tried(const std::vector<Mark> &marks, UnitSystem units) {
    std::map<std::tuple<std::string, std::string, long, long>, SettingsTried> groups;
    for (const auto &m : marks) {
        auto looks = all_sightings(m);
        std::stable_sort(looks.begin(), looks.end(),
                         [](const Sighting &a, const Sighting &b) { return a.time < b.time; });
        if (looks.empty() || !(looks.front().range_setting_m > 0) || !(looks.front().frequency_hz > 0) ||
            looks.front().family == Family::unsure)
            continue;
        const auto right = bore_out(m, looks);
        if (!right)
            continue;
        const auto &first = looks.front();
        const auto depth = first.depth_m ? first.depth_m : m.depth_m;
        // As the sounder's steps are, not as a wire prints them.
        const auto key =
            std::tuple(m.lake, depth ? depth_band(depth->value, units) : std::string(),
                       std::lround(first.range_setting_m), std::lround(first.frequency_hz / 1e4));
        auto &g = groups[key];
        if (g.looked == 0) {
            g.water = std::get<0>(key);
            g.depth = std::get<1>(key);
            g.range_m = first.range_setting_m;
            g.frequency_hz = first.frequency_hz;
        }
        ++g.looked;
        g.borne_out += *right;
    }
    std::vector<SettingsTried> out;
    for (auto &[key, g] : groups) {
        g.share = wilson(g.borne_out, g.looked);
        g.too_few = g.looked < fewest_looks;
        out.push_back(std::move(g));
    }
    std::stable_sort(out.begin(), out.end(),
                     [](const SettingsTried &a, const SettingsTried &b) { return a.looked > b.looked; });
    return out;
}

} // namespace heron
