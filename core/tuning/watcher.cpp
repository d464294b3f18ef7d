#include "tuning/watcher.hpp"

#include "fault/told.hpp"
#include "geo/position.hpp"
#include "units/units.hpp"
#include "water/water.hpp"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

constexpr double fade = 0.985;        // a row of 70 rows ago counts a third
constexpr double streak_over_db = 11; // over both rows beside it
constexpr double streak_share = 0.12; // of a row's samples in the water column
constexpr double lowest_level_db = -160, level_step_db = 1.0;
constexpr double full_too_often = 0.015, black_too_often = 0.10;
constexpr double imbalance_db = 4;

double tvg_db(const SoundingSettings &s, double frequency, double r, double celsius) {
    return s.tvg_log * std::log10(std::max(r, 0.3)) + 2 * absorption_fresh_db_per_m(frequency, celsius) * r;
}

} // namespace

void Watcher::clear() {
    *this = Watcher();
}

void Watcher::forget_levels() {
    const auto streaks = streaks_;
    const auto sums = side_sum_;
    const auto counts = side_n_;
    *this = Watcher();
    streaks_ = streaks;
    side_sum_ = sums;
    side_n_ = counts;
}

void Watcher::count(Histogram &h, double db) const {
    const double i = (db - lowest_level_db) / level_step_db;
    h[static_cast<std::size_t>(std::clamp(i, 0.0, 255.0))] += 1;
}

double Watcher::quantile(const Histogram &h, double share) const {
    double total = 0;
    for (const float n : h)
        total += static_cast<double>(n);
    double sum = 0;
    for (std::size_t i = 0; i < h.size(); ++i) {
        const auto n = static_cast<double>(h[i]);
        if (sum + n >= share * total && n > 0)
            return lowest_level_db + (static_cast<double>(i) + (share * total - sum) / n) * level_step_db;
        sum += n;
    }
    return lowest_level_db;
}

void Watcher::add(const Scan &scan, std::size_t row) {
    const auto &ping = scan.ping(row);
    const auto &bottom = scan.bottom(row);
    if (ping.beams.empty() || !bottom.found)
        return;
    for (auto *h : {&bottom_, &water_})
        for (auto &n : *h)
            n *= static_cast<float>(fade);
    for (auto *v : {&full_, &black_, &bottom_n_, &noise_raw_, &noise_n_, &spread_, &spread_n_})
        *v *= fade;
    for (std::size_t i = 0; i < ranges; ++i) {
        level_[i] *= fade;
        level_n_[i] *= fade;
    }
    for (std::size_t i = 0; i < 2; ++i) {
        side_sum_[i] *= 0.998;
        side_n_[i] *= 0.998;
    }
    const auto &settings = scan.settings(row);
    const double range = ping.range_m();
    std::size_t column = 0, jumps = 0;
    for (const auto &b : ping.beams) {
        // Astern of a head at the bow hangs the hull.
        constexpr double hull_deg = 150;
        if (b.side == Side::down || (b.side == Side::around && std::fabs(wrap_180(b.azimuth_deg)) > hull_deg))
            continue;
        const Beam *one = row > scan.first() ? scan.ping(row - 1).beam(b.side) : nullptr;
        const Beam *two = row > scan.first() + 1 ? scan.ping(row - 2).beam(b.side) : nullptr;
        const bool beside = one != nullptr && two != nullptr && one->code.size() == b.code.size() &&
                            two->code.size() == b.code.size();
        const double first = b.side == Side::port        ? bottom.port_m
                             : b.side == Side::starboard ? bottom.starboard_m
                                                         : 0;
        const double edge = first > 0 ? first : bottom.altitude_m;
        gain_db_ = b.gain_db;
        low_clip_db_ = b.scale.db(b.scale.clip_low);
        full_clip_db_ = b.scale.db(std::min(b.scale.clip_high, 65534));
        along_rad_ = b.width_along_deg / degrees_per_radian;
        double local = 0;
        int local_n = 0;
        for (std::size_t k = 0; k < b.code.size(); ++k) {
            if (b.code[k] == missing_code)
                continue;
            const double r = ping.slant_m(static_cast<double>(k)), db = b.scale.db(b.code[k]);
            if (r > edge + 0.3) {
                if (k % 2 != 0)
                    continue;
                count(bottom_, db);
                bottom_n_ += 1;
                full_ += b.code[k] >= b.scale.clip_high;
                black_ += b.code[k] <= b.scale.clip_low;
                const double raw =
                    db - b.gain_db - tvg_db(settings, ping.frequency_hz, r, water_temperature_c_);
                const auto i = std::min(ranges - 1, static_cast<std::size_t>(r / range * ranges));
                if (b.code[k] > b.scale.clip_low) {
                    level_[i] += raw;
                    level_n_[i] += 1;
                }
                // Speckle: the spread over some samples in a row, level taken out.
                local += db;
                if (++local_n == 8) {
                    double squares = 0;
                    for (std::size_t j = k + 1 >= 16 ? k + 1 - 16 : 0; j <= k; j += 2)
                        squares += std::pow(b.scale.db(b.code[j]) - local / 8, 2);
                    spread_ += std::sqrt(squares / 8);
                    spread_n_ += 1;
                    local = 0;
                    local_n = 0;
                }
                // Both sides at the same angles: where the bottom is met between 15 and 45 degrees.
                const double sine = bottom.altitude_m / r;
                if (b.side != Side::around && sine > 0.26 && sine < 0.7) {
                    side_sum_[b.side == Side::port ? 0 : 1] += db - b.gain_db;
                    side_n_[b.side == Side::port ? 0 : 1] += 1;
                }
            } else if (r > 1.2 && r < edge - 0.4) {
                count(water_, db);
                ++column;
                if (beside && db > one->scale.db(one->code[k]) + streak_over_db &&
                    db > two->scale.db(two->code[k]) + streak_over_db)
                    ++jumps;
                if (b.code[k] > b.scale.clip_low) {
                    noise_raw_ +=
                        db - b.gain_db - tvg_db(settings, ping.frequency_hz, r, water_temperature_c_);
                    noise_n_ += 1;
                }
            }
        }
    }
    // Speckle alone lifts a sample so far over both others in about one of fifty; a streak does it all along.
    streaks_.push_back(column > 40 &&
                       static_cast<double>(jumps) > streak_share * static_cast<double>(column));
    if (streaks_.size() > 200)
        streaks_.pop_front();
    range_m_ = range;
    altitude_m_ = bottom.altitude_m;
    const auto v = scan.facts(row).speed_m_s;
    speed_m_s_ = static_cast<double>(v);
    if (row > scan.first()) {
        const double dt = seconds_between(scan.facts(row - 1).time, scan.facts(row).time);
        if (dt > 0 && dt < 2)
            period_s_ = period_s_ == 0 ? dt : 0.9 * period_s_ + 0.1 * dt;
    }
    ++rows_;
}

