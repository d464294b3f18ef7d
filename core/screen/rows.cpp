#include "screen/rows.hpp"

#include "recording/nmea.hpp"
#include "screen/circle.hpp"
#include "units/units.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace heron {
namespace {

constexpr double beam_deg = 1;

} // namespace

double seconds_a_row(const ScreenCalibration &c) {
    if (c.rows_a_second > 0)
        return 1 / c.rows_a_second;
    return (c.along_m > 0 ? c.along_m : 0.1) / reckoned_speed_m_s;
}

Ping ping_of(const LevelRow &row, const ScreenCalibration &c, UnixNs time) {
    Ping ping;
    ping.time = time;
    ping.sound_speed_m_s = assumed_sound_speed_m_s;
    ping.frequency_hz = c.frequency_khz * 1000;
    const double columns = static_cast<double>(row.size()), middle = c.middle * columns;
    const double metres = c.range_m / std::max(middle, columns - middle);
    ping.sample_interval_s = metres * 2 / assumed_sound_speed_m_s;
    ping.first_sample_s = ping.sample_interval_s / 2;
    ping.pulse_s = 1.5 * ping.sample_interval_s;
    constexpr std::size_t least = 24;
    for (const bool port : {true, false}) {
        Beam beam;
        beam.side = port ? Side::port : Side::starboard;
        beam.azimuth_deg = nominal_azimuth_deg(beam.side);
        beam.width_along_deg = beam_deg;
        beam.width_across_deg = assumed_fan_deg;
        beam.scale = {0, c.span_db / 255, 0, 255};
        // The line itself lies between two columns or on one; half a column is no sample.
        for (double at = port ? middle - 0.5 : middle + 0.5; at >= 0 && at < columns; at += port ? -1 : 1) {
            const int level = row[static_cast<std::size_t>(at)];
            beam.code.push_back(level < 0 ? missing_code : static_cast<std::uint16_t>(level));
        }
        if (beam.code.size() >= least)
            ping.beams.push_back(std::move(beam));
    }
    return ping;
}

RecordingHead head_of(const ScreenCalibration &c, UnixNs first, UnixNs last, const std::string &made_from) {
    RecordingHead head;
    head.title = told("Read from a screen: {}", made_from);
    head.sonar_model = c.source.empty() ? told("a screen") : c.source;
    head.summary = told("Assumed:");
    for (const auto &line : assumed_in(c))
        head.summary += " " + line + ";";
    head.sound_speed_m_s = assumed_sound_speed_m_s;
    if (c.start && (c.circle_bow_deg || c.along_m > 0)) {
        const double speed = c.circle_bow_deg ? 0 : c.along_m / seconds_a_row(c),
                     turn = c.start->heading_deg / degrees_per_radian;
        const LocalPlane plane(c.start->place);
        for (UnixNs t = first;; t += ns_per_s / 2) {
            const auto at = std::min(t, last);
            const double back = speed * static_cast<double>(last - at) / static_cast<double>(ns_per_s);
            PositionSample p;
            p.time = at;
            p.place = plane.to_globe({-back * std::sin(turn), -back * std::cos(turn)});
            p.sd_m = 3;
            p.speed_m_s = speed;
            head.nav.add(p);
            AttitudeSample a;
            a.time = at;
            a.heading_deg = c.start->heading_deg;
            head.nav.add(a);
            if (at == last)
                break;
        }
    } else if (!c.circle_bow_deg && c.along_m > 0) {
        for (UnixNs t = first; t < last + ns_per_s; t += ns_per_s)
            head.nav.add_speed(std::min(t, last), c.along_m / seconds_a_row(c));
    }
    if (c.depth_m)
        for (UnixNs t = first; t < last + ns_per_s; t += ns_per_s)
            head.nav.add(DepthSample{std::min(t, last), *c.depth_m, {}});
    write_down_depths_and_speeds(head);
    return head;
}

std::string vtg_sentence(double m_s) {
    return nmea_sentence(
        fmt::format("GPVTG,,T,,M,{:.2f},N,{:.2f},K,A", knots_from_m_s(m_s), km_h_from_m_s(m_s)));
}

void write_down_depths_and_speeds(RecordingHead &head) {
    head.sentences.clear();
    const auto write = [&head](UnixNs time, std::string line) {
        while (!line.empty() && (line.back() == '\n' || line.back() == '\r'))
            line.pop_back();
        head.sentences.emplace_back(time, std::move(line));
    };
    for (const auto &d : head.nav.depths())
        write(d.time, nmea_sentence(fmt::format("SDDPT,{:.2f},{:.2f},", d.below_transducer_m,
                                                d.to_waterline_m.value_or(0))));
    for (const auto &s : head.nav.speeds())
        write(s.time, vtg_sentence(s.m_s));
    std::stable_sort(head.sentences.begin(), head.sentences.end(),
                     [](const auto &a, const auto &b) { return a.first < b.first; });
}

Result<PictureRows> rows_of(const ScreenPicture &picture, const ScreenCalibration &c, UnixNs newest,
                            const std::string &made_from) {
    if (c.circle_bow_deg)
        return rays_of(picture, c, newest, made_from);
    const auto panel = straighten(picture, c);
    PictureRows r;
    r.ramp = c.ramp.empty() ? estimate_ramp(panel) : ramp_of(c.ramp);
    if (r.ramp.colours.size() < 2)
        return fail(told("the panel is of one colour"), told("nothing was read"),
                    told("see whether its corners lie on the sonar's picture"));
    LevelOfColour level(r.ramp);
    const auto step = static_cast<UnixNs>(seconds_a_row(c) * static_cast<double>(ns_per_s));
    const UnixNs first = newest - step * (panel.rows - 1);
    for (int row = 0; row < panel.rows; ++row) {
        LevelRow levels(static_cast<std::size_t>(panel.columns));
        for (int k = 0; k < panel.columns; ++k)
            levels[static_cast<std::size_t>(k)] = level(panel.at(row, k));
        auto ping = ping_of(levels, c, first + step * row);
        if (ping.beams.empty())
            return fail(told("neither side of the middle is as wide as 24 pixels"), told("nothing was read"),
                        told("see where the boat's line runs on the panel"));
        r.recording.pings.push_back(std::move(ping));
    }
    if (const auto doubt = doubt_of(r.ramp))
        r.recording.warnings.push_back(*doubt);
    r.recording.head = head_of(c, first, newest, made_from);
    return r;
}

} // namespace heron
