// Lakes heard by a turning head, and makings drawn at random.
#include "reading_scenes.hpp"
#include "weigh.hpp"

#include "recording/nmea_feed.hpp"
#include "sim/sounder.hpp"

#include <algorithm>
#include <cmath>
#include <random>

namespace heron::study {

// Everything that a formula or a device may have otherwise, each by itself.
sim::Making drawn_making(std::uint32_t seed) {
    std::mt19937 random(seed ^ 0xD1CE);
    const auto share = [&](double a, double b) {
        return std::uniform_real_distribution<double>(a, b)(random);
    };
    const auto about = [&](double times) { return std::exp(share(-1, 1) * std::log(times)); };
    const auto one_in = [&](int n) { return share(0, n) < 1; };
    sim::Making m;
    m.grazing_power = share(1.3, 2.7);
    m.patchy = about(1.8);
    m.rough = about(2.5);
    m.patch_fall = share(0.8, 3);
    m.rough_fall = share(0.8, 3);
    m.beam = about(1.5);
    m.beam_told = about(1.3);
    m.bandwidth = about(1.5);
    m.samples = static_cast<std::size_t>(share(600, 1500));
    m.source_db = share(-8, 4);
    m.tvg_db_per_m = share(-0.25, 0.25);
    m.ripple_db = one_in(2) ? share(0, 2) : 0;
    m.ripple_m = share(3, 12);
    m.things_db = share(-4, 3);
    m.opacity = about(1.6);
    m.gain_wander_db = one_in(2) ? share(0, 0.8) : 0;
    m.weak_share = one_in(3) ? share(0.005, 0.05) : 0;
    m.weak_db = share(3, 10);
    m.db_per_count = share(0.2, 0.3);
    return m;
}

namespace {

// How far each thing stands over the bare bottom in a ray, and under: means of decibels without speckle over
// the rays of a turn that meet it, 0.1 m along the sound (shadows 0.3 m). Of all its turns the better quarter
// counts.
class StandsOut {
  public:
    explicit StandsOut(const sim::Scene &scene) : scene_(scene), bare_(scene), with_(scene_) {
        bare_.bodies.clear();
        std::erase_if(bare_.solids,
                      [](const sim::Solid &x) { return x.height_m > 0.21 || x.half_length_m > 0.21; });
        without_.emplace(bare_);
    }

    void look(const sim::BoatState &boat, const SoundingSettings &settings, const Ping &ping,
              const std::vector<TrueThing> &things, std::size_t turn) {
        const auto &beam = ping.beams.front();
        std::optional<std::array<std::vector<double>, 2>> levels;
        thing_.resize(things.size());
        for (std::size_t i = 0; i < things.size(); ++i) {
            const auto &t = things[i];
            const auto from = from_boat(boat, scene_.boat.head_installation(), t.at);
            const double g = std::hypot(from.ahead_m, from.starboard_m),
                         off = wrap_180(std::atan2(from.starboard_m, from.ahead_m) * degrees_per_radian -
                                        beam.azimuth_deg),
                         half = std::max(0.6 * beam.width_along_deg,
                                         std::atan(std::min(0.35, t.width_m / 2) / g) * degrees_per_radian);
            if (std::fabs(off) > half || g > settings.range_m)
                continue;
            if (!levels)
                levels = {
                    shown(with_.hear_ray_levels(boat, settings, beam.azimuth_deg, 1), beam.gain_db),
                    shown(without_->hear_ray_levels(boat, settings, beam.azimuth_deg, 1), beam.gain_db)};
            auto &of = thing_[i];
            if (of.turn != turn)
                end(of);
            of.turn = turn;
            add(of, t, ping, g, (*levels)[0], (*levels)[1]);
        }
    }
    void tell(std::vector<TrueThing> &things) {
        thing_.resize(things.size());
        for (std::size_t i = 0; i < things.size(); ++i) {
            auto &of = thing_[i];
            end(of);
            const auto better = [](std::vector<double> v) {
                if (v.empty())
                    return -99.0;
                std::sort(v.begin(), v.end());
                return v[static_cast<std::size_t>(0.75 * static_cast<double>(v.size() - 1))];
            };
            things[i].contrast_db = better(of.over);
            things[i].shadow_db = better(of.under);
            things[i].margin_db = std::max(things[i].contrast_db, things[i].shadow_db);
        }
    }