// What the device adds over range is taken out. Then the bottom falls by some fifty decibels a decade of
// range, suspended matter by twenty, receiver noise not at all: where the levels run flat to the end the
// picture is noise. What stands three decibels over that flat end is bottom.
double Watcher::useful_range() const {
    std::vector<std::pair<double, double>> curve; // log10 r, level
    for (std::size_t i = 0; i < ranges; ++i) {
        const double r = (static_cast<double>(i) + 0.5) / ranges * range_m_;
        if (r > 1.25 * altitude_m_ && level_n_[i] > 30)
            curve.emplace_back(std::log10(r), level_[i] / level_n_[i]);
    }
    if (curve.size() < 12)
        return 0;
    const auto slope = [&](std::size_t from, std::size_t to) {
        double sx = 0, sy = 0, sxx = 0, sxy = 0;
        const auto n = static_cast<double>(to - from);
        for (auto i = from; i < to; ++i) {
            sx += curve[i].first;
            sy += curve[i].second;
            sxx += curve[i].first * curve[i].first;
            sxy += curve[i].first * curve[i].second;
        }
        return (n * sxy - sx * sy) / std::max(1e-9, n * sxx - sx * sx);
    };
    constexpr double noise_slope_db = -26; // a decade: flatter is no bottom
    const auto n = curve.size(), tail = std::max<std::size_t>(4, n / 5);
    if (slope(n - tail, n) < noise_slope_db)
        return range_m_;
    double floor = 0;
    for (auto i = n - 3; i < n; ++i)
        floor += curve[i].second / 3;
    for (auto i = n; i-- > 0;)
        if (curve[i].second > floor + 3)
            return std::pow(10.0, curve[i].first);
    return 0; // no bottom stands out at all, or the levels were flattened before they came
}

PictureHealth Watcher::health() const {
    PictureHealth h;
    h.rows = rows_;
    h.range_m = range_m_;
    h.altitude_m = altitude_m_;
    h.speed_m_s = speed_m_s_;
    if (bottom_n_ > 0) {
        h.share_full = full_ / bottom_n_;
        h.share_black = black_ / bottom_n_;
    }
    h.low_clip_db = low_clip_db_;
    h.gain_db = gain_db_;
    h.full_clip_db = full_clip_db_;
    h.median_db = quantile(bottom_, 0.5);
    h.high_db = quantile(bottom_, 0.995);
    h.water_noise_db = quantile(water_, 0.5);
    h.water_noise_high_db = quantile(water_, 0.95);
    const double spread = spread_n_ > 0 ? spread_ / spread_n_ : 5.6;
    h.contrast = (h.median_db - quantile(bottom_, 0.03)) / std::max(1.0, spread);
    h.streak_share = streaks_.empty()
                         ? 0
                         : static_cast<double>(std::count(streaks_.begin(), streaks_.end(), true)) /
                               static_cast<double>(streaks_.size());
    if (side_n_[0] > 500 && side_n_[1] > 500)
        h.left_over_right_db = side_sum_[0] / side_n_[0] - side_sum_[1] / side_n_[1];
    h.useful_range_m = useful_range();
    h.pings_on_half_metre = speed_m_s_ > 0.05 && period_s_ > 0
                                ? (0.5 + range_m_ / 2 * along_rad_) / (speed_m_s_ * period_s_)
                                : std::nan("");
    return h;
}

