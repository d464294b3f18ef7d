#include "sim/sounder.hpp"

#include "recording/nmea.hpp"
#include "tuning/gear.hpp"
#include "units/units.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace heron::sim {
namespace {

std::string degrees_minutes(double value, int width) {
    const double a = std::fabs(value);
    const auto millionths = std::llround(a * 60e6);
    return fmt::format("{:0{}d}{:09.6f}", millionths / 60'000'000, width,
                       static_cast<double>(millionths % 60'000'000) / 1e6);
}

} // namespace

Sounder::Sounder(Scene scene, UnixNs start)
    : scene_(std::move(scene)), boat_(scene_.boat, scene_.seed + 1), acoustics_(scene_),
      random_(scene_.seed + 2), start_(start), now_(start), next_ping_(start + ns_per_s / 10),
      next_nmea_(start) {}

SounderHello Sounder::hello() const {
    SounderHello h;
    h.name = scene_.name + " (simulated)";
    for (const auto &b : bands())
        h.bands_hz.push_back(b.frequency_hz);
    h.shortest_range_m = 6;
    h.longest_range_m = 60;
    h.most_gain = 100;
    h.installation = scene_.boat.installation;
    Gear g;
    g.name = "heron-sounder";
    for (const auto &b : bands())
        g.bands.push_back({b.frequency_hz, b.along_deg, b.across_deg, b.bandwidth_hz, b.source_db});
    g.tilt_deg = Acoustics::tilt_deg;
    g.samples_a_side = Acoustics::samples_a_side;
    g.draught_m = h.installation.draught_m();
    g.db_a_gain_step = Acoustics::gain_step_db;
    g.level_span_db = 255 * Acoustics::db_per_count;
    g.level_at_zero_db = Acoustics::db_at_zero;
    g.shortest_range_m = h.shortest_range_m;
    g.longest_range_m = h.longest_range_m;
    h.gear = gear_to_json(g);
    return h;
}

void Sounder::ask(const SoundingSettings &wanted) {
    settings_.range_m = std::clamp(wanted.range_m, 6.0, 60.0);
    settings_.frequency_hz = band_nearest(wanted.frequency_hz).frequency_hz;
    settings_.gain = std::clamp(wanted.gain, 0, 100);
    settings_.tvg_log = std::clamp(wanted.tvg_log, 0.0, 60.0);
    settings_.pinging = wanted.pinging;
}

double Sounder::ping_period_s() const {
    return std::max(0.05, 2 * settings_.range_m / acoustics_.sound_speed_m_s() + 0.004);
}

double Sounder::depth_below_transducer() const {
    const auto &s = boat_.state();
    return std::max(0.1, scene_.depth_m(s.at) - scene_.boat.installation.draught_m());
}

std::vector<std::string> Sounder::sentences(UnixNs time) {
    const auto &s = boat_.state();
    const auto told = boat_.antenna_told();
    const auto place = LocalPlane(scene_.origin).to_globe({told.x, told.y});
    const auto stamp = print_rfc3339(time, 2); // 2026-05-14T06:12:40.25Z
    const auto clock = stamp.substr(11, 2) + stamp.substr(14, 2) + stamp.substr(17, 5);
    const auto date = stamp.substr(8, 2) + stamp.substr(5, 2) + stamp.substr(2, 2);
    const auto where =
        fmt::format("{},{},{},{}", degrees_minutes(place.latitude_deg, 2), place.latitude_deg < 0 ? 'S' : 'N',
                    degrees_minutes(place.longitude_deg, 3), place.longitude_deg < 0 ? 'W' : 'E');
    const double knots = knots_from_m_s(s.speed_m_s), heading = boat_.heading_told_deg();
    constexpr double variation = 2.0; // west
    std::vector<std::string> out;
    out.push_back(nmea_sentence(fmt::format("GPRMC,{},A,{},{:.2f},{:.1f},{},{:.1f},W,A", clock, where, knots,
                                            s.heading_deg, date, variation)));
    out.push_back(nmea_sentence(fmt::format("GPGGA,{},{},2,12,0.7,{:.1f},M,48.0,M,,", clock, where, 1.1)));
    out.push_back(nmea_sentence(fmt::format("HEHDT,{:.1f},T", std::min(heading, 359.9))));
    if (rounds_ % 5 == 0) { // once a second
        out.push_back(nmea_sentence(fmt::format("GPGST,{},0.6,0.5,0.4,0.0,{:.1f},{:.1f},0.9", clock,
                                                scene_.boat.gnss_wander_m, scene_.boat.gnss_wander_m)));
        out.push_back(nmea_sentence(fmt::format("GPVTG,{:.1f},T,{:.1f},M,{:.2f},N,{:.2f},K,A", s.heading_deg,
                                                wrap_360(s.heading_deg + variation), knots,
                                                km_h_from_m_s(s.speed_m_s))));
        const double deep = depth_below_transducer();
        out.push_back(
            nmea_sentence(fmt::format("SDDPT,{:.2f},{:.2f},60", deep, scene_.boat.installation.draught_m())));
        out.push_back(nmea_sentence(
            fmt::format("SDDBT,{:.1f},f,{:.2f},M,{:.1f},F", feet_from_metres(deep), deep, deep / 1.8288)));
        out.push_back(nmea_sentence(fmt::format("SDMTW,{:.1f},C", scene_.temperature_c)));
    }
    ++rounds_;
    return out;
}

Sounder::Event Sounder::next() {
    Event e;
    const bool ping = settings_.pinging && next_ping_ <= next_nmea_;
    e.time = ping ? next_ping_ : next_nmea_;
    boat_.advance(seconds_between(now_, e.time));
    now_ = e.time;
    if (ping) {
        WirePing wire;
        wire.number = ++pings_;
        wire.monotonic_ns = e.time - start_;
        wire.settings = settings_;
        wire.ping = acoustics_.hear(boat_.state(), settings_, static_cast<std::uint32_t>(random_()));
        wire.ping.time = e.time;
        e.ping = std::move(wire);
        next_ping_ = e.time + static_cast<std::int64_t>(ping_period_s() * 1e9);
    } else {
        e.sentences = sentences(e.time);
        next_nmea_ = e.time + ns_per_s / 5;
        if (!settings_.pinging)
            next_ping_ = e.time + ns_per_s / 20;
    }
    return e;
}

} // namespace heron::sim
