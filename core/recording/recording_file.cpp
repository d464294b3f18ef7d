#include "recording/recording_file.hpp"

#include "recording/platform_reader.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <unordered_map>

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

template <class Sample>
std::size_t gaps_in(const std::vector<Sample> &samples, UnixNs from, UnixNs to) {
    std::size_t gaps = 0;
    for (std::size_t i = 1; i < samples.size(); ++i)
        gaps += samples[i].time > from && samples[i - 1].time < to &&
                seconds_between(samples[i - 1].time, samples[i].time) > NavTrack::longest_hold_s;
    return gaps;
}

// What is odd about the times of pings, counted.
struct OddTimes {
    std::size_t repeated = 0, stepped = 0, untimed = 0, shared = 0;

    void tell(std::vector<std::string> &warnings) const {
        if (untimed > 0)
            warnings.push_back(told("{} pings have no readable time and were left out", untimed));
        if (repeated > 0)
            warnings.push_back(told("{} pings are repeated and were taken once", repeated));
        if (shared > 0)
            warnings.push_back(told("{} pings share their time with another one", shared));
        if (stepped > 0)
            warnings.push_back(
                told("time steps back at {} pings; they stay in the order in which they were written, "
                     "without a place",
                     stepped));
    }
};

// The pings of a group in the order of its own rows, without repeats.
std::vector<RecordingEntry> rows_of(const BeamGroup &group, std::size_t number, OddTimes &odd) {
    std::vector<RecordingEntry> rows;
    const auto &times = group.times();
    std::unordered_map<UnixNs, std::size_t> seen;
    UnixNs latest = std::numeric_limits<UnixNs>::min();
    for (std::size_t row = 0; row < times.size(); ++row) {
        if (!times[row]) {
            ++odd.untimed;
            continue;
        }
        const auto [other, fresh] = seen.try_emplace(*times[row], row);
        if (!fresh) {
            if (group.same_samples(other->second, row)) {
                ++odd.repeated;
                continue;
            }
            ++odd.shared;
        }
        const bool back = *times[row] < latest;
        odd.stepped += back;
        latest = std::max(latest, *times[row]);
        rows.push_back({.time = *times[row],
                        .group = static_cast<std::uint32_t>(number),
                        .place_unknown = back,
                        .row = row});
    }
    return rows;
}

// All groups merged by time; what several heard of one transmission becomes one entry.
std::vector<RecordingEntry> merged(const std::vector<BeamGroup> &groups,
                                   const std::vector<std::vector<RecordingEntry>> &rows) {
    std::vector<RecordingEntry> order;
    // Whether two groups are parts of one unit holds for all of their rows: asked once for each pair.
    std::map<std::pair<std::size_t, std::size_t>, bool> parts;
    const auto part_of = [&](std::size_t a, std::size_t b) {
        const auto [at, fresh] = parts.try_emplace({a, b}, false);
        if (fresh)
            at->second = groups[a].other_sides_than(groups[b]);
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
            return order;
        const auto entry = rows[best][head_of[best]++];
        reached[best] = earliest;
        if (!order.empty()) {
            auto &last = order.back();
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
        order.push_back(entry);
    }
}

// Where positions and headings do not reach.
void tell_gaps(const NavTrack &nav, const std::vector<RecordingEntry> &order,
               std::vector<std::string> &warnings) {
    const UnixNs first = order.front().time, last = order.back().time;
    if (nav.positions().empty())
        warnings.emplace_back("there are no positions; things can be measured, but their place is unknown");
    else if (const auto n = gaps_in(nav.positions(), first, last); n > 0)
        warnings.push_back(n == 1 ? told("positions have a gap of more than 2 s")
                                  : told("positions have {} gaps of more than 2 s", n));
    if (!nav.positions().empty() && nav.attitudes().empty())
        warnings.emplace_back(
            "there are no headings; the course over ground serves where the boat runs straight");
    else if (const auto n = gaps_in(nav.attitudes(), first, last); n > 0)
        warnings.push_back(n == 1 ? told("headings have a gap of more than 2 s")
                                  : told("headings have {} gaps of more than 2 s", n));
    if (nav.positions().empty())
        return;
    const auto lost =
        static_cast<std::size_t>(std::count_if(order.begin(), order.end(), [&](const RecordingEntry &e) {
            return e.place_unknown || !nav.fix_at(e.time);
        }));
    if (lost > 0)
        warnings.push_back(told("{} of {} pings have no place", lost, order.size()));
}

} // namespace

Result<void> RecordingFile::open_groups() {
    const auto sonar = file.root().child("Sonar");
    if (!sonar)
        return refuse(name, "/Sonar", "there is no such group; this is no sonar recording");
    head.sonar_model = sonar->text_attribute("sonar_model").value_or("");
    std::optional<std::string> bare; // a beam group without samples
    for (const auto &g : sonar->children()) {
        const bool named = g.name.starts_with("Beam_group");
        if (!g.variable("backscatter_r")) {
            if (named && !bare)
                bare = g.path;
            continue;
        }
        auto group = BeamGroup::open(g, warnings);
        if (!group)
            return refuse(name, group.error().kept, group.error().happened);
        groups.push_back(std::move(*group));
    }
    if (groups.empty())
        return bare ? refuse(name, *bare + "/backscatter_r", "is missing")
                    : refuse(name, "/Sonar/Beam_group1", "there is no beam group");
    if (bare)
        warnings.push_back(told("{}/backscatter_r: is missing; the other beam groups are read", *bare));
    return {};
}

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
    if (auto opened = s.open_groups(); !opened)
        return tl::unexpected(opened.error());
    if (auto read = read_environment(s.name, root, s.head, s.warnings); !read)
        return tl::unexpected(read.error());
    if (auto read = read_platform(s.name, root, s.groups.front().transducer_id(), s.head, s.warnings); !read)
        return tl::unexpected(read.error());

    OddTimes odd;
    std::vector<std::vector<RecordingEntry>> rows;
    for (std::size_t g = 0; g < s.groups.size(); ++g)
        rows.push_back(rows_of(s.groups[g], g, odd));
    s.order = merged(s.groups, rows);
    if (s.order.empty())
        return refuse(s.name, s.groups.front().path() + "/ping_time",
                      odd.untimed > 0 ? told("no ping has a time that can be true")
                                      : told("there are no pings"));
    odd.tell(s.warnings);
    tell_gaps(s.head.nav, s.order, s.warnings);
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
