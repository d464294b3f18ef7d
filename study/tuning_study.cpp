#include "tuning_study.hpp"

#include "picture_power.hpp"

#include "picture/scan.hpp"
#include "sim/sounder.hpp"
#include "tuning/advice.hpp"
#include "tuning/gain_search.hpp"
#include "units/units.hpp"

#include <algorithm>
#include <atomic>
#include <fmt/format.h>
#include <mutex>
#include <thread>

namespace heron::study {
namespace {

const std::array grid_ranges{7.0, 9.0, 12.0, 15.0, 18.0, 22.0, 26.0, 31.0, 37.0, 44.0, 52.0, 60.0};
const std::array grid_speeds{0.8, 1.1, 1.4, 1.6, 1.8, 2.2};
constexpr double longest_m = 60;

struct Chosen {
    Setting setting;
    int gain = 0;
    PicturePower::Power power;
};

struct GainRun {
    int from = 0, to = 0, steps = 0;
    double separation = 0;
};

struct Row {
    Water water;
    Chosen best, advised, rule_wide, rule_fine;
    Chosen best_by_product;
    Chosen best_fine, advised_fine;
    int best_gain = 0;
    double best_separation = 0;
    std::vector<GainRun> runs;
    double seconds = 0;
};

Gear gear_of_the_stand_in(const sim::Scene &scene) {
    return *gear_from_json(sim::Sounder(scene, 0).hello().gear);
}

// The noise is the same up to where the hull begins to be heard: such speeds share their pictures.
double sounded_at(double speed, const Gear &gear) {
    return std::max(speed, gear.noise_from_m_s);
}

Chosen measured(const PlantedWater &planted, const Water &w, const Gear &gear, const Setting &s, int gain) {
    Setting sounded = s;
    sounded.speed_m_s = sounded_at(s.speed_m_s, gear);
    const PicturePower power(planted, w, gear, sounded, 991);
    if (gain >= 0)
        return {s, gain, power.at(gain, s.speed_m_s)};
    // A rule of thumb says nothing of the gain: it is given the best one.
    Chosen best{s, 0, {}};
    for (int g = 0; g <= gear.gain_steps; g += 2)
        if (const auto p = power.at(g, s.speed_m_s); p.worth_m2 > best.power.worth_m2)
            best = {s, g, p};
    return best;
}

// The stand-in sounds on along the track while the search turns the gain as it would in the boat.
GainRun search(const PlantedWater &planted, const Water &, const Gear &gear, const Setting &s, int from) {
    sim::Acoustics acoustics(planted.scene);
    Scan scan;
    scan.installation = planted.scene.boat.installation;
    GainSearch search(gear, from);
    SoundingSettings settings;
    settings.range_m = s.range_m;
    settings.frequency_hz = gear.bands[s.band].frequency_hz;
    settings.gain = from;
    sim::BoatState boat;
    boat.at = {planted.track_east_m, planted.from_north_m};
    boat.speed_m_s = s.speed_m_s;
    const double period = gear.ping_period_s(s.range_m, acoustics.sound_speed_m_s());
    UnixNs now = ns_per_s;
    for (std::uint32_t n = 0; n < 400 && !search.done(); ++n) {
        boat.at.y += s.speed_m_s * period;
        if (boat.at.y > planted.to_north_m)
            boat.at.y = planted.from_north_m;
        auto ping = acoustics.hear(boat, settings, n * 2654435761U + 17);
        ping.time = now += static_cast<UnixNs>(period * static_cast<double>(ns_per_s));
        scan.push({std::move(ping), std::nullopt, settings});
        if (const auto to = search.look(scan, scan.end() - 1))
            settings.gain = *to;
    }
    return {from, search.gain(), search.steps(), 0};
}

Row study(const Water &w) {
    Row row;
    row.water = w;
    const auto planted = plant(w, longest_m, 20260 + static_cast<std::uint32_t>(w.depth_m * 100));
    const auto gear = gear_of_the_stand_in(planted.scene);
    std::size_t finest = gear.bands.size() - 1;
    for (std::size_t band = 0; band < gear.bands.size(); ++band)
        for (const double range : grid_ranges) {
            if (range < w.depth_m * 1.05)
                continue;
            double noise_of = 0;
            std::optional<PicturePower> power;
            for (const double speed : grid_speeds) {
                if (sounded_at(speed, gear) != noise_of) {
                    noise_of = sounded_at(speed, gear);
                    power.emplace(planted, w, gear, Setting{range, band, noise_of}, 7);
                }
                for (int gain = 0; gain <= gear.gain_steps; gain += 2) {
                    const auto p = power->at(gain, speed);
                    const Chosen c{{range, band, speed}, gain, p};
                    if (p.worth_m2 > row.best.power.worth_m2)
                        row.best = c;
                    if (p.plain_product_m2 > row.best_by_product.power.plain_product_m2)
                        row.best_by_product = c;
                    if (band == finest && p.worth_m2 > row.best_fine.power.worth_m2)
                        row.best_fine = c;
                }
            }
        }
    const auto advice = advise(gear, w.state(), w.thing, Purpose::search_wide);
    row.advised = measured(planted, w, gear, advice.yield.setting, advice.gain);
    const auto fine = advise(gear, w.state(), w.thing, Purpose::finest_always);
    row.advised_fine = measured(planted, w, gear, fine.yield.setting, fine.gain);
    const auto rule = rules_of_thumb(gear, w.state(), Purpose::search_wide);
    const Setting by_rule{std::clamp(3 * w.depth_m, gear.shortest_range_m, gear.longest_range_m), rule.band,
                          (rule.speed_low_m_s + rule.speed_high_m_s) / 2};
    row.rule_wide = measured(planted, w, gear, by_rule, -1);
    auto by_fine_rule = by_rule;
    by_fine_rule.band = finest;
    row.rule_fine = measured(planted, w, gear, by_fine_rule, -1);

    // Tune for me, from far too dark and far too hot.
    const auto &s = row.advised.setting;
    Setting sounded = s;
    sounded.speed_m_s = sounded_at(s.speed_m_s, gear);
    const PicturePower power(planted, w, gear, sounded, 991);
    for (int g = 0; g <= gear.gain_steps; ++g)
        if (const auto p = power.at(g, s.speed_m_s); p.separation > row.best_separation) {
            row.best_separation = p.separation;
            row.best_gain = g;
        }
    for (const int from : {0, gear.gain_steps}) {
        auto run = search(planted, w, gear, s, from);
        run.separation = power.at(run.to, s.speed_m_s).separation;
        row.runs.push_back(run);
    }
    return row;
}

double percent(double a, double b) {
    return b > 0 ? 100 * a / b : 0;
}

std::string setting_told(const Chosen &c, const Gear &gear) {
    return fmt::format("{:.0f} m, {:.0f} kHz, {:.1f} m/s, {}", c.setting.range_m,
                       gear.bands[c.setting.band].frequency_hz / 1000, c.setting.speed_m_s, c.gain);
}

} // namespace

std::string foretold_and_shown() {
    std::string out;
    for (const auto &w : developing_waters()) {
        const auto planted = plant(w, 45, 77);
        const auto gear = gear_of_the_stand_in(planted.scene);
        for (std::size_t band = 0; band < gear.bands.size(); ++band) {
            const Setting s{45, band, 1.4};
            const PicturePower power(planted, w, gear, s, 3);
            out += fmt::format("{} band {}\n", w.told(), band);
            for (const auto &shown : power.separations(50)) {
                if (shown.ground_m > 44)
                    break;
                const auto b = budget_at(gear, w.state(), w.thing, s, w.depth_m, shown.ground_m);
                out += fmt::format("{:4.0f} m  echo {:.2f} {:.2f}  shadow {:.2f} {:.2f}\n", shown.ground_m,
                                   b.echo_separation, shown.echo, b.shadow_separation, shown.shadow);
            }
        }
    }
    return out;
}

std::string tuning_study(bool developing, unsigned threads) {
    const auto waters = developing ? developing_waters() : held_out_waters();
    std::vector<Row> rows(waters.size());
    std::atomic<std::size_t> next{0};
    std::vector<std::thread> pool;
    for (unsigned t = 0; t < std::max(1U, threads); ++t)
        pool.emplace_back([&] {
            for (auto i = next++; i < waters.size(); i = next++) {
                rows[i] = study(waters[i]);
                fmt::print(stderr, "water {} of {} done\n", i + 1, waters.size());
            }
        });
    for (auto &t : pool)
        t.join();
    const auto gear = gear_of_the_stand_in(plant(waters[0], 12, 1).scene);
    std::string out =
        "| water | best of the grid (range, band, speed, gain) | advised | advised reaches | in the "
        "finest band | plain product | rule, widest band | rule, finest band |\n"
        "|---|---|---|---|---|---|---|---|\n";
    double least = 1e9, sum = 0, sum_rule = 0, sum_fine = 0;
    for (const auto &r : rows) {
        const double a = percent(r.advised.power.worth_m2, r.best.power.worth_m2);
        const double w = percent(r.rule_wide.power.worth_m2, r.best.power.worth_m2);
        const double f = percent(r.rule_fine.power.worth_m2, r.best.power.worth_m2);
        least = std::min(least, a);
        sum += a;
        sum_rule += w;
        sum_fine += f;
        out += fmt::format(
            "| {} | {} | {} | {:.0f} % | {:.0f} % | {:.0f} % | {:.0f} % | {:.0f} % |\n", r.water.told(),
            setting_told(r.best, gear), setting_told(r.advised, gear), a,
            percent(r.advised_fine.power.worth_m2, r.best_fine.power.worth_m2),
            percent(r.advised.power.plain_product_m2, r.best_by_product.power.plain_product_m2), w, f);
    }
    const auto n = static_cast<double>(rows.size());
    out += fmt::format("| mean (least) | | | {:.1f} % ({:.1f} %) | | | {:.0f} % | {:.0f} % |\n\n", sum / n,
                       least, sum_rule / n, sum_fine / n);
    out += "| water | best gain, separation | from 0: steps, ends at | reaches | from 100: steps, ends at | "
           "reaches "
           "|\n|---|---|---|---|---|---|\n";
    for (const auto &r : rows)
        out += fmt::format("| {} | {}, {:.3f} | {}, {} | {:.1f} % | {}, {} | {:.1f} % |\n", r.water.told(),
                           r.best_gain, r.best_separation, r.runs[0].steps, r.runs[0].to,
                           percent(r.runs[0].separation, r.best_separation), r.runs[1].steps, r.runs[1].to,
                           percent(r.runs[1].separation, r.best_separation));
    return out;
}

} // namespace heron::study