  private:
    struct Of {
        std::size_t turn = 0;
        std::vector<double> sum_over, sum_under;
        double rays = 0;
        std::vector<double> over, under; ///< of each turn
    };
    std::vector<double> shown(const sim::Acoustics::Unquantised &heard, double gain) const {
        const double low = sim::Acoustics::db_at_zero, high = low + 255 * scene_.making.db_per_count;
        std::vector<double> db;
        for (const float level : heard.expected_db.front())
            db.push_back(std::clamp(static_cast<double>(level) + gain, low, high));
        return db;
    }
    void add(Of &of, const TrueThing &t, const Ping &ping, double g, const std::vector<double> &with,
             const std::vector<double> &without) const {
        const double altitude = scene_.depth_m(t.at) - scene_.boat.head_installation().draught_m(),
                     height = std::max(0.0, t.height_m), step = ping.metres_per_sample();
        const double first =
                         std::max(0.5, std::hypot(std::max(0.0, g - t.width_m / 2), altitude - height) - 0.3),
                     echo_end = t.suspended ? first + t.width_m + 0.8
                                            : std::hypot(g + t.width_m / 2, altitude) + 0.15,
                     last = std::hypot(g, altitude) * altitude /
                                std::max(0.3, altitude - std::max(0.1, height)) +
                            t.width_m;
        const auto window = [&](const std::vector<double> &v, double from_m, double long_m) {
            const auto k0 = static_cast<std::ptrdiff_t>(ping.sample_at(from_m)),
                       k1 = std::max(k0 + 1, static_cast<std::ptrdiff_t>(ping.sample_at(from_m + long_m)));
            double sum = 0, n = 0;
            for (auto k = std::max<std::ptrdiff_t>(0, k0); k < std::min(k1, std::ssize(v)); ++k) {
                sum += v[static_cast<std::size_t>(k)];
                n += 1;
            }
            return n > 0 ? sum / n : -1e9;
        };
        const auto n = static_cast<std::size_t>(std::max(1.0, (last - first) / std::max(0.05, step)));
        of.sum_over.resize(std::max(of.sum_over.size(), n), 0);
        of.sum_under.resize(of.sum_over.size(), 0);
        for (std::size_t i = 0; i < n; ++i) {
            const double at = first + static_cast<double>(i) * std::max(0.05, step);
            const double over = window(with, at, 0.1) - window(without, at - 0.5, 1.1),
                         under = window(without, at - 0.5, 1.3) - window(with, at, 0.3);
            of.sum_over[i] += at < echo_end ? std::clamp(over, -30.0, 30.0) : -30;
            of.sum_under[i] += at > std::hypot(g, altitude - height) ? std::clamp(under, -30.0, 30.0) : -30;
        }
        of.rays += 1;
    }
    static void end(Of &of) {
        if (of.rays > 0) {
            of.over.push_back(*std::max_element(of.sum_over.begin(), of.sum_over.end()) / of.rays);
            of.under.push_back(*std::max_element(of.sum_under.begin(), of.sum_under.end()) / of.rays);
        }
        of.sum_over.clear();
        of.sum_under.clear();
        of.rays = 0;
    }

    sim::Scene scene_, bare_;
    sim::Acoustics with_;
    std::optional<sim::Acoustics> without_;
    std::vector<Of> thing_;
};

} // namespace

Sounded sound_around(ReadingScene r, bool moves, const std::vector<sim::Swimmers> &swimmers,
                     std::optional<double> asked_s, double speed_m_s) {
    r.length_m = 36;
    r.lanes = r.curved = false;
    r.drop = Kind::none;
    r.slope_deg = std::min(r.slope_deg, 4.0);
    r.speed_m_s = speed_m_s;
    Sounded s;
    auto scene = plant(r, s.things);
    sim::Hold hold;
    hold.at = {keel_east, from_north + r.length_m / 2 - scene.boat.head.forward_m};
    hold.drift_m = 0.8;
    hold.swing_deg = 7;
    scene.boat.hold = hold;
    scene.swimmers = swimmers;
    s.plane = LocalPlane(scene.origin);
    const auto start = 1'800'000'000LL * ns_per_s;
    sim::Sounder sounder(scene, start);
    auto side = sounder.settings();
    side.pinging = false;
    sounder.ask(side);
    auto head = sounder.head_settings();
    head.range_m = std::clamp(6 * r.depth_m, 12.0, 20.0);
    head.frequency_hz = r.frequency_hz;
    head.gain = r.gain;
    head.turning->pace = moves || !swimmers.empty() ? 4 : 2;
    head.pinging = true;
    sounder.ask_head(head);
    if (!moves)
        sounder.put_on_hold();
    s.scan.installation = scene.boat.head_installation();
    NmeaFeed feed;
    const double seconds = asked_s.value_or(moves ? (r.length_m + 8) / r.speed_m_s : 60);
    const double reach =
        0.9 * std::sqrt(std::max(1.0, std::pow(sounder.head_settings().range_m, 2) - r.depth_m * r.depth_m));
    StandsOut stands_out(scene);
    std::size_t turn = 0;
    double before_deg = 0;
    while (true) {
        auto e = sounder.next();
        if (seconds_between(start, e.time) > seconds)
            break;
        for (auto &line : e.sentences)
            feed.take(line, e.time, s.scan.nav);
        if (!e.ray)
            continue;
        s.boats.emplace_back(s.scan.end(), sounder.boat());
        const double azimuth_deg = wrap_360(e.ray->ping.beams.front().azimuth_deg);
        turn += azimuth_deg < before_deg;
        before_deg = azimuth_deg;
        stands_out.look(sounder.boat(), e.ray->settings, e.ray->ping, s.things, turn);
        for (auto &t : s.things) {
            const auto from = from_boat(sounder.boat(), s.scan.installation, t.at);
            const double g = std::hypot(from.ahead_m, from.starboard_m),
                         azimuth = wrap_360(std::atan2(from.starboard_m, from.ahead_m) * degrees_per_radian);
            if (g > reach || g < 0.5 * r.depth_m || (azimuth > 160 && azimuth < 200))
                continue;
            t.seen = true;
            t.row = s.scan.end();
            t.ground_m = g;
            t.depth_m = scene.depth_m(t.at);
        }
        s.scan.push({std::move(e.ray->ping), std::nullopt, e.ray->settings});
    }
    stands_out.tell(s.things);
    for (auto &t : s.things)
        t.stands_out = t.seen && t.margin_db >= 4;
    return s;
}

} // namespace heron::study
