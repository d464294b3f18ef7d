#include "recording/platform_reader.hpp"

#include "geo/on_a_boat.hpp"
#include "recording/cf_time.hpp"
#include "recording/nmea.hpp"
#include "water/water.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace heron {

tl::unexpected<Fault> refuse(const std::string &file, const std::string &where, const std::string &what) {
    return fail(told("{}: {}: {}", file, where, what), "nothing was read");
}

namespace {

std::string at(const NcGroup &g, const char *variable) {
    return g.path + "/" + variable;
}

// A scalar (or an array of one) variable; nothing when absent, not a number or not finite.
std::optional<double> scalar(const NcGroup &g, const char *name, std::size_t index = 0) {
    const auto v = g.variable(name);
    if (!v)
        return std::nullopt;
    const auto values = v->numbers();
    if (!values || index >= values->size() || !std::isfinite((*values)[index]))
        return std::nullopt;
    return (*values)[index];
}

// The times of the axis along which a platform variable runs.
Result<std::vector<std::optional<UnixNs>>> axis_times(const std::string &file, const NcGroup &g,
                                                      const NcVariable &v) {
    if (v.shape.size() != 1)
        return refuse(file, at(g, v.name.c_str()), "wrong dimensions, one axis of time is asked for");
    auto axis = g.variable(v.dimension_name(0));
    // The axis may go by the profile's name though its dimension has another.
    for (const char *usual : {"time1", "time2"})
        if (!axis)
            if (const auto other = g.variable(usual); other && other->dimension == v.dimension)
                axis = other;
    if (!axis)
        return refuse(file, at(g, v.name.c_str()), "its axis of time is missing");
    if (axis->shape != v.shape)
        return refuse(file, at(g, axis->name.c_str()), "wrong dimensions");
    auto times = read_times(*axis);
    if (!times)
        return refuse(file, at(g, axis->name.c_str()), "times cannot be read: " + times.error().happened);
    return *times;
}

Result<void> read_positions(const std::string &file, const NcGroup &platform, RecordingHead &head,
                            std::vector<std::string> &warnings) {
    const auto lat = platform.variable("latitude"), lon = platform.variable("longitude");
    if (!lat || !lon)
        return {};
    if (lat->shape != lon->shape)
        return refuse(file, at(platform, "longitude"), "wrong dimensions");
    const auto times = axis_times(file, platform, *lat);
    if (!times)
        return tl::unexpected(times.error());
    const auto y = lat->numbers(), x = lon->numbers();
    if (!y || !x)
        return refuse(file, at(platform, "latitude"), "holds no readable numbers");
    std::vector<double> speed;
    if (const auto s = platform.variable("speed_ground"); s && s->shape == lat->shape)
        if (auto v = s->numbers())
            speed = std::move(*v);
    std::vector<PositionSample> samples;
    bool back = false;
    for (std::size_t i = 0; i < times->size(); ++i) {
        if (!(*times)[i])
            continue;
        PositionSample p;
        p.time = *(*times)[i];
        p.place = {(*y)[i], (*x)[i]};
        if (i < speed.size() && speed[i] >= 0)
            p.speed_m_s = speed[i];
        back = back || (!samples.empty() && p.time < samples.back().time);
        samples.push_back(p);
    }
    if (back)
        warnings.emplace_back("times of positions step back; they were put in order");
    std::stable_sort(samples.begin(), samples.end(),
                     [](const auto &a, const auto &b) { return a.time < b.time; });
    clean_positions(samples, warnings);
    for (auto &p : samples) {
        p.place.longitude_deg = wrap_180(p.place.longitude_deg);
        head.nav.add(p);
    }
    return {};
}

Result<void> read_attitudes(const std::string &file, const NcGroup &platform, RecordingHead &head,
                            std::vector<std::string> &warnings) {
    const auto heading = platform.variable("heading");
    if (!heading)
        return {};
    const auto times = axis_times(file, platform, *heading);
    if (!times)
        return tl::unexpected(times.error());
    const auto h = heading->numbers();
    if (!h)
        return refuse(file, at(platform, "heading"), "holds no readable numbers");
    const auto beside = [&](const char *name) {
        std::vector<double> values;
        if (const auto v = platform.variable(name); v && v->shape == heading->shape)
            if (auto n = v->numbers())
                values = std::move(*n);
        return values;
    };
    const auto pitch = beside("pitch"), roll = beside("roll");
    std::vector<AttitudeSample> samples;
    bool back = false;
    for (std::size_t i = 0; i < times->size(); ++i) {
        if (!(*times)[i])
            continue;
        AttitudeSample a;
        a.time = *(*times)[i];
        a.heading_deg = (*h)[i];
        if (i < pitch.size())
            a.pitch_deg = pitch[i];
        if (i < roll.size())
            a.roll_deg = roll[i];
        back = back || (!samples.empty() && a.time < samples.back().time);
        samples.push_back(a);
    }
    if (back)
        warnings.emplace_back("times of headings step back; they were put in order");
    std::stable_sort(samples.begin(), samples.end(),
                     [](const auto &a, const auto &b) { return a.time < b.time; });
    clean_attitudes(samples, warnings);
    compare_with_track(samples, head.nav, warnings);
    for (const auto &a : samples)
        head.nav.add(a);
    return {};
}

void read_sentences(const NcGroup &platform, RecordingHead &head, std::vector<std::string> &warnings) {
    const auto group = platform.child("NMEA");
    if (!group)
        return;
    const auto datagram = group->variable("NMEA_datagram");
    const auto axis = group->variable("time");
    if (!datagram || !axis || datagram->shape.empty() || axis->shape.size() != 1 ||
        axis->shape[0] != datagram->shape[0]) {
        if (datagram)
            warnings.push_back(group->path + ": sentences without readable times were left out");
        return;
    }
    const auto times = read_times(*axis);
    const auto lines = datagram->texts();
    if (!times || !lines || lines->size() != times->size()) {
        warnings.push_back(group->path + ": sentences cannot be read and were left out");
        return;
    }
    for (std::size_t i = 0; i < lines->size(); ++i)
        if ((*times)[i])
            head.sentences.emplace_back(*(*times)[i], (*lines)[i]);
}

// Depths always come from the sentences; positions and headings only where the platform tells none of its
// own, and speeds where nobody tells a position.
void use_sentences(RecordingHead &head, std::vector<std::string> &warnings) {
    NavTrack heard;
    NmeaDecoder decoder;
    for (const auto &[time, line] : head.sentences)
        decoder.take(line, time, heard);
    for (const auto &d : heard.depths())
        head.nav.add(d);
    if (decoder.damaged() > 0)
        warnings.push_back(told("{} NMEA sentences are damaged and were left out", decoder.damaged()));
    if (head.nav.positions().empty() && !heard.positions().empty()) {
        auto samples = heard.positions();
        clean_positions(samples, warnings);
        for (const auto &p : samples)
            head.nav.add(p);
        warnings.emplace_back("positions were taken from the NMEA sentences");
    }
    if (head.nav.positions().empty() && head.nav.speeds().empty())
        for (const auto &s : heard.speeds())
            head.nav.add_speed(s.time, s.m_s);
    if (head.nav.attitudes().empty() && !heard.attitudes().empty()) {
        auto samples = heard.attitudes();
        clean_attitudes(samples, warnings);
        compare_with_track(samples, head.nav, warnings);
        for (const auto &a : samples)
            head.nav.add(a);
        warnings.emplace_back("headings were taken from the NMEA sentences");
    }
}

void read_installation(const NcGroup &platform, const std::optional<std::string> &transducer_id,
                       RecordingHead &head, std::vector<std::string> &warnings) {
    std::size_t t = 0;
    std::vector<std::string> ids;
    if (const auto v = platform.variable("transducer_ids"))
        if (auto texts = v->texts())
            ids = std::move(*texts);
    if (transducer_id) {
        const auto found = std::find(ids.begin(), ids.end(), *transducer_id);
        if (found != ids.end())
            t = static_cast<std::size_t>(found - ids.begin());
        else if (!ids.empty())
            warnings.push_back(told("no transducer is called '{}'; the first one was taken", *transducer_id));
    } else if (ids.size() > 1) {
        warnings.push_back(
            told("the beam group names none of the {} transducers; the first one was taken", ids.size()));
    }
    const auto held = [&](const char *name, std::size_t index = 0) {
        const double metres = scalar(platform, name, index).value_or(0);
        if (on_a_boat(metres))
            return metres;
        warnings.push_back(told("{}/{}: {:.6g} m is farther than anything on a boat hangs; taken as 0",
                                platform.path, name, metres));
        return 0.0;
    };
    const auto offset = [&](const std::string &of, std::size_t index) {
        return BodyOffset{held((of + "_x").c_str(), index), held((of + "_y").c_str(), index),
                          held((of + "_z").c_str(), index)};
    };
    auto &hung = head.installation;
    hung.transducer = offset("transducer_offset", t);
    hung.antenna = offset("position_offset", 0);
    hung.water_level_m = held("water_level");
    constexpr double splash_m = 0.5;
    if (hung.draught_m() < -splash_m)
        warnings.push_back(
            told("the transducer hangs {:.1f} m above the waterline by what is told; water depths are "
                 "so much less than what lies under it",
                 -hung.draught_m()));
}

} // namespace

