#include "recording/recording_file.hpp"

#include "recording/nmea.hpp"
#include "water/water.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <unordered_map>
#include <unordered_set>

namespace heron {

void RecordingFile::fetch_together(std::size_t part) {
    if (together == part)
        return;
    together = part;
    std::vector<std::pair<std::size_t, std::size_t>> span(groups.size(), {std::size_t(-1), 0});
    const auto take = [&](std::size_t group, std::size_t row) {
        span[group].first = std::min(span[group].first, row);
        span[group].second = std::max(span[group].second, row + 1);
    };
    for (auto i = part * rows_a_part; i < std::min(order.size(), (part + 1) * rows_a_part); ++i) {
        take(order[i].group, order[i].row);
        for (std::size_t n = 0; n < order[i].other_count; ++n)
            take(order[i].others[n].group, order[i].others[n].row);
    }
    for (std::size_t g = 0; g < groups.size(); ++g)
        groups[g].may_read_together(std::min(span[g].first, span[g].second), span[g].second);
}

namespace {

tl::unexpected<Fault> refuse(const std::string &file, const std::string &where, const std::string &what) {
    return fail(told("{}: {}: {}", file, where, what), "nothing was read");
}

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
    const auto axis = g.variable(v.dimension_name(0));
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

template <class Sample>
std::size_t gaps_in(const std::vector<Sample> &samples, UnixNs from, UnixNs to) {
    std::size_t gaps = 0;
    for (std::size_t i = 1; i < samples.size(); ++i)
        gaps += samples[i].time > from && samples[i - 1].time < to &&
                seconds_between(samples[i - 1].time, samples[i].time) > NavTrack::longest_hold_s;
    return gaps;
}

Result<void> read_environment(const std::string &file, const NcGroup &root, RecordingHead &head,
                              std::vector<std::string> &warnings) {
    const auto environment = root.child("Environment");
    std::optional<double> c;
    if (environment) {
        c = scalar(*environment, "sound_speed_indicative");
        const auto t = scalar(*environment, "water_temperature");
        if (t && *t >= -2 && *t <= 60)
            head.water_temperature_c = t;
    }
    if (c && *c > 0) {
        head.sound_speed_m_s = *c;
        if (*c < 1300 || *c > 1700)
            warnings.push_back(
                told("the sound speed of {:.0f} m/s is not one of water; ranges follow it all the same", *c));
        return {};
    }
    if (!head.water_temperature_c)
        return refuse(file, "/Environment/sound_speed_indicative",
                      "no sound speed and no water_temperature to compute it from");
    head.sound_speed_m_s = sound_speed_fresh_m_s(*head.water_temperature_c);
    warnings.push_back(told("no sound speed is told; {:.1f} m/s follows from {:.1f} °C (fresh water)",
                            head.sound_speed_m_s, *head.water_temperature_c));
    return {};
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
    auto &at = head.installation;
    at.transducer = {scalar(platform, "transducer_offset_x", t).value_or(0),
                     scalar(platform, "transducer_offset_y", t).value_or(0),
                     scalar(platform, "transducer_offset_z", t).value_or(0)};
    at.antenna = {scalar(platform, "position_offset_x").value_or(0),
                  scalar(platform, "position_offset_y").value_or(0),
                  scalar(platform, "position_offset_z").value_or(0)};
    at.water_level_m = scalar(platform, "water_level").value_or(0);
}

} // namespace

Result<RecordingFile> RecordingFile::open(const std::filesystem::path &path) {
    const std::scoped_lock hold(netcdf_lock());
    auto file = NcFile::open(path);
    if (!file)
        return tl::unexpected(file.error());
    RecordingFile s(std::move(*file));
    s.name = path.string();
    const auto root = s.file.root();
    s.head.title = root.text_attribute("title").value_or("");
    s.head.summary = root.text_attribute("summary").value_or("");

    const auto sonar = root.child("Sonar");
    if (!sonar)
        return refuse(s.name, "/Sonar", "there is no such group; this is no sonar recording");
    s.head.sonar_model = sonar->text_attribute("sonar_model").value_or("");
    for (const auto &g : sonar->children()) {
        if (!g.variable("backscatter_r") && !g.name.starts_with("Beam_group"))
            continue;
        auto group = BeamGroup::open(g, s.warnings);
        if (!group)
            return refuse(s.name, group.error().kept, group.error().happened);
        s.groups.push_back(std::move(*group));
    }
    if (s.groups.empty())
        return refuse(s.name, "/Sonar/Beam_group1", "there is no beam group");

    if (auto read = read_environment(s.name, root, s.head, s.warnings); !read)
        return tl::unexpected(read.error());
    const auto platform = root.child("Platform");
    if (platform) {
        s.head.platform_name = platform->text_attribute("platform_name").value_or("");
        read_installation(*platform, s.groups.front().transducer_id(), s.head, s.warnings);
        if (auto read = read_positions(s.name, *platform, s.head, s.warnings); !read)
            return tl::unexpected(read.error());
        if (auto read = read_attitudes(s.name, *platform, s.head, s.warnings); !read)
            return tl::unexpected(read.error());
        read_sentences(*platform, s.head, s.warnings);
        use_sentences(s.head, s.warnings);
    }

    // Each group in the order of its own rows, without repeats; then all merged by time.
    std::size_t repeated = 0, stepped = 0, untimed = 0, shared = 0;
    std::vector<std::vector<RecordingEntry>> rows(s.groups.size());
    for (std::size_t g = 0; g < s.groups.size(); ++g) {
        const auto &times = s.groups[g].times();
        std::unordered_map<UnixNs, std::size_t> seen;
        UnixNs latest = std::numeric_limits<UnixNs>::min();
        for (std::size_t row = 0; row < times.size(); ++row) {
            if (!times[row]) {
                ++untimed;
                continue;
            }
            const auto [other, fresh] = seen.try_emplace(*times[row], row);
            if (!fresh) {
                if (s.groups[g].same_samples(other->second, row)) {
                    ++repeated;
                    continue;
                }
                ++shared;
            }
            const bool back = *times[row] < latest;
            stepped += back;
            latest = std::max(latest, *times[row]);
            rows[g].push_back({.time = *times[row],
                               .group = static_cast<std::uint32_t>(g),
                               .place_unknown = back,
                               .row = row});
        }
    }
    // Whether two groups are parts of one unit holds for all of their rows: asked once for each pair.
    std::map<std::pair<std::size_t, std::size_t>, bool> parts;
    const auto part_of = [&](std::size_t a, std::size_t b) {
        const auto [at, fresh] = parts.try_emplace({a, b}, false);
        if (fresh)
            at->second = s.groups[a].other_sides_than(s.groups[b]);
        return at->second;
    };
    std::vector<std::size_t> head_of(rows.size(), 0);
    std::vector<UnixNs> reached(rows.size(), std::numeric_limits<UnixNs>::min());
    while (true) {
        std::size_t best = rows.size();
        UnixNs earliest = 0;
        for (std::size_t g = 0; g < rows.size(); ++g) {
            if (head_of[g] == rows[g].size())
                continue;
            const UnixNs t = std::max(reached[g], rows[g][head_of[g]].time);
            if (best == rows.size() || t < earliest)
                best = g, earliest = t;
        }
        if (best == rows.size())
            break;
        const auto entry = rows[best][head_of[best]++];
        reached[best] = earliest;
        if (!s.order.empty()) {
            auto &last = s.order.back();
            bool apart = last.time == entry.time && last.group != entry.group &&
                         last.place_unknown == entry.place_unknown &&
                         last.other_count < RecordingEntry::most_others && part_of(last.group, entry.group);
            for (std::size_t i = 0; apart && i < last.other_count; ++i)
                apart = last.others[i].group != entry.group && part_of(last.others[i].group, entry.group);
            if (apart) {
                last.others[last.other_count++] = {entry.group, entry.row};
                continue;
            }
        }
        s.order.push_back(entry);
    }
    if (s.order.empty())
        return refuse(s.name, s.groups.front().path() + "/ping_time", "there are no pings");

    if (untimed > 0)
        s.warnings.push_back(told("{} pings have no readable time and were left out", untimed));
    if (repeated > 0)
        s.warnings.push_back(told("{} pings are repeated and were taken once", repeated));
    if (shared > 0)
        s.warnings.push_back(told("{} pings share their time with another one", shared));
    if (stepped > 0)
        s.warnings.push_back(told(
            "time steps back at {} pings; they stay in the order in which they were written, without a place",
            stepped));
    const auto &nav = s.head.nav;
    const UnixNs first = s.order.front().time, last = s.order.back().time;
    if (nav.positions().empty())
        s.warnings.emplace_back("there are no positions; things can be measured, but their place is unknown");
    else if (const auto n = gaps_in(nav.positions(), first, last); n > 0)
        s.warnings.push_back(n == 1 ? told("positions have a gap of more than 2 s")
                                    : told("positions have {} gaps of more than 2 s", n));
    if (!nav.positions().empty() && nav.attitudes().empty())
        s.warnings.emplace_back(
            "there are no headings; the course over ground serves where the boat runs straight");
    else if (const auto n = gaps_in(nav.attitudes(), first, last); n > 0)
        s.warnings.push_back(n == 1 ? told("headings have a gap of more than 2 s")
                                    : told("headings have {} gaps of more than 2 s", n));
    if (!nav.positions().empty()) {
        const auto lost = static_cast<std::size_t>(
            std::count_if(s.order.begin(), s.order.end(),
                          [&](const RecordingEntry &e) { return e.place_unknown || !nav.fix_at(e.time); }));
        if (lost > 0)
            s.warnings.push_back(told("{} of {} pings have no place", lost, s.order.size()));
    }
    return s;
}

Result<Ping> RecordingFile::ping(std::size_t i) const {
    const std::scoped_lock hold(netcdf_lock());
    const auto &entry = order.at(i);
    const auto &group = groups[entry.group];
    auto ping = group.read(entry.row);
    if (!ping)
        return fail(told("{}: {}: ping {} is damaged", name, group.path(), entry.row),
                    "the pings before it and after it are read");
    for (std::size_t n = 0; n < entry.other_count; ++n) {
        // One transmission, told in several groups; beams that are sampled alike make one ping.
        auto other = groups[entry.others[n].group].read(entry.others[n].row);
        if (!other)
            continue;
        // The side-looking beams tell its band.
        if (groups[entry.others[n].group].sides().front() != Side::down)
            std::swap(*ping, *other);
        for (auto &beam : other->beams)
            ping->beams.push_back(std::move(beam));
    }
    ping->time = entry.time;
    ping->place_unknown = entry.place_unknown;
    ping->sound_speed_m_s = head.sound_speed_m_s;
    for (const auto &beam : ping->beams)
        if (!(std::fabs(ping->slant_m(static_cast<double>(beam.code.size()))) <= most_slant_m))
            return fail(told("{}: {}: ping {} reaches farther than any lake", name, group.path(), entry.row),
                        "the pings before it and after it are read");
    return ping;
}

} // namespace heron
