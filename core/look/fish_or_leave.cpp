#include "look/fish_or_leave.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

constexpr double enough = 0.8, worth_counting = 0.3;
constexpr std::size_t of_one_pass = 400; // rows

double told_share(const Contact &place, BottomType bottom) {
    if (place.crowned())
        return told_from_wood;
    return told_from_ground(bottom) * (place.kind == Kind::weeds ? 0.5 : 1.0);
}

} // namespace

double told_from_ground(BottomType bottom) {
    switch (bottom) {
    case BottomType::silt:
        return 0.83;
    case BottomType::sand:
        return 0.77;
    case BottomType::gravel:
        return 0.28;
    case BottomType::rock:
        break;
    }
    return 0.05;
}

std::size_t band_near(const Gear &gear, double frequency_hz) {
    std::size_t best = 0;
    for (std::size_t b = 1; b < gear.bands.size(); ++b)
        if (std::fabs(gear.bands[b].frequency_hz - frequency_hz) <
            std::fabs(gear.bands[best].frequency_hz - frequency_hz))
            best = b;
    return best;
}

FishOrLeave fish_or_leave(const Scan &scan, const Contact &place, std::span<const Pass> looks,
                          std::span<const Contact> contacts, const Gear &gear, const WaterState &water,
                          double fish_length_m) {
    FishOrLeave r;
    if (!place.place || gear.bands.empty())
        return r;
    auto fish = SmallestThing::fish(fish_length_m);
    fish.height_m = std::min(1.0, place.depth_m / 3);
    const double reach = 4 + place.length_m.value_or(1) / 2;
    double missed = 1, best = 0;
    bool earlier = false, latest = false, perhaps = false;
    for (const auto &look : looks) {
        const auto &f = scan.facts(look.row);
        PlacePass p{look, 0, false};
        const double speed = std::isfinite(f.speed_m_s) ? static_cast<double>(f.speed_m_s) : 1.4;
        const Setting setting{static_cast<double>(f.range_m),
                              band_near(gear, scan.ping(look.row).frequency_hz), std::max(0.3, speed)};
        p.chance = showing_of(gear, water, fish, setting, std::max(0.8, place.depth_m), look.ground_m).either;
        p.chance *= told_share(place, water.bottom);
        const auto same_pass = [&](std::size_t row) {
            return (row > look.row ? row - look.row : look.row - row) < of_one_pass;
        };
        if (place.crowned() && same_pass(place.row) && !place.maybe_fish.empty())
            p.grain = place.maybe_fish.front().chance;
        for (const auto &q : place.passes)
            if (place.crowned() && same_pass(q.row))
                p.grain = std::max(p.grain, q.fish_chance);
        for (const auto &c : contacts) {
            if (c.family != Family::fish || !c.place)
                continue;
            const bool joined = std::any_of(c.passes.begin(), c.passes.end(),
                                            [&](const Contact::Pass &q) { return same_pass(q.row); });
            if ((same_pass(c.row) || joined) &&
                leg_between(c.place->place, place.place->place).distance_m < reach)
                p.fish = true;
        }
        if (p.fish) {
            earlier = latest = true;
            perhaps = false;
            missed = 1;
            best = 0;
        } else if (p.grain > 0) {
            perhaps = true; // neither one nor none: it says nothing of how empty the place is
        } else {
            missed *= 1 - p.chance;
            best = std::max(best, p.chance);
            // A look that would hardly have shown one says nothing about them having left.
            if (p.chance > worth_counting)
                latest = false;
        }
        r.looks.push_back(p);
    }
    r.chance = 1 - missed;
    if (latest)
        r.answer = FishThere::yes;
    else if (perhaps)
        r.answer = FishThere::perhaps;
    else if (earlier)
        r.answer = FishThere::gone;
    else if (r.chance >= enough)
        r.answer = FishThere::probably_empty;
    else if (best > worth_counting)
        r.more_looks = static_cast<int>(std::ceil(std::log((1 - enough) / missed) / std::log(1 - best)));
    return r;
}

} // namespace heron