Result<void> read_environment(const std::string &file, const NcGroup &root, RecordingHead &head,
                              std::vector<std::string> &warnings) {
    const auto environment = root.child("Environment");
    std::optional<double> c, told_temperature;
    if (environment) {
        c = scalar(*environment, "sound_speed_indicative");
        told_temperature = scalar(*environment, "water_temperature");
        if (told_temperature) {
            const auto unit =
                environment->variable("water_temperature")->text_attribute("units").value_or("");
            if (unit == "K" || unit == "kelvin" || unit == "Kelvin")
                *told_temperature -= 273.15;
            if (*told_temperature >= -2 && *told_temperature <= 60)
                head.water_temperature_c = told_temperature;
        }
    }
    if (c && *c > 0) {
        head.sound_speed_m_s = *c;
        if (*c < 1300 || *c > 1700)
            warnings.push_back(
                told("the sound speed of {:.0f} m/s is not one of water; ranges follow it all the same", *c));
        return {};
    }
    if (!head.water_temperature_c && told_temperature)
        return refuse(file, "/Environment/water_temperature",
                      told("no sound speed is told, and {:.1f} °C is no water's to compute it from",
                           *told_temperature));
    if (!head.water_temperature_c)
        return refuse(file, "/Environment/sound_speed_indicative",
                      "no sound speed and no water_temperature to compute it from");
    head.sound_speed_m_s = sound_speed_fresh_m_s(*head.water_temperature_c);
    warnings.push_back(told("no sound speed is told; {:.1f} m/s follows from {:.1f} °C (fresh water)",
                            head.sound_speed_m_s, *head.water_temperature_c));
    return {};
}

Result<void> read_platform(const std::string &file, const NcGroup &root,
                           const std::optional<std::string> &transducer_id, RecordingHead &head,
                           std::vector<std::string> &warnings) {
    const auto platform = root.child("Platform");
    if (!platform)
        return {};
    head.platform_name = platform->text_attribute("platform_name").value_or("");
    read_installation(*platform, transducer_id, head, warnings);
    if (auto read = read_positions(file, *platform, head, warnings); !read)
        return read;
    if (auto read = read_attitudes(file, *platform, head, warnings); !read)
        return read;
    read_sentences(*platform, head, warnings);
    use_sentences(head, warnings);
    return {};
}

} // namespace heron
