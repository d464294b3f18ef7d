#include "picture_power.hpp"

#include "geo/position.hpp"
#include "water/water.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace heron::study {
namespace {
double cells_of(const std::vector<float> &histogram) {
    return std::accumulate(histogram.begin(), histogram.end(), 0.0);
}
} // namespace

PicturePower::PicturePower(const PlantedWater &planted, const Water &water, const Gear &gear,
                           const Setting &setting, std::uint32_t seed)
    : gear_(gear), setting_(setting), water_(water) {
    auto bare_scene = planted.scene;
    bare_scene.solids.clear();
    bare_scene.bodies.clear();
    sim::Acoustics acoustics(planted.scene), bare(bare_scene);
    acoustics.look_down(false);
    bare.look_down(false);
    c_ = acoustics.sound_speed_m_s();
    altitude_ = water.depth_m - planted.scene.boat.installation.draught_m();
    SoundingSettings s;
    s.range_m = setting.range_m;
    s.frequency_hz = gear.bands.at(setting.band).frequency_hz;
    strips_.resize(static_cast<std::size_t>(setting.range_m / strip_m) + 1);
    for (auto &strip : strips_)
        for (auto &h : strip.of)
            h.assign(bins, 0.0F);
    sim::BoatState boat;
    boat.at.x = planted.track_east_m;
    boat.speed_m_s = setting.speed_m_s;
    constexpr double apart_m = 0.43;
    for (boat.at.y = planted.from_north_m; boat.at.y < planted.to_north_m; boat.at.y += apart_m) {
        const auto heard = acoustics.hear_levels(boat, s, ++seed * 2654435761U);
        const auto without = bare.hear_levels(boat, s, 1);
        for (std::size_t side = 0; side < 2; ++side)
            for (std::size_t k = 0; k < heard.level_db[side].size(); ++k) {
                const double r = heard.ping.slant_m(static_cast<double>(k));
                const float with = heard.energy[side][k], was = without.energy[side][k];
                if (r <= altitude_ || was <= 0)
                    continue;
                const float ratio = with / was;
                const auto of = ratio > 1.25F                    ? echo
                                : ratio < 0.8F                   ? shadow
                                : ratio > 0.95F && ratio < 1.05F ? bottom
                                                                 : none;
                if (of == none)
                    continue;
                const double g = std::sqrt(r * r - altitude_ * altitude_);
                const double bin = (static_cast<double>(heard.level_db[side][k]) - lowest_db) / bin_db;
                strips_[static_cast<std::size_t>(g / strip_m)]
                    .of[of][static_cast<std::size_t>(std::clamp(bin, 0.0, bins - 1.0))] += 1;
            }
    }
}

double PicturePower::separation(const Histogram &brighter, const Histogram &darker, int gain) const {
    const double gain_db = (gain - gear_.gain_steps / 2.0) * gear_.db_a_gain_step;
    std::array<double, 256> a{}, b{};
    double na = 0, nb = 0;
    for (std::size_t i = 0; i < bins; ++i) {
        const auto n = sim::Acoustics::count_of(lowest_db + (static_cast<double>(i) + 0.5) * bin_db, gain_db);
        a[n] += static_cast<double>(brighter[i]);
        b[n] += static_cast<double>(darker[i]);
        na += static_cast<double>(brighter[i]);
        nb += static_cast<double>(darker[i]);
    }
    if (na < 1 || nb < 1)
        return 0.5;
    double below = 0, area = 0;
    for (std::size_t n = 0; n < 256; ++n) {
        area += a[n] * (below + b[n] / 2);
        below += b[n];
    }
    return area / (na * nb);
}

std::vector<PicturePower::Separation> PicturePower::separations(int gain) const {
    struct Told {
        double area, cells;
    };
    std::vector<Told> echoes(strips_.size()), shadows(strips_.size());
    for (std::size_t i = 0; i < strips_.size(); ++i) {
        const auto &h = strips_[i].of;
        echoes[i] = {separation(h[echo], h[bottom], gain), cells_of(h[echo])};
        shadows[i] = {separation(h[bottom], h[shadow], gain), cells_of(h[shadow])};
    }
    // With the neighbours, as far as it takes to have cells enough; where the things leave none there is
    // nothing to tell apart.
    const auto about = [](const std::vector<Told> &all, std::size_t at) {
        double sum = 0, cells = 0;
        for (std::size_t away = 0; away <= 3; ++away) {
            for (const auto i : {at - away, at + away})
                if (i < all.size() && (away > 0 || i == at)) {
                    sum += all[i].area * all[i].cells;
                    cells += all[i].cells;
                }
            if (away >= 1 && cells >= 150)
                break;
        }
        return cells >= 40 ? sum / cells : 0.5;
    };
    std::vector<Separation> all(strips_.size());
    for (std::size_t i = 0; i < all.size(); ++i)
        all[i] = {(static_cast<double>(i) + 0.5) * strip_m, about(echoes, i), about(shadows, i)};
    return all;
}

PicturePower::Power PicturePower::at(int gain, double speed) const {
    Power p;
    const double edge = std::sqrt(std::max(0.0, setting_.range_m * setting_.range_m - altitude_ * altitude_));
    const double theta = gear_.bands[setting_.band].along_deg / degrees_per_radian;
    const double apart = speed * gear_.ping_period_s(setting_.range_m, c_);
    double with_pings = 0;
    const auto all = separations(gain);
    for (std::size_t i = 0; i < strips_.size(); ++i) {
        const double from = static_cast<double>(i) * strip_m, to = std::min(from + strip_m, edge);
        if (to <= from)
            break;
        const double r = std::hypot((from + to) / 2, altitude_);
        if ((water_.thing.length_m + r * theta) / apart < 3)
            continue;
        const double s = (all[i].echo + all[i].shadow) / 2;
        const double ground = 2 * (to - from) * speed * 60;
        with_pings += ground;
        p.plain_product_m2 += ground * s;
        p.worth_m2 += ground * std::max(0.0, 2 * all[i].echo - 1) * std::max(0.0, 2 * all[i].shadow - 1);
    }
    if (with_pings > 0)
        p.separation = p.plain_product_m2 / with_pings;
    return p;
}

} // namespace heron::study
