// Lakes heard by a turning head, and makings drawn at random.
#include "reading_scenes.hpp"
#include "weigh.hpp"

#include "recording/nmea_feed.hpp"
#include "sim/sounder.hpp"

#include <algorithm>
#include <cmath>
#include <random>

namespace heron::study {

// Everything that a formula or a device may have otherwise, each by itself.
sim::Making drawn_making(std::uint32_t seed) {
    std::mt19937 random(seed ^ 0xD1CE);
    const auto share = [&](double a, double b) {
        return std::uniform_real_distribution<double>(a, b)(random);
    };
    const auto about = [&](double times) { return std::exp(share(-1, 1) * std::log(times)); };
    const auto one_in = [&](int n) { return share(0, n) < 1; };
    sim::Making m;
    m.grazing_power = share(1.3, 2.7);
    m.patchy = about(1.8);
    m.rough = about(2.5);
    m.patch_fall = share(0.8, 3);
    m.rough_fall = share(0.8, 3);
    m.beam = about(1.5);
    m.beam_told = about(1.3);
    m.bandwidth = about(1.5);
    m.samples = static_cast<std::size_t>(share(600, 1500));
    m.source_db = share(-8, 4);
    m.tvg_db_per_m = share(-0.25, 0.25);
    m.ripple_db = one_in(2) ? share(0, 2) : 0;
    m.ripple_m = share(3, 12);
    m.things_db = share(-4, 3);
    m.opacity = about(1.6);
    m.gain_wander_db = one_in(2) ? share(0, 0.8) : 0;
    m.weak_share = one_in(3) ? share(0.005, 0.05) : 0;
    m.weak_db = share(3, 10);
    m.db_per_count = share(0.2, 0.3);
    return m;
}

Sounded sound_around(ReadingScene r, bool moves, const std::vector<sim::Swimmers> &swimmers,
                     std::optional<double> asked_s) {
    r.length_m = 36;
    r.lanes = r.curved = false;
    r.drop = Kind::none;
    r.slope_deg = std::min(r.slope_deg, 4.0);
    r.speed_m_s = 0.8;
    Sounded s;
    auto scene = plant(r, s.things);
    sim::Hold hold;
    hold.at = {keel_east, from_north + r.length_m / 2 - scene.boat.head.forward_m};
    hold.drift_m = 0.8;
    hold.swing_deg = 7;
    scene.boat.hold = hold;
    scene.swimmers = swimmers;
    s.plane = LocalPlane(scene.origin);
    const auto start = 1'800'000'000LL * ns_per_s;
    sim::Sounder sounder(scene, start);
    auto side = sounder.settings();
    side.pinging = false;
    sounder.ask(side);
    auto head = sounder.head_settings();
    head.range_m = std::clamp(6 * r.depth_m, 12.0, 20.0);
    head.frequency_hz = r.frequency_hz;
    head.gain = r.gain;
    head.turning->pace = moves || !swimmers.empty() ? 4 : 2;
    head.pinging = true;
    sounder.ask_head(head);
    if (!moves)
        sounder.put_on_hold();
    s.scan.installation = scene.boat.head_installation();
    NmeaFeed feed;
    const double seconds = asked_s.value_or(moves ? (r.length_m + 8) / r.speed_m_s : 60);
    const double reach =
        0.9 * std::sqrt(std::max(1.0, std::pow(sounder.head_settings().range_m, 2) - r.depth_m * r.depth_m));
    while (true) {
        auto e = sounder.next();
        if (seconds_between(start, e.time) > seconds)
            break;
        for (auto &line : e.sentences)
            feed.take(line, e.time, s.scan.nav);
        if (!e.ray)
            continue;
        s.boats.emplace_back(s.scan.end(), sounder.boat());
        for (auto &t : s.things) {
            const auto from = from_boat(sounder.boat(), s.scan.installation, t.at);
            const double g = std::hypot(from.ahead_m, from.starboard_m),
                         azimuth = wrap_360(std::atan2(from.starboard_m, from.ahead_m) * degrees_per_radian);
            if (g > reach || g < 0.5 * r.depth_m || (azimuth > 160 && azimuth < 200))
                continue;
            t.seen = t.stands_out = true;
            t.row = s.scan.end();
            t.ground_m = g;
            t.depth_m = scene.depth_m(t.at);
        }
        s.scan.push({std::move(e.ray->ping), std::nullopt, e.ray->settings});
    }
    return s;
}

} // namespace heron::study
