#include "around_study.hpp"

#include "parallel.hpp"
#include "reading_scenes.hpp"
#include "score.hpp"
#include "weigh.hpp"

#include "around/cast.hpp"
#include "reading/sweep_reader.hpp"
#include "reading/swimmers.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <mutex>
#include <random>

namespace heron::study {
namespace {

struct Casts {
    double within = 0, of = 0;
    std::vector<double> off_deg, off_m;
};

// From each seat of the usual boat to what was told, against the truth, at the end of the recording.
void count_casts(const Sounded &s, const std::vector<Contact> &contacts, Casts &casts) {
    const auto boat = usual_boat();
    const auto row = s.scan.end() - 1;
    const auto fix = s.scan.nav.fix_at(s.scan.facts(row).time);
    if (!fix || s.boats.empty())
        return;
    const auto head_told = s.plane.to_plane(transducer_place(fix->pose, s.scan.installation));
    const auto &truth = s.boats.back().second;
    for (const auto &c : contacts) {
        if (!c.place || c.confidence < 0.5 || c.placement == Placement::suspended)
            continue;
        const auto at = s.plane.to_plane(c.place->place);
        const TrueThing *thing = nullptr;
        double nearest = 1.5;
        for (const auto &t : s.things)
            // Of what is wide its middle is nobody's aim.
            if (const double d = std::hypot(at.east_m - t.at.x, at.north_m - t.at.y);
                d < nearest && t.length_m < 1.5) {
                nearest = d;
                thing = &t;
            }
        if (thing == nullptr)
            continue;
        const double h = fix->pose.heading_deg / degrees_per_radian, de = at.east_m - head_told.east_m,
                     dn = at.north_m - head_told.north_m;
        const FromHead told{de * std::sin(h) + dn * std::cos(h), de * std::cos(h) - dn * std::sin(h)};
        const auto really = from_boat(truth, s.scan.installation, thing->at);
        for (const auto &seat : boat.seats) {
            const auto a = cast_from(boat, seat, told),
                       b = cast_from(boat, seat, {really.ahead_m, really.starboard_m});
            if (b.distance_m < 3 || b.distance_m > 25)
                continue;
            const double degrees = std::fabs(wrap_180(a.off_bow.degrees - b.off_bow.degrees)),
                         metres = std::fabs(a.distance_m - b.distance_m);
            casts.off_deg.push_back(degrees);
            casts.off_m.push_back(metres);
            casts.within += degrees < 2 && metres < 0.5;
            casts.of += 1;
        }
    }
}

double share_under(std::vector<double> v, double share) {
    if (v.empty())
        return 0;
    std::sort(v.begin(), v.end());
    return v[std::min(v.size() - 1, static_cast<std::size_t>(share * static_cast<double>(v.size())))];
}

// Fish that swim about a boat that holds: which are followed, and where they are when a lure lands.
struct Swum {
    double swimmers = 0, followed = 0, tracks = 0, false_tracks = 0, leads = 0, leads_within = 0, minutes = 0;
    void add(const Swum &o) {
        swimmers += o.swimmers;
        followed += o.followed;
        tracks += o.tracks;
        false_tracks += o.false_tracks;
        leads += o.leads;
        leads_within += o.leads_within;
        minutes += o.minutes;
    }
};

Swum follow_swimmers(ReadingScene scene, std::uint32_t seed) {
    std::mt19937 random(seed);
    const auto share = [&](double a, double b) {
        return std::uniform_real_distribution<double>(a, b)(random);
    };
    std::vector<sim::Swimmers> swim;
    for (int i = 0; i < 2; ++i) {
        sim::Swimmers w;
        // Past the boat at some metres, along a line.
        const double turn = share(0, 6.283), aside = share(4, 9);
        const sim::Point past{keel_east + aside * std::sin(turn), from_north + 18 + aside * std::cos(turn)};
        const double way = turn + 1.5708 + share(-0.4, 0.4);
        w.path = {{past.x - 9 * std::sin(way), past.y - 9 * std::cos(way)},
                  {past.x + 9 * std::sin(way), past.y + 9 * std::cos(way)}};
        w.speed_m_s = share(0.15, 0.45);
        w.above_bottom_m = share(0.6, 1.6);
        const int many = i == 0 ? 1 : 6;
        const double length = i == 0 ? 0.6 : 0.3,
                     ts = 19.1 * std::log10(length * 100) - 0.9 * std::log10(770.0) - 58;
        for (int k = 0; k < many; ++k)
            w.fish.push_back(
                {{share(-0.6, 0.6) * (many > 1), share(-0.6, 0.6) * (many > 1)}, 0, length / 3, ts});
        swim.push_back(w);
    }
    scene.crowding = 0.4;
    scene.seed += seed;
    const auto s = sound_around(scene, false, swim, 150);
    Swum n;
    n.swimmers = static_cast<double>(swim.size());
    n.minutes = 2.5;
    ReaderSettings settings;
    settings.least_confidence = 0.2;
    SweepReader reader(KindModel::shipped(Side::around), settings);
    const auto looks = reader.advance(s.scan, true);
    const auto standing = standing_places(looks);
    SwimmerTracker tracker;
    std::vector<bool> seen(swim.size(), false);
    std::map<int, bool> tracks;
    const auto start = s.scan.facts(0).time;
    for (const auto &v : reader.views()) {
        std::vector<Contact> of_turn;
        std::copy_if(looks.begin(), looks.end(), std::back_inserter(of_turn),
                     [&](const Contact &c) { return c.leg == v.sweep; });
        tracker.take(of_turn, standing);
        for (const auto &t : tracker.swimmers()) {
            if (t.missed > 0)
                continue;
            const auto on_globe = [&](const EastNorth &p) {
                return s.plane.to_plane(tracker.plane()->to_globe(p));
            };
            const auto at = on_globe(t.at(0));
            const double seconds = seconds_between(start, t.time);
            std::optional<std::size_t> is;
            for (std::size_t w = 0; w < swim.size(); ++w) {
                const auto truth = swim[w].at(seconds);
                if (std::hypot(truth.x - at.east_m, truth.y - at.north_m) < 1.5)
                    is = w;
            }
            tracks[t.id] = tracks[t.id] || is.has_value();
            if (!is)
                continue;
            seen[*is] = true;
            // The lure lands four seconds on.
            constexpr double until_s = 4;
            const auto then = on_globe(t.at(until_s));
            const auto truth = swim[*is].at(seconds + until_s);
            n.leads += 1;
            n.leads_within += std::hypot(truth.x - then.east_m, truth.y - then.north_m) < 1;
        }
    }
    n.followed = static_cast<double>(std::count(seen.begin(), seen.end(), true));
    n.tracks = static_cast<double>(tracks.size());
    n.false_tracks = static_cast<double>(
        std::count_if(tracks.begin(), tracks.end(), [](const auto &t) { return !t.second; }));
    return n;
}

} // namespace

namespace {

// One set of lakes read: what stands out, and what is in view at all.
struct Read {
    Score all, still, running, in_view;
    std::map<std::string, Score> by;
    Casts standing, moving;
    /// Heads without any fault of which one was told.
    double heads = 0, late = 0, backwards = 0, slips = 0, zero = 0;
};

Read read_lakes(const std::vector<ReadingScene> &scenes, unsigned threads) {
    Read r;
    std::mutex mutex;
    in_parallel(scenes.size(), threads, [&](std::size_t i) {
        auto scene = scenes[i];
        scene.crowding = 1;
        const bool moves = i % 2 == 1;
        auto s = sound_around(scene, moves);
        ReaderSettings settings;
        settings.least_confidence = 0.2;
        SweepReader reader(KindModel::shipped(Side::around), settings);
        const auto looks = reader.advance(s.scan, true);
        const auto contacts = join_sweeps(looks, reader.views(), 0.1);
        const auto clear = score(contacts, s.things, s.plane, 0.5);
        auto things = s.things;
        for (auto &t : things)
            t.stands_out = t.seen;
        const auto whole = score(contacts, things, s.plane, 0.5);
        const auto head = reader.check().findings();
        const std::lock_guard hold(mutex);
        r.heads += 1;
        r.late += head.heading_late_s.has_value();
        r.backwards += head.backwards;
        r.slips += head.slips_deg.has_value();
        r.zero += head.zero_deg.has_value();
        r.all.add(clear);
        r.in_view.add(whole);
        (moves ? r.running : r.still).add(clear);
        r.by["ground: " + scene.ground + (scene.patch.empty() ? "" : " with " + scene.patch)].add(clear);
        count_casts(s, join_sweeps(looks, reader.views(), 0.1, true), moves ? r.moving : r.standing);
        fmt::print(stderr, ".");
    });
    return r;
}

// Where rays lay what is truly there, the wander of the positions taken out, beside a circle drawn about the
// boat as it is at the end of the turn.
struct PlacedRays {
    std::vector<double> own, naive;
};

PlacedRays place_rays(const ReadingScene &scene) {
    const auto s = sound_around(scene, true, {}, std::nullopt, 1.5);
    Rays rays;
    rays.follow(s.scan, s.scan.end());
    const auto &all = rays.rays();
    PlacedRays p;
    std::vector<std::array<double, 4>> off;
    for (std::size_t i = 0; i < all.size(); ++i) {
        const auto &ray = all[i];
        const auto boat = std::lower_bound(s.boats.begin(), s.boats.end(), ray.row,
                                           [](const auto &b, std::size_t row) { return b.first < row; });
        auto last = i;
        while (last + 1 < all.size() && all[last + 1].sweep == ray.sweep)
            ++last;
        if (!ray.on_ground || boat == s.boats.end() || last + 1 >= all.size())
            continue;
        const auto &end = all[last];
        const double turned = end.bearing_deg - end.off_bow_deg;
        for (const auto &t : s.things) {
            const auto from = from_boat(boat->second, s.scan.installation, t.at);
            const double g = std::hypot(from.ahead_m, from.starboard_m);
            if (g > 16 || std::fabs(wrap_180(std::atan2(from.starboard_m, from.ahead_m) * degrees_per_radian -
                                             ray.off_bow_deg)) > 0.9)
                continue;
            const auto laid = [&](const EastNorth &at, double bearing_deg) {
                const double b = bearing_deg / degrees_per_radian;
                const auto on = s.plane.to_plane(
                    rays.plane()->to_globe({at.east_m + g * std::sin(b), at.north_m + g * std::cos(b)}));
                return EastNorth{on.east_m - t.at.x, on.north_m - t.at.y};
            };
            const auto own = laid(ray.at, ray.bearing_deg), naive = laid(end.at, turned + ray.off_bow_deg);
            off.push_back({own.east_m, own.north_m, naive.east_m, naive.north_m});
        }
    }
    if (off.empty())
        return p;
    const auto middle = [&](std::size_t k) {
        std::vector<double> v;
        for (const auto &o : off)
            v.push_back(o[k]);
        return share_under(v, 0.5);
    };
    const double e = middle(0), n = middle(1);
    for (const auto &o : off) {
        p.own.push_back(std::hypot(o[0] - e, o[1] - n));
        p.naive.push_back(std::hypot(o[2] - e, o[3] - n));
    }
    return p;
}

std::string told(const Read &r) {
    auto out = table_head() + line("what stands out by 4 dB", r.all) + line("standing", r.still) +
               line("moving", r.running);
    for (const auto &[name, s] : r.by)
        out += line(name, s);
    out += line("all in view", r.in_view);
    const auto casts = [](const char *name, const Casts &c) {
        return fmt::format("{}: {:.0f} of {:.0f} casts within 2° and 0.5 m ({:.2f}); 95 in 100 within "
                           "{:.1f}° and {:.2f} m\n",
                           name, c.within, c.of, c.within / std::max(1.0, c.of), share_under(c.off_deg, 0.95),
                           share_under(c.off_m, 0.95));
    };
    out += fmt::format(
        "\nOf {:.0f} heads without a fault told: late heading {:.0f}, backwards {:.0f}, steps missed {:.0f}, "
        "zero off {:.0f}\n",
        r.heads, r.late, r.backwards, r.slips, r.zero);
    return out + "\n" + casts("standing", r.standing) + casts("moving", r.moving) + details(r.all);
}

} // namespace

std::string around_study(unsigned threads) {
    auto scenes = reading_scenes();
    std::erase_if(scenes, [](const ReadingScene &r) { return r.fitting || r.depth_m > 9; });
    scenes.resize(std::min<std::size_t>(scenes.size(), 36));
    auto drawn = drawn_scenes();
    std::erase_if(drawn, [](const ReadingScene &r) { return r.depth_m > 9; });
    drawn.resize(std::min<std::size_t>(drawn.size(), 36));
    auto out = "Lakes at which the joining was looked at:\n\n" + told(read_lakes(scenes, threads)) +
               "\nLakes of other makings, nothing tuned to them:\n\n" + told(read_lakes(drawn, threads));
    std::vector<ReadingScene> waters;
    std::copy_if(scenes.begin(), scenes.end(), std::back_inserter(waters), [](const ReadingScene &r) {
        return (r.ground == "sand" || r.ground == "silt") && r.patch.empty() && r.depth_m < 7;
    });
    PlacedRays placement;
    std::mutex placing;
    in_parallel(12, threads, [&](std::size_t i) {
        const auto p = place_rays(drawn[i]);
        const std::lock_guard hold(placing);
        placement.own.insert(placement.own.end(), p.own.begin(), p.own.end());
        placement.naive.insert(placement.naive.end(), p.naive.begin(), p.naive.end());
    });
    out += fmt::format(
        "\nAt 1.5 m/s and {:.0f} rays at things: placed by each ray's own place and heading {:.2f} m "
        "off in the median, by the boat at the end of the turn {:.2f} m\n",
        static_cast<double>(placement.own.size()), share_under(placement.own, 0.5),
        share_under(placement.naive, 0.5));
    Swum swum;
    std::mutex mutex;
    in_parallel(16, threads, [&](std::size_t i) {
        const auto some = follow_swimmers(waters[i % waters.size()], static_cast<std::uint32_t>(100 + 7 * i));
        const std::lock_guard hold(mutex);
        swum.add(some);
    });
    out += fmt::format(
        "\n{:.0f} of {:.0f} that swim are followed ({:.2f}); {:.0f} of {:.0f} tracks are of nothing that "
        "swims, "
        "{:.2f} in five minutes; {:.0f} of {:.0f} leads within a metre four seconds on ({:.2f})\n",
        swum.followed, swum.swimmers, swum.followed / swum.swimmers, swum.false_tracks, swum.tracks,
        5 * swum.false_tracks / swum.minutes, swum.leads_within, swum.leads,
        swum.leads_within / std::max(1.0, swum.leads));
    return out;
}

} // namespace heron::study
