#include "reading_study.hpp"

#include "reading_scenes.hpp"
#include "score.hpp"

#include "look/fish_or_leave.hpp"
#include "look/second_look.hpp"
#include "reading/reader.hpp"
#include "recording/recording.hpp"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <fmt/format.h>
#include <fstream>
#include <functional>
#include <map>
#include <mutex>
#include <nlohmann/json.hpp>
#include <random>
#include <set>
#include <thread>

namespace heron::study {
namespace {

void in_parallel(std::size_t n, unsigned threads, const std::function<void(std::size_t)> &work) {
    std::atomic<std::size_t> next{0};
    std::vector<std::thread> pool;
    for (unsigned t = 0; t < std::max(1U, threads); ++t)
        pool.emplace_back([&] {
            for (auto i = next++; i < n; i = next++)
                work(i);
        });
    for (auto &t : pool)
        t.join();
}

struct Example {
    Zone zone;
    Features features;
    Kind kind;
    double weight = 1;
    std::size_t scene = 0;
    int thing = -1; ///< in the scene's truth
};

double reach_of(const TrueThing &t) {
    return 1.0 + t.length_m / 2;
}

// On which side of the boat a thing was abeam.
bool starboard_of(const Sounded &s, const TrueThing &t) {
    const auto fix = s.scan.nav.fix_at(s.scan.facts(t.row).time);
    if (!fix)
        return false;
    const auto boat = s.plane.to_plane(transducer_place(fix->pose, s.scan.installation));
    const double heading = fix->pose.heading_deg / degrees_per_radian;
    return (t.at.x - boat.east_m) * std::cos(heading) - (t.at.y - boat.north_m) * std::sin(heading) > 0;
}

// Labels candidates by the nearest true thing; what is near but not at one says nothing.
std::vector<Example> examples(const Sounded &s, std::size_t scene) {
    ReaderSettings keep;
    keep.keep_all = true;
    Reader reader(KindModel::shipped(), keep);
    std::vector<Example> all;
    for (const auto &p : on_plane(reader.advance(s.scan, true), s.plane)) {
        double nearest = 1e9;
        const TrueThing *thing = nullptr;
        for (const auto &t : s.things) {
            // A fish's distance is not known from its echo alone.
            double d = std::hypot(p.east - t.at.x, p.north - t.at.y) - (t.suspended ? 0.8 : 0.3);
            if (p.contact.zone == Zone::water) {
                // In the water nothing but the way run and the range along the sound can be compared.
                if ((!t.suspended && t.kind != Kind::tree) || !t.seen)
                    continue;
                const double up = t.depth_m - s.scan.installation.draught_m() - t.height_m;
                const double along = s.scan.facts(p.contact.row).along_m - s.scan.facts(t.row).along_m,
                             slant = (p.contact.slant_m + p.contact.echo_end_m) / 2 -
                                     std::hypot(t.ground_m, std::max(0.0, up));
                d = std::hypot(std::fabs(along) - 0.3, t.kind == Kind::tree ? 0.0 : slant);
            }
            // A shadow found first: where its source, or it, ought to lie along the sound.
            if (p.contact.zone == Zone::dark && t.seen && t.depth_m > 0 && t.height_m > 0) {
                const double up = t.depth_m - s.scan.installation.draught_m(),
                             top = std::hypot(t.ground_m, std::max(0.0, up - t.height_m)),
                             own = s.scan.bottom(t.row).altitude_m,
                             end = t.height_m < 0.9 * own ? top * own / (own - t.height_m) : 1e9;
                const auto &b = p.contact.behind;
                const double along = s.scan.facts(p.contact.row).along_m - s.scan.facts(t.row).along_m;
                const bool this_side = (p.contact.side == Side::starboard) == starboard_of(s, t);
                double slant = 1e9;
                if (b.source_z > 0)
                    slant = std::fabs((b.source_m + b.source_end_m) / 2 - top) - 0.2;
                else if (t.suspended)
                    slant = std::fabs((b.start_m + b.end_m) / 2 - end);
                if (!t.suspended)
                    slant = std::min(slant, std::fabs(b.start_m - top) - 0.3);
                d = this_side ? std::hypot(std::max(0.0, std::fabs(along) - 0.3), std::max(0.0, slant)) : 1e9;
            }
            if (d / reach_of(t) < nearest) {
                nearest = d / reach_of(t);
                thing = &t;
            }
        }
        if (thing != nullptr && nearest < 0.8)
            all.push_back({p.contact.zone, p.contact.features, thing->kind, thing->stands_out ? 1.0 : 0.5,
                           scene, static_cast<int>(thing - s.things.data())});
        else if (thing == nullptr || nearest > 1.8)
            all.push_back({p.contact.zone, p.contact.features, Kind::none, 1, scene, -1});
    }
    return all;
}

// Multinomial logistic regression with a square penalty, by gradient steps with momentum (Adam).
void fit_zone(KindModel::ZoneWeights &w, const std::vector<Example> &data, double penalty) {
    for (std::size_t i = 0; i < feature_count; ++i) {
        double sum = 0, squares = 0, n = 0;
        for (const auto &e : data) {
            sum += e.features[i];
            squares += e.features[i] * e.features[i];
            n += 1;
        }
        w.mean[i] = n > 0 ? sum / n : 0;
        w.scale[i] =
            n > 1 ? std::max(0.05, std::sqrt(std::max(0.0, squares / n - w.mean[i] * w.mean[i]))) : 1;
    }
    constexpr auto inputs = KindModel::inputs;
    using Matrix = std::array<std::array<double, inputs>, kind_count>;
    std::vector<std::array<double, inputs>> x;
    double total = 0;
    std::array<double, kind_count> many{};
    for (const auto &e : data) {
        x.push_back(KindModel::expand(w, e.features));
        total += e.weight;
        many[static_cast<std::size_t>(e.kind)] += e.weight;
    }
    if (data.empty())
        return;
    auto weights = std::make_unique<Matrix>(), first = std::make_unique<Matrix>(),
         second = std::make_unique<Matrix>(), gradient = std::make_unique<Matrix>();
    for (std::size_t k = 0; k < kind_count; ++k)
        (*weights)[k][0] = std::log((many[k] + 0.02) / total);
    constexpr int steps = 700;
    for (int step = 1; step <= steps; ++step) {
        *gradient = {};
        for (std::size_t n = 0; n < data.size(); ++n) {
            KindChances p{};
            double most = -1e300, sum = 0;
            for (std::size_t k = 0; k < kind_count; ++k) {
                for (std::size_t i = 0; i < inputs; ++i)
                    p[k] += (*weights)[k][i] * x[n][i];
                most = std::max(most, p[k]);
            }
            for (auto &v : p)
                sum += v = std::exp(v - most);
            for (std::size_t k = 0; k < kind_count; ++k) {
                const double d = data[n].weight *
                                 (p[k] / sum - (k == static_cast<std::size_t>(data[n].kind) ? 1 : 0)) / total;
                if (std::fabs(d) < 1e-9)
                    continue;
                for (std::size_t i = 0; i < inputs; ++i)
                    (*gradient)[k][i] += d * x[n][i];
            }
        }
        const double rate = 0.08 * (step < 500 ? 1 : 0.2);
        for (std::size_t k = 0; k < kind_count; ++k)
            for (std::size_t i = 0; i < inputs; ++i) {
                double g = (*gradient)[k][i];
                if (i > 0)
                    g += penalty * (i > feature_count ? 2 : 1) * (*weights)[k][i];
                auto &m = (*first)[k][i];
                auto &v = (*second)[k][i];
                m = 0.9 * m + 0.1 * g;
                v = 0.999 * v + 0.001 * g * g;
                (*weights)[k][i] -= rate * (m / (1 - std::pow(0.9, step))) /
                                    (std::sqrt(v / (1 - std::pow(0.999, step))) + 1e-8);
            }
    }
    w.weight = *weights;
}

// One temperature, so that chances on scenes left out agree with what was counted.
void cool(KindModel &m, Zone zone, const std::vector<Example> &held) {
    auto &w = m.zones[static_cast<std::size_t>(zone)];
    double best = 1e300, at = 1;
    for (double t = 0.6; t < 3.5; t *= 1.08) {
        w.temperature = t;
        double loss = 0;
        for (const auto &e : held)
            if (e.zone == zone)
                loss -=
                    e.weight *
                    std::log(std::max(1e-9, m.chances(zone, e.features)[static_cast<std::size_t>(e.kind)]));
        if (loss < best) {
            best = loss;
            at = t;
        }
    }
    w.temperature = at;
}

void write_weights(const KindModel &m, const std::string &file) {
    std::ofstream out(file);
    out << "// Weights of the naming, written by scripts/study-reading --fit; docs/accuracy.md tells on "
           "what.\n";
    const auto numbers = [&](const auto &row) {
        out << "{";
        for (std::size_t i = 0; i < row.size(); ++i)
            out << (i > 0 ? "," : "") << fmt::format("{:.4g}", row[i]);
        out << "}";
    };
    out << "constexpr double fitted_real[2] = {" << m.real_slope << ", " << m.real_shift << "};\n";
    out << "constexpr double fitted_temperature[3] = {" << m.zones[0].temperature << ", "
        << m.zones[1].temperature << ", " << m.zones[2].temperature << "};\n";
    for (const auto which : {0, 1}) {
        out << "constexpr double " << (which == 0 ? "fitted_mean" : "fitted_scale") << "[3][" << feature_count
            << "] = {\n";
        for (const auto &z : m.zones) {
            numbers(which == 0 ? z.mean : z.scale);
            out << ",\n";
        }
        out << "};\n";
    }
    out << "constexpr double fitted_weight[3][" << kind_count << "][" << KindModel::inputs << "] = {\n";
    for (const auto &z : m.zones) {
        out << "{\n";
        for (const auto &k : z.weight) {
            numbers(k);
            out << ",\n";
        }
        out << "},\n";
    }
    out << "};\n";
}

std::vector<Contact> read_all(const Scan &scan, const KindModel &model) {
    ReaderSettings settings;
    settings.least_confidence = 0.1; // for the calibration; the working point is applied when scoring
    Reader reader(model, settings);
    return join_contacts(reader.advance(scan, true));
}

// What every true thing was taken for, for whoever looks for a cause (HERON_TELL=1).
void tell(const Scan &scan, const std::vector<TrueThing> &things, const LocalPlane &plane,
          const KindModel &model) {
    if (std::getenv("HERON_TELL") == nullptr)
        return;
    ReaderSettings keep;
    keep.keep_all = true;
    Reader reader(model, keep);
    const auto all = on_plane(reader.advance(scan, true), plane);
    for (const auto &t : things) {
        fmt::print("{} seen {} stands {} h {:.2f} l {:.2f} echo {:.1f} shadow {:.1f} row {} of {} g {:.1f} "
                   "depth {:.1f}\n",
                   name_of(t.kind), t.seen, t.stands_out, t.height_m, t.length_m, t.contrast_db, t.shadow_db,
                   t.row, scan.end(), t.ground_m, t.depth_m);
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

void write_examples(unsigned threads, const std::string &file) {
    const auto scenes = reading_scenes();
    std::ofstream out(file);
    out << "scene,fitting,ground,patch,bare,zone,kind,weight,thing";
    for (const auto &name : feature_names)
        out << ',' << name;
    out << '\n';
    std::mutex mutex;
    in_parallel(scenes.size(), threads, [&](std::size_t i) {
        auto bare = scenes[i];
        bare.empty = true;
        bare.lanes = bare.curved = false;
        bare.seed += 3;
        for (const bool empty : {false, true}) {
            const auto s = sound(empty ? bare : scenes[i]);
            const auto all = examples(s, i);
            const std::lock_guard hold(mutex);
            const auto head = fmt::format("{},{:d},{},{},{:d}", i, scenes[i].fitting, scenes[i].ground,
                                          scenes[i].patch, empty);
            for (const auto &e : all) {
                out << fmt::format("{},{},{},{},{}", head, static_cast<int>(e.zone), name_of(e.kind),
                                   e.weight, e.thing);
                for (const double v : e.features)
                    out << fmt::format(",{:.4g}", v);
                out << '\n';
            }
            // Things without a candidate count too.
            for (std::size_t t = 0; t < s.things.size(); ++t)
                if (s.things[t].stands_out)
                    out << fmt::format("{},-1,{},1,{}\n", head, name_of(s.things[t].kind), t);
        }
        fmt::print(stderr, ".");
    });
}

std::string fit_reading(unsigned threads, const std::string &weights_file) {
    auto scenes = reading_scenes();
    std::erase_if(scenes, [](const ReadingScene &r) { return !r.fitting; });
    std::vector<std::vector<Example>> parts(scenes.size());
    std::vector<std::unique_ptr<Sounded>> sounded(scenes.size());
    in_parallel(scenes.size(), threads, [&](std::size_t i) {
        sounded[i] = std::make_unique<Sounded>(sound(scenes[i]));
        parts[i] = examples(*sounded[i], i);
        // Most of any lake is empty: the same ground with nothing on it.
        auto bare = scenes[i];
        bare.empty = true;
        bare.lanes = bare.curved = false;
        bare.seed += 3;
        for (auto &e : examples(sound(bare), i))
            parts[i].push_back(std::move(e));
        fmt::print(stderr, ".");
    });
    std::vector<Example> all;
    for (auto &p : parts)
        all.insert(all.end(), p.begin(), p.end());
    constexpr double penalty = 0.003;
    const auto left_out = [](std::size_t scene) { return scene % 3 == 1; };
    const std::array zones{Zone::ground, Zone::water, Zone::dark};
    const auto of = [&](Zone zone, std::optional<bool> out) {
        std::vector<Example> some;
        for (const auto &e : all)
            if (e.zone == zone && (!out || left_out(e.scene) == *out))
                some.push_back(e);
        return some;
    };
    // Temperatures and the last mapping are found on scenes left out of a first fit; the fit that ships takes
    // all.
    auto first = std::make_unique<KindModel>(), model = std::make_unique<KindModel>();
    std::string out;
    in_parallel(6, threads, [&](std::size_t i) {
        const auto zone = zones[i % 3];
        auto &m = i < 3 ? *first : *model;
        fit_zone(m.zones[i % 3], of(zone, i < 3 ? std::optional(false) : std::nullopt), penalty);
    });
    for (std::size_t z = 0; z < 3; ++z) {
        cool(*first, zones[z], of(zones[z], true));
        model->zones[z].temperature = first->zones[z].temperature;
        out += fmt::format("zone {}: temperature {:.2f}, {} examples\n", z, first->zones[z].temperature,
                           of(zones[z], std::nullopt).size());
    }
    std::vector<std::pair<double, bool>> told;
    std::mutex mutex;
    in_parallel(scenes.size(), threads, [&](std::size_t i) {
        if (!left_out(i))
            return;
        const auto s = score(read_all(sounded[i]->scan, *first), sounded[i]->things, sounded[i]->plane, 0.5);
        const std::lock_guard hold(mutex);
        told.insert(told.end(), s.confidence.begin(), s.confidence.end());
    });
    // Logistic regression of right on the logit of what was told.
    double slope = 1, shift = 0;
    for (int step = 0; step < 4000; ++step) {
        double gs = 0, gb = 0;
        for (const auto &[c, right] : told) {
            const double x = std::log(std::clamp(c, 1e-4, 1 - 1e-4) / (1 - std::clamp(c, 1e-4, 1 - 1e-4)));
            const double d = 1 / (1 + std::exp(-(slope * x + shift))) - (right ? 1 : 0);
            gs += d * x;
            gb += d;
        }
        slope -= 0.02 * gs / static_cast<double>(told.size());
        shift -= 0.02 * gb / static_cast<double>(told.size()) * 5;
    }
    model->real_slope = slope;
    model->real_shift = shift;
    out += fmt::format("real: slope {:.3f}, shift {:.3f} on {} contacts\n", slope, shift, told.size());
    write_weights(*model, weights_file);
    return out;
}

std::string reading_study(unsigned threads, bool fitting, const std::string &recording,
                          const std::string &truth) {
    const auto &model = KindModel::shipped();
    constexpr double working_point = 0.5;
    std::string out = table_head();
    if (!recording.empty()) {
        const auto s = read_recording_with_truth(recording, truth, model, working_point);
        return out + line("recording", s) + details(s);
    }
    auto scenes = reading_scenes();
    std::erase_if(scenes, [&](const ReadingScene &r) { return r.fitting != fitting; });
    std::vector<Score> scores(scenes.size());
    in_parallel(scenes.size(), threads, [&](std::size_t i) {
        const auto s = sound(scenes[i]);
        tell(s.scan, s.things, s.plane, model);
        scores[i] = score(read_all(s.scan, model), s.things, s.plane, working_point);
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
    out += "\nfish told over fish reckoned to show: ";
    for (const auto &[ground, v] : told_of)
        out += fmt::format("{} {:.2f} of {:.0f}  ", ground, v.first / std::max(1e-9, v.second), v.second);
    return out + "\n" + details(total);
}

// Things that were seen from several legs: joined into one, and never two into one.
std::string joining_study(unsigned threads) {
    auto scenes = reading_scenes();
    std::erase_if(scenes, [](const ReadingScene &r) { return !r.lanes; });
    std::mutex mutex;
    int several = 0, joined = 0, made = 0, wrong = 0;
    std::vector<std::pair<double, bool>> told;
    // What the truth was given by the first look and by both, and what was reckoned for the second as it was
    // run.
    double before = 0, after = 0, reckoned_before = 0, reckoned_after = 0, doubts = 0;
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
            LookRequest q;
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
                reckoned_before += p * p;
            reckoned_after += sure_after(q, pass);
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
        "reckoned {:.2f} and {:.2f}\n",
        scenes.size(), several, joined, several > 0 ? 1.0 * joined / several : 0.0, made, wrong,
        made > 0 ? 1.0 * wrong / made : 0.0,
        sure / static_cast<double>(std::max<std::size_t>(1, told.size())),
        right / static_cast<double>(std::max<std::size_t>(1, told.size())), doubts,
        before / std::max(1.0, doubts), after / std::max(1.0, doubts),
        reckoned_before / std::max(1.0, doubts), reckoned_after / std::max(1.0, doubts));
}

std::string empty_lakes(unsigned threads) {
    auto scenes = reading_scenes();
    std::vector<ReadingScene> lakes;
    for (const auto &r : scenes) {
        if (r.fitting)
            continue;
        auto e = r;
        e.empty = true;
        e.lanes = e.curved = false;
        e.length_m = 210;
        e.seed += 5;
        lakes.push_back(e);
    }
    std::vector<double> told(lakes.size()), km(lakes.size());
    in_parallel(lakes.size(), threads, [&](std::size_t i) {
        const auto s = sound(lakes[i]);
        for (const auto &c : read_all(s.scan, KindModel::shipped()))
            told[i] += c.confidence >= 0.5;
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
    return out;
}

} // namespace heron::study
