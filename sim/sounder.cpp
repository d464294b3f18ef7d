#include "sim/sounder.hpp"

#include "recording/nmea.hpp"
#include "tuning/gear.hpp"
#include "units/units.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace heron::sim {
namespace {} // namespace

Sounder::Sounder(Scene scene, UnixNs start)
    : scene_(std::move(scene)), boat_(scene_.boat, scene_.seed + 1), acoustics_(scene_),
      random_(scene_.seed + 2), start_(start), now_(start), next_ping_(start + ns_per_s / 10),
      next_nmea_(start), head_random_(scene_.seed + 3) {
    head_settings_.range_m = 18;
    head_settings_.frequency_hz = head_bands().back().frequency_hz;
    head_settings_.turning = Turning();
    head_settings_.pinging = false;
}

void Sounder::ask(const SoundingSettings &wanted) {
    settings_.range_m = std::clamp(wanted.range_m, 6.0, 60.0);
    settings_.frequency_hz = band_nearest(wanted.frequency_hz).frequency_hz;
    settings_.gain = std::clamp(wanted.gain, 0, 100);
    settings_.tvg_log = std::clamp(wanted.tvg_log, 0.0, 60.0);
    settings_.pinging = wanted.pinging;
}

namespace {

// One device as its greeting tells it.
SounderHello greeting(const std::string &name, const std::vector<Band> &bands, double shortest_m,
                      double longest_m, double tilt_deg, const Installation &installation,
                      std::size_t samples) {
    SounderHello h;
    h.name = name;
    h.shortest_range_m = shortest_m;
    h.longest_range_m = longest_m;
    h.most_gain = 100;
    h.installation = installation;
    Gear g;
    g.name = "heron-sounder";
    for (const auto &b : bands) {
        h.bands_hz.push_back(b.frequency_hz);
        g.bands.push_back({b.frequency_hz, b.along_deg, b.across_deg, b.bandwidth_hz, b.source_db});
    }
    g.tilt_deg = tilt_deg;
    g.samples_a_side = static_cast<int>(samples);
    g.draught_m = installation.draught_m();
    g.db_a_gain_step = Acoustics::gain_step_db;
    g.level_span_db = 255 * Acoustics::db_per_count;
    g.level_at_zero_db = Acoustics::db_at_zero;
    g.shortest_range_m = shortest_m;
    g.longest_range_m = longest_m;
    h.gear = gear_to_json(g);
    return h;
}

constexpr double rest_s = 0.004;

} // namespace

SounderHello Sounder::hello() const {
    return greeting(scene_.name + " (simulated)", bands(), 6, 60, Acoustics::tilt_deg,
                    scene_.boat.installation, Acoustics::samples_a_side);
}

SounderHello Sounder::head_hello() const {
    auto h = greeting(scene_.name + ", turning head (simulated)", head_bands(), 5, 45,
                      Acoustics::head_tilt_deg, scene_.boat.head_installation(), scene_.making.samples);
    h.stream = StreamId::around;
    h.steers = scene_.boat.hold.has_value();
    return h;
}

void Sounder::ask_head(const SoundingSettings &wanted) {
    head_settings_.range_m = std::clamp(wanted.range_m, 5.0, 45.0);
    head_settings_.frequency_hz = band_nearest(wanted.frequency_hz, head_bands()).frequency_hz;
    head_settings_.gain = std::clamp(wanted.gain, 0, 100);
    head_settings_.tvg_log = std::clamp(wanted.tvg_log, 0.0, 60.0);
    head_settings_.pinging = wanted.pinging;
    if (const auto &t = wanted.turning) {
        const bool other = t->from_deg != head_settings_.turning->from_deg ||
                           t->wide_deg != head_settings_.turning->wide_deg;
        // Its motor steps by nine tenths of a degree.
        head_settings_.turning =
            Turning{std::clamp(std::round(t->step_deg / 0.9), 1.0, 6.0) * 0.9, std::clamp(t->pace, 1, 5),
                    wrap_180(t->from_deg), std::clamp(t->wide_deg, 10.0, 360.0)};
        if (other)
            head_says_deg_ = head_is_deg_ = 0, head_way_ = 1;
    }
    if (head_settings_.pinging && next_ray_ == 0)
        next_ray_ = now_ + ns_per_s / 10;
    else if (!head_settings_.pinging)
        next_ray_ = 0;
}

double Sounder::ray_period_s() const {
    static constexpr std::array<double, 5> rays_a_second{10, 12.5, 16, 20, 25};
    return std::max(1 / rays_a_second[static_cast<std::size_t>(head_settings_.turning->pace - 1)],
                    2 * head_settings_.range_m / acoustics_.sound_speed_m_s() + rest_s);
}

WirePing Sounder::sound_ray() {
    const auto &t = *head_settings_.turning;
    const auto &fault = scene_.head_fault;
    const double seconds = seconds_between(start_, now_);
    acoustics_.set_time(seconds);
    WirePing wire;
    wire.number = ++rays_;
    wire.monotonic_ns = now_ - start_;
    wire.settings = head_settings_;
    const double looks_to = t.from_deg + fault.zero_deg + (fault.backwards ? -head_is_deg_ : head_is_deg_);
    wire.ping = acoustics_.hear_ray(boat_.state(), head_settings_, looks_to,
                                    static_cast<std::uint32_t>(head_random_()));
    wire.ping.time = now_;
    wire.ping.beams.front().azimuth_deg = wrap_180(t.from_deg + head_says_deg_);
    // On to the next step: round and round, or to and fro.
    const auto step = [&](double &at) {
        at = t.full() ? std::fmod(at + t.step_deg, 360.0) : at + head_way_ * t.step_deg;
    };
    if (!t.full() &&
        (head_says_deg_ + head_way_ * t.step_deg > t.wide_deg || head_says_deg_ + head_way_ * t.step_deg < 0))
        head_way_ = -head_way_;
    step(head_says_deg_);
    const bool stuck = fault.stuck_after_s >= 0 && seconds >= fault.stuck_after_s;
    if (!stuck && std::uniform_real_distribution<double>(0, 1)(head_random_) >= fault.skips)
        step(head_is_deg_);
    return wire;
}

double Sounder::ping_period_s() const {
    return std::max(0.05, 2 * settings_.range_m / acoustics_.sound_speed_m_s() + rest_s);
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
    const auto where = nmea_place(place);
    const double knots = knots_from_m_s(s.speed_m_s),
                 heading = boat_.heading_told_deg(scene_.head_fault.heading_late_s);
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
    const bool ray = next_ray_ != 0 && next_ray_ <= e.time;
    if (ray)
        e.time = next_ray_;
    boat_.advance(seconds_between(now_, e.time));
    now_ = e.time;
    if (ray) {
        e.ray = sound_ray();
        next_ray_ = e.time + static_cast<std::int64_t>(ray_period_s() * 1e9);
    } else if (ping) {
        acoustics_.set_time(seconds_between(start_, now_));
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