std::vector<TuningAdvice> advice_from(const PictureHealth &h, const SoundingSettings &now, const Gear &gear,
                                      double floor_db, bool feet, std::optional<double> advised_range_m) {
    std::vector<TuningAdvice> all;
    if (h.rows < 25)
        return all;
    const auto system = feet ? UnitSystem::feet : UnitSystem::metres;
    const auto steps = [&](double db) {
        return std::max(1, static_cast<int>(std::lround(db / gear.db_a_gain_step)));
    };
    const auto hundred = [](double share) { return std::max(1L, std::lround(100 * share)); };
    if (h.streak_share > 0.05) {
        TuningAdvice a{"streaks",
                       told("Another sonar is heard: take streaks out"),
                       told("{} of 100 rows carry a streak in the water", hundred(h.streak_share)),
                       {},
                       {},
                       true};
        all.push_back(a);
    }
    if (h.share_full > full_too_often) {
        // Down until the strongest half a hundredth has room; a clipped level tells only that it was more.
        const double over =
            h.share_full > 0.3 ? 20 : std::max(3.0, h.high_db + 4 - h.full_clip_db + 40 * h.share_full);
        auto s = now;
        s.gain = std::max(0, now.gain - steps(over));
        all.push_back({"full",
                       told("Gain {} steps down, to {}", now.gain - s.gain, s.gain),
                       told("{} of 100 samples of the bottom are full", hundred(h.share_full)),
                       s,
                       {},
                       false});
    } else if (h.share_black > black_too_often) {
        const double room = h.full_clip_db - h.high_db - 3;
        const double under =
            h.share_black > 0.5 ? 20 : std::min(std::max(3.0, 30 * h.share_black), std::max(3.0, room));
        auto s = now;
        s.gain = std::min(gear.gain_steps, now.gain + steps(under));
        if (s.gain != now.gain)
            all.push_back(
                {"black",
                 told("Gain {} steps up, to {}", s.gain - now.gain, s.gain),
                 told("{} of 100 samples of the bottom are black: shadow cannot be told from soft bottom",
                      hundred(h.share_black)),
                 s,
                 {},
                 false});
    }
    if (h.useful_range_m > 0 && h.useful_range_m < 0.75 * h.range_m) {
        auto s = now;
        s.range_m = advised_range_m.value_or(std::max(gear.shortest_range_m, 1.08 * h.useful_range_m));
        if (s.range_m < 0.9 * now.range_m)
            all.push_back({"range",
                           told("Range down to {}", print_length(s.range_m, system, feet ? 0 : 1).text()),
                           told("past {} the bottom sinks into noise",
                                print_length(h.useful_range_m, system, feet ? 0 : 1).text()),
                           s,
                           {},
                           false});
    }
    if (h.pings_on_half_metre < 3) {
        const double slower = h.speed_m_s * h.pings_on_half_metre / 3;
        all.push_back({"speed",
                       told("Slow down to {}", print_speed(slower, system).text()),
                       told("only {} pings on {}", print_number(h.pings_on_half_metre, 1),
                            print_length(0.5, system, 1).text()),
                       {},
                       {},
                       false});
    }
    const double grain_db = h.water_noise_high_db - h.gain_db;
    if (grain_db > floor_db + 6 && h.water_noise_high_db < h.median_db - 6) {
        TuningAdvice a{"floor",
                       told("Raise the floor to {} dB", print_number(grain_db, 0)),
                       told("grain in the water strip"),
                       {},
                       grain_db,
                       false};
        all.push_back(a);
    }
    if (std::fabs(h.left_over_right_db) > imbalance_db)
        all.push_back(
            {"sides",
             told("Check the installation"),
             told("the {} side is {} dB weaker at equal angles: a plug, weed on the transducer, or it hangs "
                  "tilted",
                  h.left_over_right_db > 0 ? "right" : "left",
                  print_number(std::fabs(h.left_over_right_db), 0)),
             {},
             {},
             false});
    return all;
}

} // namespace heron
