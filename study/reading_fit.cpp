#include "cut_out.hpp"
#include "parallel.hpp"
#include "reading_study.hpp"
#include "score.hpp"

#include "reading/reader.hpp"
#include "reading/sweep_reader.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fstream>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <random>

namespace heron::study {
namespace {

struct Example {
    Zone zone;
    Features features;
    Kind kind;
    double weight = 1;
    std::size_t scene = 0;
    int thing = -1; ///< in the scene's truth
    Features plain{};
    std::size_t row = 0;
    Side side = Side::starboard;
    KindChances shipped{}; ///< what ships takes it for
};

// What an empty twin of a lake weighs: at full weight what is found is believed too little on water of
// another making.
constexpr double twin_weight = 0.3;

double reach_of(const TrueThing &t) {
    return 1.0 + t.length_m / 2;
}

// Where a thing lay from the true place of the boat, at the row nearest to the one asked for.
struct Aside {
    double along_m, ground_m;
    bool starboard;
    double off_east_m, off_north_m; // what the positions were off
};
std::optional<Aside> aside_at(const Sounded &s, std::size_t row, const TrueThing &t) {
    const auto after = std::lower_bound(s.boats.begin(), s.boats.end(), row,
                                        [](const auto &b, std::size_t r) { return b.first < r; });
    const auto fix = s.scan.nav.fix_at(s.scan.facts(row).time);
    if (s.boats.empty() || !fix)
        return std::nullopt;
    const auto &boat = (after == s.boats.end() ? s.boats.back() : *after).second;
    const auto &installation = s.scan.installation;
    auto from = from_boat(boat, installation, t.at);
    if (const auto *ray = s.scan.ping(row).beam(Side::around)) {
        // Along a ray is aside, across it along.
        const double a = ray->azimuth_deg / degrees_per_radian;
        from = {from.ahead_m * std::sin(a) - from.starboard_m * std::cos(a),
                from.ahead_m * std::cos(a) + from.starboard_m * std::sin(a)};
    }
    const auto told = s.plane.to_plane(transducer_place(fix->pose, installation));
    const auto hung = turned(installation.transducer, boat.heading_deg);
    return Aside{from.ahead_m, std::fabs(from.starboard_m), from.starboard_m > 0,
                 told.east_m - boat.at.x - hung.east_m, told.north_m - boat.at.y - hung.north_m};
}

// How far a candidate lies from where a thing ought to show, metres: over ground, and, where the distance
// aside is not known from the picture, along the track and along the sound.
double apart(const Sounded &s, const OnPlane &p, const TrueThing &t) {
    const auto &c = p.contact;
    const auto lies = aside_at(s, c.row, t);
    if (!lies)
        return 1e9;
    const double up = t.depth_m - s.scan.installation.draught_m(),
                 top = std::hypot(lies->ground_m, std::max(0.0, up - std::max(0.0, t.height_m)));
    const double along = std::max(0.0, std::fabs(lies->along_m) - 0.3);
    const auto sounded = [&](double slant) { return std::hypot(along, std::max(0.0, slant)); };
    const double middle = (c.slant_m + c.echo_end_m) / 2;
    const bool known = t.seen && t.depth_m > 0;
    if (c.zone == Zone::water) {
        // Of what stands on the bottom only what is nearer than the bottom shows there.
        if (!known || (!t.suspended && top > s.scan.bottom(c.row).altitude_m - 0.1))
            return 1e9;
        return sounded(t.kind == Kind::tree ? 0 : std::fabs(middle - top) - (t.suspended ? 0 : 0.3));
    }
    const double place = std::hypot(p.east - lies->off_east_m - t.at.x, p.north - lies->off_north_m - t.at.y);
    const bool this_side = (c.side != Side::port) == lies->starboard;
    if (c.zone == Zone::dark && known && t.height_m > 0) {
        // A shadow found first: where its source, or it, ought to lie along the sound.
        if (!this_side)
            return 1e9;
        const double own = s.scan.bottom(c.row).altitude_m,
                     end = t.height_m < 0.9 * own ? top * own / (own - t.height_m) : 1e9;
        const auto &b = c.behind;
        double slant = 1e9;
        if (b.source_z > 0)
            slant = std::fabs((b.source_m + b.source_end_m) / 2 - top) - 0.2;
        else if (t.suspended)
            slant = std::fabs((b.start_m + b.end_m) / 2 - end);
        if (!t.suspended)
            slant = std::min(slant, std::fabs(b.start_m - top) - 0.3);
        return sounded(slant);
    }
    // A fish's distance is not known from its echo alone.
    if (t.suspended && known && this_side)
        return std::min(place - 0.3, sounded(std::fabs(middle - top) - 0.2));
    return place - 0.3;
}

// What one sort of sounding is fitted with.
struct Way {
    std::vector<ReadingScene> scenes;
    std::function<Sounded(const ReadingScene &, std::size_t number)> sound;
    /// All candidates, whatever they are believed.
    std::function<std::vector<Contact>(const Scan &, const KindModel &)> candidates;
    std::function<std::vector<Contact>(const Scan &, const KindModel &)> told;
};

Way way_of(bool circle, FitOn engines = FitOn::rays) {
    Way way;
    way.scenes = reading_scenes();
    std::erase_if(way.scenes, [&](const ReadingScene &r) { return !r.fitting || (circle && r.depth_m > 9); });
    if (engines != FitOn::rays) {
        // It is slow: a quarter of the lakes; an odd one in four, so that it is not the one that
        // `usual_anywhere` takes.
        for (std::size_t i = 1; i < way.scenes.size(); i += 4)
            way.scenes[i].engine = sim::Engine::scatterers;
        if (engines == FitOn::scatterers)
            std::erase_if(way.scenes, [](const ReadingScene &r) { return r.engine == sim::Engine::rays; });
    }
    ReaderSettings keep;
    keep.keep_all = true;
    if (!circle) {
        way.sound = [](const ReadingScene &r, std::size_t) { return sound(r); };
        way.candidates = [keep](const Scan &scan, const KindModel &model) {
            Reader reader(model, keep);
            return reader.advance(scan, true);
        };
        way.told = read_all;
        return way;
    }
    // Held and under way by turns.
    way.sound = [](const ReadingScene &r, std::size_t number) { return sound_around(r, number % 2 == 1); };
    way.candidates = [keep](const Scan &scan, const KindModel &model) {
        SweepReader reader(model, keep);
        return reader.advance(scan, true);
    };
    way.told = [](const Scan &scan, const KindModel &model) {
        ReaderSettings settings;
        settings.least_confidence = 0.1;
        SweepReader reader(model, settings);
        const auto looks = reader.advance(scan, true);
        return join_sweeps(looks, reader.views(), 0.1);
    };
    return way;
}

// Labels candidates by the nearest true thing; what is near but not at one says nothing.
std::vector<Example> examples(const Way &way, const Sounded &s, std::size_t scene, const KindModel &model) {
    std::vector<Example> all;
    for (const auto &p : on_plane(way.candidates(s.scan, model), s.plane)) {
        double nearest = 1e9;
        const TrueThing *thing = nullptr;
        for (const auto &t : s.things)
            if (const double d = apart(s, p, t); d / reach_of(t) < nearest) {
                nearest = d / reach_of(t);
                thing = &t;
            }
        if (thing != nullptr && nearest < 0.8)
            all.push_back({p.contact.zone, p.contact.weighed(), thing->kind, thing->stands_out ? 1.0 : 0.5,
                           scene, static_cast<int>(thing - s.things.data()), p.contact.features,
                           p.contact.row, p.contact.side, p.contact.chances});
        else if (thing == nullptr || nearest > 1.8)
            all.push_back({p.contact.zone, p.contact.weighed(), Kind::none, 1, scene, -1, p.contact.features,
                           p.contact.row, p.contact.side, p.contact.chances});
    }
    return all;
}

// A model that knows nothing but what the scene's figures usually are: the mean over lakes of their medians.
// Every fourth lake is enough.
std::unique_ptr<KindModel> usual_anywhere(const Way &way, unsigned threads) {
    const auto &scenes = way.scenes;
    auto model = std::make_unique<KindModel>();
    std::mutex mutex;
    std::array<double, 3> lakes{};
    in_parallel((scenes.size() + 3) / 4, threads, [&](std::size_t i) {
        const auto s = way.sound(scenes[4 * i], i);
        UsualFigures usual;
        for (const auto &c : way.candidates(s.scan, KindModel::shipped()))
            usual.add(c.zone, c.features);
        const std::lock_guard hold(mutex);
        for (const auto zone : {Zone::ground, Zone::water, Zone::dark}) {
            const auto z = static_cast<std::size_t>(zone);
            const auto n = static_cast<double>(usual.count(zone));
            if (n < 10)
                continue;
            // As its own prior a median is what it is.
            const auto median = usual.of(zone, usual.of(zone, usual.of(zone, Features{})));
            for (std::size_t f = 0; f < feature_count; ++f)
                model->zones[z].usual[f] += median[f];
            lakes[z] += 1;
        }
    });
    for (std::size_t z = 0; z < 3; ++z)
        for (auto &f : model->zones[z].usual)
            f /= std::max(1.0, lakes[z]);
    return model;
}

// What a device of another making would have measured: each figure of a whole lake shifted by about a quarter
// of its spread. Two copies beside the figures as they are.
constexpr std::size_t copies = 3;
Features as_others_measure(const KindModel::ZoneWeights &w, const Example &e, std::size_t copy) {
    constexpr double spread = 0.25;
    auto features = e.features;
    if (copy == 0)
        return features;
    std::mt19937 random(static_cast<std::uint32_t>(e.scene * copies + copy));
    std::normal_distribution<double> normal(0, spread);
    for (std::size_t i = 0; i < feature_count; ++i)
        features[i] += w.scale[i] * normal(random);
    return features;
}

// Multinomial logistic regression with a square penalty, by gradient steps with momentum (Adam); the copies
// take turns.
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
    std::array<std::vector<std::array<double, inputs>>, copies> copy_of;
    double total = 0;
    std::array<double, kind_count> many{};
    for (const auto &e : data) {
        for (std::size_t c = 0; c < copies; ++c)
            copy_of[c].push_back(KindModel::expand(w, as_others_measure(w, e, c)));
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
        const auto &x = copy_of[static_cast<std::size_t>(step) % copies];
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

// What share of the candidates a model believes real, over lakes that it was not fitted on, twins among them
// at their weight.
double share_real(const KindModel &m, Zone zone, const std::vector<Example> &held) {
    double real = 0, all = 0;
    for (const auto &e : held)
        if (e.zone == zone) {
            real += e.weight * (1 - m.chances(zone, e.features)[0]);
            all += e.weight;
        }
    return all > 0 ? real / all : 0;
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
    out << "constexpr double fitted_usual[3][" << feature_count << "] = {\n";
    for (const auto &z : m.zones) {
        numbers(z.usual);
        out << ",\n";
    }
    out << "};\n";
    out << "constexpr double fitted_share_real[3] = {" << m.zones[0].share_real << ", "
        << m.zones[1].share_real << ", " << m.zones[2].share_real << "};\n";
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

} // namespace

void write_examples(unsigned threads, const std::string &file, std::size_t more) {
    auto scenes = reading_scenes();
    const auto of_grid = scenes.size();
    for (auto &set : {drawn_scenes(), more_scenes(more)})
        scenes.insert(scenes.end(), set.begin(), set.end());
    const auto way = way_of(false);
    std::ofstream out(file), pictures(file + ".cuts", std::ios::binary);
    out << "scene,set,ground,patch,bare,zone,kind,weight,thing";
    for (std::size_t k = 0; k < kind_count; ++k)
        out << ",is " << name_of(static_cast<Kind>(k));
    for (const auto &name : feature_names)
        out << ',' << name;
    out << '\n';
    std::mutex mutex;
    in_parallel(scenes.size(), threads, [&](std::size_t i) {
        auto bare = scenes[i];
        bare.empty = true;
        bare.lanes = bare.curved = false;
        bare.seed += 3;
        const auto *set = scenes[i].fitting ? (i < of_grid ? "fitting" : "more")
                          : i < of_grid     ? "scoring"
                                            : "drawn";
        for (const bool empty : {false, true}) {
            if (empty && set[0] == 'm')
                continue;
            const auto s = sound(empty ? bare : scenes[i]);
            struct Seen {
                Features features;
                CutOut cut;
            };
            std::multimap<std::pair<std::size_t, Side>, Seen> seen;
            auto own = way;
            own.candidates = [&](const Scan &scan, const KindModel &model) {
                ReaderSettings settings;
                settings.keep_all = true;
                settings.on_candidate = [&](const Contact &c, const Swath &swath, const Echo &e) {
                    seen.emplace(std::pair(c.row, c.side), Seen{c.features, cut_out(swath, e)});
                };
                Reader reader(model, settings);
                return reader.advance(scan, true);
            };
            const auto all = examples(own, s, i, KindModel::shipped());
            const std::lock_guard hold(mutex);
            const auto head =
                fmt::format("{},{},{},{},{:d}", i, set, scenes[i].ground, scenes[i].patch, empty);
            for (const auto &e : all) {
                const auto [first, last] = seen.equal_range({e.row, e.side});
                const auto at =
                    std::find_if(first, last, [&](const auto &x) { return x.second.features == e.plain; });
                if (at == last)
                    continue;
                pictures.write(reinterpret_cast<const char *>(at->second.cut.at.data()),
                               static_cast<std::streamsize>(at->second.cut.at.size()));
                out << fmt::format("{},{},{},{},{}", head, static_cast<int>(e.zone), name_of(e.kind),
                                   e.weight, e.thing);
                for (const double v : e.shipped)
                    out << fmt::format(",{:.3g}", v);
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

std::string fit_reading(unsigned threads, const std::string &weights_file, bool circle, FitOn engines) {
    const auto way = way_of(circle, engines);
    const auto &scenes = way.scenes;
    const auto anywhere = usual_anywhere(way, threads);
    std::vector<std::vector<Example>> parts(scenes.size());
    std::vector<std::unique_ptr<Sounded>> sounded(scenes.size());
    in_parallel(scenes.size(), threads, [&](std::size_t i) {
        sounded[i] = std::make_unique<Sounded>(way.sound(scenes[i], i));
        parts[i] = examples(way, *sounded[i], i, *anywhere);
        // Most of any lake is empty: the same ground with nothing on it.
        auto bare = scenes[i];
        bare.empty = true;
        bare.lanes = bare.curved = false;
        bare.seed += 3;
        for (auto e : examples(way, way.sound(bare, i), i, *anywhere)) {
            e.weight *= twin_weight;
            parts[i].push_back(e);
        }
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
    auto first = std::make_unique<KindModel>(*anywhere), model = std::make_unique<KindModel>(*anywhere);
    std::string out;
    in_parallel(6, threads, [&](std::size_t i) {
        const auto zone = zones[i % 3];
        auto &m = i < 3 ? *first : *model;
        fit_zone(m.zones[i % 3], of(zone, i < 3 ? std::optional(false) : std::nullopt), penalty);
    });
    for (std::size_t z = 0; z < 3; ++z) {
        cool(*first, zones[z], of(zones[z], true));
        model->zones[z].temperature = first->zones[z].temperature;
        first->zones[z].share_real = model->zones[z].share_real =
            share_real(*first, zones[z], of(zones[z], true));
        out += fmt::format("zone {}: temperature {:.2f}, {} examples\n", z, first->zones[z].temperature,
                           of(zones[z], std::nullopt).size());
    }
    std::vector<std::pair<double, bool>> told;
    std::mutex mutex;
    in_parallel(scenes.size(), threads, [&](std::size_t i) {
        if (!left_out(i))
            return;
        const auto s = score(way.told(sounded[i]->scan, *first), sounded[i]->things, sounded[i]->plane, 0.5);
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

} // namespace heron::study
