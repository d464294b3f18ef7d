#include "reading_study.hpp"

#include "parallel.hpp"

#include "reading_scenes.hpp"
#include "score.hpp"

#include "files/json.hpp"
#include "look/fish_or_leave.hpp"
#include "look/second_look.hpp"
#include "reading/reader.hpp"
#include "recording/recording.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <fstream>
#include <map>
#include <mutex>
#include <set>

namespace heron::study {
namespace {

// What every true thing was taken for, for whoever looks for a cause (HERON_TELL=1).
void tell(const Scan &scan, const std::vector<TrueThing> &things, const LocalPlane &plane,
          const KindModel &model) {
    if (std::getenv("HERON_TELL") == nullptr)
        return;
    ReaderSettings keep;
    keep.keep_all = true;
    Reader reader(model, keep);
    const auto all = on_plane(reader.advance(scan, true), plane);
    for (const auto &p : all) {
        bool none = true;
        for (const auto &t : things)
            none = none && std::hypot(p.east - t.at.x, p.north - t.at.y) > 2 + t.length_m / 2;
        const auto &c = p.contact;
        if (none) // what may be nothing, or too far off
            fmt::print("OTHER zone {} {} {} conf {:.2f} real {:.2f} peak {:.1f} z {:.1f} cells {:.1f} shadow "
                       "{:.2f} gap {:.2f} {:.2f} depth {:.1f} apart {:.1f} row {} slant {:.1f} side {}\n",
                       static_cast<int>(c.zone), name_of(c.family), name_of(c.kind), c.confidence, c.real(),
                       c.features[6] * 10, std::exp2(c.features[8]), c.features[3], c.behind.score,
                       c.behind.gap_m, c.features[16], c.behind.depth_db, c.behind.apart_z, c.row, c.slant_m,
                       name_of(c.side));
    }
    for (const auto &t : things) {
        fmt::print("{} seen {} stands {} by {:.1f} h {:.2f} l {:.2f} echo {:.1f} shadow {:.1f} row {} of {} "
                   "g {:.1f} "
                   "depth {:.1f}\n",
                   name_of(t.kind), t.seen, t.stands_out, t.margin_db, t.height_m, t.length_m, t.contrast_db,
                   t.shadow_db, t.row, scan.end(), t.ground_m, t.depth_m);
        for (const auto &p : all) {
            const double d = std::hypot(p.east - t.at.x, p.north - t.at.y);
            if (d > 2 + t.length_m / 2)
                continue;
            const auto &c = p.contact;
            fmt::print("   {:.1f} m zone {} {} {} conf {:.2f} real {:.2f} peak {:.1f} z {:.1f} cells {:.1f} "
                       "shadow {:.2f} gap {:.2f} {:.2f} depth {:.1f} len {:.2f} along {:.2f} h {:.2f}\n",
                       d, static_cast<int>(c.zone), name_of(c.family), name_of(c.kind), c.confidence,
                       c.real(), c.features[6] * 10, std::exp2(c.features[8]), c.features[3], c.behind.score,
                       c.behind.gap_m, c.features[16], c.behind.depth_db, c.length_m.value_or(-1), c.along_m,
                       c.height_m ? c.height_m->value : -9);
            if (std::getenv("HERON_SHARES") && c.zone != Zone::track) {
                auto shares = model.shares(c.zone, c.weighed(), t.kind, Kind::none);
                fmt::print("      SHARES");
                for (std::size_t i = 0; i < 6; ++i)
                    fmt::print(" {} {:+.2f} ({:.2f})", feature_names[shares[i].feature], shares[i].adds,
                               c.features[shares[i].feature]);
                fmt::print(" ...");
                for (std::size_t i = shares.size() - 12; i < shares.size(); ++i)
                    fmt::print(" {} {:+.2f} ({:.2f})", feature_names[shares[i].feature], shares[i].adds,
                               c.features[shares[i].feature]);
                fmt::print("\n");
            }
            if (const auto fix = scan.nav.fix_at(c.time); fix && c.height_m && t.height_m > 0 && d < 1.5) {
                // Where top and shadow's end ought to be, the bottom taken as level.
                const auto boat = plane.to_plane(transducer_place(fix->pose, scan.installation));
                const double g = std::hypot(boat.east_m - t.at.x, boat.north_m - t.at.y);
                const double a = scan.bottom(c.row).altitude_m;
                const double top = std::hypot(g, a - t.height_m),
                             end = top * a / std::max(0.1, a - t.height_m);
                fmt::print("      TOP {} {:.2f} END {:.2f} of {:.2f} slant {:.2f} start {:.2f} A {:.2f} "
                           "h {:.2f} told {:.2f}\n",
                           name_of(t.kind), c.top_m - top, c.shadow_end_m - end, end - top, c.slant_m - top,
                           c.shadow_start_m - top, a, t.height_m, c.height_m->value);
            }
        }
    }
}

Score read_recording_with_truth(const std::string &file, const std::string &truth_file,
                                const KindModel &model, double working_point) {
    auto recording = read_recording(file);
    std::ifstream in(truth_file);
    const auto j = nlohmann::json::parse(in);
    Scan scan;
    scan.nav = recording->head.nav;
    scan.installation = recording->head.installation;
    for (auto &p : recording->pings)
        scan.push({std::move(p), std::nullopt, {}});
    std::vector<TrueThing> things;
    std::optional<LocalPlane> plane;
    for (const auto &f : j.at("features")) {
        const auto &p = f.at("properties");
        const auto kind = kind_named(p.value("kind", ""));
        if (f.at("geometry").at("type") != "Point" || !kind)
            continue;
        const auto &c = f.at("geometry").at("coordinates");
        const GeoPoint at{c.at(1).get<double>(), c.at(0).get<double>()};
        if (!plane)
            plane.emplace(at);
        const auto e = plane->to_plane(at);
        TrueThing t;
        t.kind = *kind;
        t.at = {e.east_m, e.north_m};
        t.height_m = p.value("height_m", 0.0);
        t.length_m = p.value("length_m", 1.0);
        t.suspended = p.value("placement", "") == "suspended";
        t.seen = p.value("visible", true);
        t.stands_out = p.value("clear", false) && t.seen;
        things.push_back(t);
    }
    tell(scan, things, *plane, model);
    return score(read_all(scan, model), things, *plane, working_point);
}

} // namespace

std::string reading_study(unsigned threads, Lakes lakes, const std::string &recording,
                          const std::string &truth) {
    const auto &model = KindModel::shipped();
    constexpr double working_point = 0.5;
    std::string out = table_head();
    if (!recording.empty()) {
        const auto s = read_recording_with_truth(recording, truth, model, working_point);
        return out + line("recording", s) + details(s);
    }
    auto scenes = lakes == Lakes::drawn ? drawn_scenes() : reading_scenes();
    std::erase_if(scenes, [&](const ReadingScene &r) { return r.fitting != (lakes == Lakes::fitting); });
    if (lakes == Lakes::scatterers) {
        // It is slow: every second lake.
        for (std::size_t i = 0; i < scenes.size(); ++i)
            scenes[i].engine = i % 2 == 0 ? sim::Engine::scatterers : sim::Engine::rays;
        std::erase_if(scenes, [](const ReadingScene &r) { return r.engine == sim::Engine::rays; });
    }
    if (const char *only = std::getenv("HERON_ONLY"))
        std::erase_if(scenes, [&](const ReadingScene &r) { return r.name != only; });
    std::vector<Score> scores(scenes.size());
    constexpr std::array points{0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9};
    std::array<Score, points.size()> curve;
    std::mutex mutex;
    in_parallel(scenes.size(), threads, [&](std::size_t i) {
        const auto s = sound(scenes[i]);
        tell(s.scan, s.things, s.plane, model);
        const auto contacts = read_all(s.scan, model);
        scores[i] = score(contacts, s.things, s.plane, working_point);
        const std::lock_guard hold(mutex);
        for (std::size_t p = 0; p < points.size(); ++p)
            curve[p].add(score(contacts, s.things, s.plane, points[p]));
        fmt::print(stderr, ".");
    });
    Score total;
    std::map<std::string, Score> by;
    for (std::size_t i = 0; i < scenes.size(); ++i) {
        total.add(scores[i]);
        by["ground: " + scenes[i].ground + (scenes[i].patch.empty() ? "" : " with " + scenes[i].patch)].add(
            scores[i]);
        by[fmt::format("band: {:.0f} kHz", scenes[i].frequency_hz / 1000)].add(scores[i]);
        by[scenes[i].gain > 60   ? "gain: hot"
           : scenes[i].gain < 40 ? "gain: dark"
                                 : "gain: right"]
            .add(scores[i]);
        const double across =
            scenes[i].slope_deg * std::fabs(std::sin(scenes[i].rises_to_deg / degrees_per_radian));
        by[across < 2   ? "slope across: under 2°"
           : across < 5 ? "slope across: 2 to 5°"
                        : "slope across: over 5°"]
            .add(scores[i]);
        by[scenes[i].curved ? "track: curved" : "track: straight"].add(scores[i]);
        by[scenes[i].depth_m < 4   ? "depth: under 4 m"
           : scenes[i].depth_m < 8 ? "depth: 4 to 8 m"
                                   : "depth: over 8 m"]
            .add(scores[i]);
    }
    out += line("all", total);
    for (const auto &[name, s] : by)
        out += line(name, s);
    // Of fish that show, how many are told from their ground: look/fish_or_leave.cpp has these shares.
    std::map<std::string, std::pair<double, double>> told_of;
    for (std::size_t i = 0; i < scenes.size(); ++i)
        for (const auto &[chance, told] : scores[i].showing) {
            told_of[scenes[i].ground].first += told;
            told_of[scenes[i].ground].second += chance;
        }
    out += "\nfish told over fish computed to show: ";
    for (const auto &[ground, v] : told_of)
        out += fmt::format("{} {:.2f} of {:.0f}  ", ground, v.first / std::max(1e-9, v.second), v.second);
    out += "\nrecall over precision, told from: ";
    for (std::size_t p = 0; p < points.size(); ++p)
        out +=
            fmt::format("{:.1f} {:.2f} {:.2f}  ", points[p], curve[p].found / std::max(1.0, curve[p].things),
                        curve[p].right / std::max(1.0, curve[p].contacts));
    return out + "\n" + details(total);
}

// Things that were seen from several legs: joined into one, and never two into one.
std::string joining_study(unsigned threads) {
    auto scenes = reading_scenes();
    std::erase_if(scenes, [](const ReadingScene &r) { return !r.lanes; });
    std::mutex mutex;
    int several = 0, joined = 0, made = 0, wrong = 0;
    std::vector<std::pair<double, bool>> told;
    // What the truth was given by the first look and by both, and what was computed for the second as it was
    // run.
    double before = 0, after = 0, expected_before = 0, expected_after = 0, doubts = 0;
    in_parallel(scenes.size(), threads, [&](std::size_t i) {
        const auto s = sound(scenes[i]);
        Reader reader;
        const auto looks = reader.advance(s.scan, true);
        const auto thing_at = [&](const GeoPoint &place) {
            const auto p = s.plane.to_plane(place);
            int best = -1;
            double least = 1e9;
            for (std::size_t t = 0; t < s.things.size(); ++t) {
                const double d = std::hypot(p.east_m - s.things[t].at.x, p.north_m - s.things[t].at.y) -
                                 s.things[t].length_m / 2;
                if (d < least) {
                    least = d;
                    best = static_cast<int>(t);
                }
            }
            return least < 1.4 ? best : -1;
        };
        using Key = std::tuple<std::size_t, int, long>;
        const auto key = [](std::size_t row, Side side, double slant) {
            return Key{row, static_cast<int>(side), std::lround(slant * 100)};
        };
        std::map<Key, int> thing_of;
        std::map<int, std::map<int, Key>> legs_of; // of each thing, its surest look of each leg
        std::map<std::pair<int, int>, double> surest;
        for (const auto &c : looks) {
            const int t = c.place && c.zone != Zone::water ? thing_at(c.place->place) : -1;
            thing_of[key(c.row, c.side, c.slant_m)] = t;
            if (t >= 0 && c.confidence >= 0.5 && c.confidence > surest[{t, c.leg}]) {
                surest[{t, c.leg}] = c.confidence;
                legs_of[t][c.leg] = key(c.row, c.side, c.slant_m);
            }
        }
        const auto all = join_contacts(looks, 0.1);
        const std::lock_guard hold(mutex);
        std::map<Key, std::size_t> contact_of;
        for (std::size_t n = 0; n < all.size(); ++n) {
            contact_of[key(all[n].row, all[n].side, all[n].slant_m)] = n;
            std::set<int> inside{thing_of[key(all[n].row, all[n].side, all[n].slant_m)]};
            for (const auto &p : all[n].passes) {
                contact_of[key(p.row, p.side, p.slant_m)] = n;
                inside.insert(thing_of[key(p.row, p.side, p.slant_m)]);
            }
            inside.erase(-1);
            made += !all[n].passes.empty();
            wrong += inside.size() > 1;
        }
        for (const auto &[t, legs] : legs_of) {
            if (legs.size() < 2)
                continue;
            ++several;
            std::set<std::size_t> where;
            for (const auto &[leg, k] : legs)
                if (const auto at = contact_of.find(k); at != contact_of.end())
                    where.insert(at->second);
            joined += where.size() == 1;
        }
        std::map<Key, const Contact *> look_of;
        for (const auto &c : looks)
            look_of[key(c.row, c.side, c.slant_m)] = &c;
        for (const auto &c : all) {
            const int t = thing_of[key(c.row, c.side, c.slant_m)];
            const auto first = look_of.find(key(c.row, c.side, c.slant_m));
            if (c.passes.size() != 1 || t < 0 || first == look_of.end())
                continue;
            const auto second = look_of.find(key(c.passes[0].row, c.passes[0].side, c.passes[0].slant_m));
            const auto &one = *first->second;
            // Where there was a doubt.
            if (second == look_of.end() || *std::max_element(one.chances.begin(), one.chances.end()) > 0.85)
                continue;
            SecondLookRequest q;
            q.contact = &one;
            q.gear = usual_gear();
            q.water.shallowest_m = q.water.deepest_m = std::max(0.8, one.depth_m);
            q.water.bottom = bottom_of(scenes[i]);
            q.first_heading_deg = one.heading_deg.value_or(0);
            SecondLook pass;
            pass.heading_deg = second->second->heading_deg.value_or(0);
            pass.ground_m = second->second->ground_m.value;
            pass.setting = {scenes[i].range_m, band_near(q.gear, scenes[i].frequency_hz),
                            scenes[i].speed_m_s};
            const auto kind = static_cast<std::size_t>(s.things[static_cast<std::size_t>(t)].kind);
            doubts += 1;
            before += one.chances[kind];
            after += c.chances[kind];
            for (const double p : one.chances)
                expected_before += p * p;
            expected_after += sure_after(q, pass);
        }
        // Contacts of several looks: is what they say together as sure as it says?
        const auto sc = score(all, s.things, s.plane, 0.5);
        const auto on = on_plane(all, s.plane);
        for (std::size_t n = 0; n < on.size(); ++n)
            if (on[n].contact.looks > 1)
                told.push_back(sc.confidence[n]);
    });
    double sure = 0, right = 0;
    for (const auto &[c, r] : told) {
        sure += c;
        right += r;
    }
    return fmt::format(
        "{} lakes in lanes: {} things seen from several legs, {} joined into one ({:.2f}); {} contacts "
        "made of several looks, {} of them of two things ({:.3f}); these say {:.2f} and are right {:.2f}\n"
        "{:.0f} of them in doubt at the surer look: the truth was given {:.2f} by it and {:.2f} by both; "
        "computed {:.2f} and {:.2f}\n",
        scenes.size(), several, joined, several > 0 ? 1.0 * joined / several : 0.0, made, wrong,
        made > 0 ? 1.0 * wrong / made : 0.0,
        sure / static_cast<double>(std::max<std::size_t>(1, told.size())),
        right / static_cast<double>(std::max<std::size_t>(1, told.size())), doubts,
        before / std::max(1.0, doubts), after / std::max(1.0, doubts),
        expected_before / std::max(1.0, doubts), expected_after / std::max(1.0, doubts));
}

std::string empty_lakes(unsigned threads, bool fitting) {
    auto scenes = reading_scenes();
    std::vector<ReadingScene> lakes;
    const char *only = std::getenv("HERON_ONLY");
    for (const auto &r : scenes) {
        if (r.fitting != fitting || (only != nullptr && r.name != only))
            continue;
        auto e = r;
        e.empty = true;
        e.lanes = e.curved = false;
        e.length_m = 210;
        e.seed += 5;
        // As long as they are their slopes would run ashore.
        while (std::tan(e.slope_deg / degrees_per_radian) * (e.length_m / 2 + 10) *
                   std::fabs(std::cos(e.rises_to_deg / degrees_per_radian)) >
               0.6 * e.depth_m)
            e.slope_deg *= 0.95;
        lakes.push_back(e);
    }
    std::vector<double> told(lakes.size()), km(lakes.size());
    std::map<std::string, int> as;
    std::mutex mutex;
    in_parallel(lakes.size(), threads, [&](std::size_t i) {
        const auto s = sound(lakes[i]);
        for (const auto &c : read_all(s.scan, KindModel::shipped())) {
            if (c.confidence < 0.5)
                continue;
            told[i] += 1;
            const std::lock_guard hold(mutex);
            if (std::getenv("HERON_TELL") != nullptr)
                fmt::print("EMPTY {} {} {} depth {:.1f} slope {:.1f} every {} zone {} {} conf {:.2f} z "
                           "{:.1f} slant {:.1f} "
                           "length {:.1f} along {:.1f} shadow {:.1f} height {:.2f} looks {}\n",
                           lakes[i].name, lakes[i].ground, lakes[i].patch, lakes[i].depth_m,
                           lakes[i].slope_deg, lakes[i].every, static_cast<int>(c.zone), name_of(c.kind),
                           c.confidence, std::exp2(c.features[feature_named("stands out")]), c.slant_m,
                           c.length_m.value_or(0), c.along_m, c.behind.score,
                           c.height_m ? c.height_m->value : 0.0, lakes[i].looks);
            ++as[fmt::format("{}{}", name_of(c.kind),
                             c.zone == Zone::dark    ? " by its shadow"
                             : c.zone == Zone::water ? " in the water"
                                                     : "")];
        }
        km[i] = s.km;
    });
    std::map<std::string, std::pair<double, double>> by;
    for (std::size_t i = 0; i < lakes.size(); ++i)
        for (const auto &name :
             {std::string("all"),
              lakes[i].ground + (lakes[i].patch.empty() ? "" : " with " + lakes[i].patch)}) {
            by[name].first += told[i];
            by[name].second += km[i];
        }
    std::string out = "| ground | km | told | in 500 m |\n|---|---|---|---|\n";
    for (const auto &[name, v] : by)
        out += fmt::format("| {} | {:.1f} | {:.0f} | {:.2f} |\n", name, v.second, v.first,
                           v.first / v.second / 2);
    out += "\nTold as: ";
    for (const auto &[kind, n] : as)
        out += fmt::format("{} {}  ", kind, n);
    return out + "\n";
}

} // namespace heron::study
