#include "sim/acoustics.hpp"

#include "sim/surface.hpp"
#include "sim/texture.hpp"
#include "sonar/decibels.hpp"
#include "water/water.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <iterator>
#include <numbers>

namespace heron::sim {
namespace {

constexpr auto sine_bins = Acoustics::sine_bins;

constexpr std::size_t tile = 512; // knots of the relief tile, a power of two
constexpr double tile_step_m = 0.11, shortest_wave_m = 0.22, longest_wave_m = 30;
constexpr int rays_a_fan = 5;
constexpr double lowest_sine = -0.2; // the fan is told over sines of depression from here to 1
constexpr double sine_step = 1.2 / (sine_bins - 1);

// How rough each ground is: height of its grains (m) and how patchy it scatters (dB).
struct Texture {
    double relief_m;
    double patch_db;
    double scatter; // linear
};
const std::array<Texture, 4> &textures() {
    static const std::array<Texture, 4> t{{{0.006, 0.8, power_of(lambert_db(Ground::silt))},
                                           {0.015, 1.0, power_of(lambert_db(Ground::sand))},
                                           {0.045, 1.8, power_of(lambert_db(Ground::gravel))},
                                           {0.135, 3.0, power_of(lambert_db(Ground::rock))}}};
    return t;
}

std::int64_t square_key(double x, double y, double size) {
    return static_cast<std::int64_t>(std::floor(x / size)) * 1'000'003 +
           static_cast<std::int64_t>(std::floor(y / size));
}

// Two-way response of a beam `off` degrees from its middle whose one-way half-power width is `width`.
double response(double off, double width) {
    const double x = off / (width / 2);
    return std::exp(-2 * std::numbers::ln2 * x * x);
}

} // namespace

Acoustics::Acoustics(const Scene &scene) : scene_(scene), c_(sound_speed_fresh_m_s(scene.temperature_c)) {
    std::mt19937 random(scene.seed ^ 0x5EED);
    normals_.resize(std::size_t{1} << 18);
    std::normal_distribution<float> speckle(0, 0.70710678F);
    for (auto &v : normals_)
        v = speckle(random);
    const auto noise = [&](double fall) {
        return broad_noise(tile, tile_step_m, shortest_wave_m, longest_wave_m, fall, random);
    };
    relief_ = noise(scene.making.rough_fall);
    patches_ = noise(scene.making.patch_fall);
    for (std::uint32_t i = 0; i < scene.solids.size(); ++i) {
        const auto m = scene.solids[i].middle();
        squares_[square_key(m.x, m.y, square_m)].solids.push_back(i);
        largest_reach_ = std::max(largest_reach_, scene.solids[i].reach_m());
    }
    for (const float depth : scene.depth)
        deepest_m_ = std::max(deepest_m_, static_cast<double>(depth) + 1);
    for (std::uint32_t i = 0; i < scene.bodies.size(); ++i)
        squares_[square_key(scene.bodies[i].at.x, scene.bodies[i].at.y, square_m)].bodies.push_back(i);
}

void Acoustics::gather(Point at, double reach) {
    near_solids_.clear();
    near_bodies_.clear();
    const double r = reach + largest_reach_ + square_m;
    for (double x = at.x - r; x <= at.x + r; x += square_m) {
        for (double y = at.y - r; y <= at.y + r; y += square_m) {
            const auto found = squares_.find(square_key(x, y, square_m));
            if (found == squares_.end())
                continue;
            for (const auto i : found->second.solids)
                near_solids_.push_back(&scene_.solids[i]);
            for (const auto i : found->second.bodies)
                near_bodies_.push_back(&scene_.bodies[i]);
        }
    }
    swimming_.clear();
    for (const auto &w : scene_.swimmers) {
        const auto middle = w.at(seconds_);
        for (const auto &f : w.fish)
            swimming_.push_back({{middle.x + f.off.x, middle.y + f.off.y},
                                 std::max(0.1, w.above_bottom_m + f.up_m),
                                 f.radius_m,
                                 f.strength_db,
                                 0.9});
    }
    for (const auto &b : swimming_)
        if (std::hypot(b.at.x - at.x, b.at.y - at.y) < r)
            near_bodies_.push_back(&b);
}

void Acoustics::bend(double transducer_depth, double range) {
    if (!scene_.cold || (bent_ && bent_depth_ == transducer_depth && bent_range_ >= range))
        return;
    constexpr double least_m = 0.05;
    bent_depth_ = transducer_depth;
    bent_range_ = range;
    bent_.emplace(c_, sound_speed_fresh_m_s(scene_.cold->temperature_c),
                  std::max(least_m, scene_.cold->below_m - transducer_depth), deepest_m_, range * 1.1);
}

BentRays::Met Acoustics::met(double along, double below) const {
    if (bent_)
        return bent_->at(along, below);
    const double r = std::sqrt(along * along + below * below);
    return {below / r, r, along / r, below / r};
}

// What a beam hears where the scene is of scatterers; what comes without chance goes into the energies.
std::optional<Scatterers::Field> Acoustics::by_scatterers(const Scatterers::Beam &beam, const Band &band,
                                                          Heard &heard) {
    if (scene_.engine != Engine::scatterers)
        return std::nullopt;
    if (!scatterers_)
        scatterers_ = std::make_unique<Scatterers>(scene_);
    auto field = scatterers_->hear(beam, band.frequency_hz, band.bandwidth_hz, heard.energy.size(),
                                   heard.cell_m, looks(), swimming_);
    heard.energy = field.energy;
    return field;
}

// Two-way loss of spreading and absorption for every slant cell, and the fan's response over the sine of
// depression: tables, since they are asked for millions of times. Kept while range and band stay; a fan leans
// with the boat by quarters of a degree.
const std::vector<float> &Acoustics::carried_over(const Band &band, double range, double cell_m) {
    if (carried_frequency_ == band.frequency_hz && carried_cell_m_ == cell_m)
        return carried_;
    carried_frequency_ = band.frequency_hz;
    carried_cell_m_ = cell_m;
    const double absorption = absorption_fresh_db_per_m(band.frequency_hz, scene_.temperature_c);
    carried_.resize(static_cast<std::size_t>(range / cell_m * 1.05) + 2);
    for (std::size_t k = 0; k < carried_.size(); ++k) {
        const double r = (static_cast<double>(k) + 0.5) * cell_m;
        carried_[k] = static_cast<float>(std::exp(-0.2302585093 * 2 * absorption * r) / (r * r * r * r));
    }
    return carried_;
}

const Acoustics::Fan &Acoustics::fan_at(double tilt, double across_deg) {
    const auto quarter = std::lround(tilt * 4);
    auto [at, fresh] = fans_.try_emplace({quarter, std::lround(across_deg * 4)});
    if (fresh)
        for (std::size_t i = 0; i < at->second.size(); ++i) {
            const double sine = std::clamp(lowest_sine + static_cast<double>(i) * sine_step, -1.0, 1.0);
            at->second[i] = static_cast<float>(response(
                std::asin(sine) * degrees_per_radian - static_cast<double>(quarter) / 4, across_deg));
        }
    return at->second;
}

// Walks outward over the bottom along one vertical plane. What lies lower than the highest ray so far is in
// shadow; what hangs in the water takes its share out of the rays that pass it. Rays are told by the sine of
// their depression.
void Acoustics::hear_plane(Point at, double transducer_depth, double bearing, double weight, double theta,
                           const Fan &fan, double range, Heard &heard) {
    const double dx = std::sin(bearing), dy = std::cos(bearing);
    const auto &making = scene_.making;
    // Another law than Lambert's meets it at thirty degrees.
    const auto fallen = [power = making.grazing_power](double sine) {
        return power == 2 ? sine * sine : 0.25 * std::pow(2 * sine, power);
    };
    const double on_things = power_of(making.things_db);
    struct Crossing {
        double from, to;
        const Solid *solid;
        double scatter;
    };
    std::vector<Crossing> solids;
    for (const auto *s : near_solids_) {
        const auto m = s->middle();
        const double along = (m.x - at.x) * dx + (m.y - at.y) * dy,
                     across = (m.x - at.x) * dy - (m.y - at.y) * dx;
        const double reach = s->reach_m();
        if (std::fabs(across) > reach || along + reach < 0 || along - reach > range)
            continue;
        const double half = std::sqrt(reach * reach - across * across);
        solids.push_back({along - half, along + half, s, on_things * power_of(s->strength_db)});
    }
    struct Hanging {
        double slant, sine, half; // half: of the body's width in sines of depression
        const Body *body;
    };
    std::vector<Hanging> hanging;
    for (const auto *b : near_bodies_) {
        const double along = (b->at.x - at.x) * dx + (b->at.y - at.y) * dy,
                     across = (b->at.x - at.x) * dy - (b->at.y - at.y) * dx;
        if (along <= 0 || along > range || std::fabs(across) > b->radius_m)
            continue;
        const double z = scene_.depth_m(b->at) - b->height_m - transducer_depth;
        if (z + transducer_depth < 0.02)
            continue;
        const auto ray = met(along, z);
        hanging.push_back({ray.r, ray.sine, b->radius_m / ray.r * along / ray.r, b});
    }
    std::sort(hanging.begin(), hanging.end(),
              [](const Hanging &a, const Hanging &b) { return a.slant < b.slant; });
    std::vector<float> passes;
    if (!hanging.empty())
        passes.assign(sine_bins, 1.0F);
    const auto bin_of = [](double sine) {
        return static_cast<std::size_t>(
            std::clamp((sine - lowest_sine) / sine_step, 0.0, static_cast<double>(sine_bins - 1)));
    };
    const double cells_per_m = 1 / heard.cell_m, step = heard.cell_m;
    const auto add = [&](double r, double energy) {
        const double k = r * cells_per_m - 0.5;
        if (k < 0)
            return;
        const auto i = static_cast<std::size_t>(k);
        if (i + 1 >= heard.energy.size())
            return;
        const auto share = static_cast<float>(k - static_cast<double>(i));
        const auto e = static_cast<float>(energy) * carried_[i];
        heard.energy[i] += e * (1 - share);
        heard.energy[i + 1] += e * share;
    };
    std::size_t next_body = 0;
    const auto pass_bodies = [&](double until, double horizon) {
        for (; next_body < hanging.size() && hanging[next_body].slant <= until; ++next_body) {
            const auto &h = hanging[next_body];
            if (h.sine > horizon)
                continue; // behind something solid
            // A body narrower than the fan is met by some of its rays only; its whole echo belongs to those.
            const double rays_met =
                std::max(1.0, 2 * h.body->radius_m / (theta * h.slant * 1.6 / rays_a_fan));
            const double echo = on_things * power_of(h.body->strength_db) * weight * rays_a_fan /
                                std::min<double>(rays_met, rays_a_fan);
            const auto middle = bin_of(h.sine);
            add(h.slant, echo * static_cast<double>(fan[middle] * passes[middle]));
            const auto through = static_cast<float>(1 - std::min(1.0, h.body->opacity * making.opacity));
            for (auto i = bin_of(h.sine - h.half); i <= bin_of(h.sine + h.half); ++i)
                passes[i] *= through;
        }
    };

    // The relief and the patches are knots wider than a step: what one holds serves the steps within it.
    std::size_t knot = tile * tile;
    Ground knot_ground{};
    double relief = 0, patch_scatter = 0;
    double last_z = 0, last_g = 0, last_r = 0, last_sine = 2;
    double horizon = 2; // smallest sine of depression met so far
    bool started = false;
    for (double g = step / 2; g < range; g += step) {
        const Point p{at.x + g * dx, at.y + g * dy};
        const auto ground = scene_.ground(p);
        const auto &texture = textures()[static_cast<std::size_t>(ground)];
        const auto ix =
            static_cast<std::size_t>(static_cast<std::int64_t>(std::floor(p.x / tile_step_m))) & (tile - 1);
        const auto iy =
            static_cast<std::size_t>(static_cast<std::int64_t>(std::floor(p.y / tile_step_m))) & (tile - 1);
        if (const auto here = iy * tile + ix; here != knot || ground != knot_ground) {
            knot = here;
            knot_ground = ground;
            relief = making.rough * texture.relief_m * static_cast<double>(relief_[here]);
            patch_scatter = texture.scatter * std::exp(0.2302585093 * making.patchy * texture.patch_db *
                                                       static_cast<double>(patches_[here]));
        }
        double z = scene_.depth_m(p) - scene_.ripple_m(p) + scene_.sunk_m(p) - transducer_depth - relief;
        double scatter = patch_scatter;
        double top = 0;
        for (const auto &s : solids) {
            if (g < s.from || g > s.to)
                continue;
            const double h = s.solid->height_at(p);
            if (h > top) {
                top = h;
                scatter = s.scatter;
            }
        }
        z = std::max(z - top, 0.02 - transducer_depth); // nothing stands out of the water
        const auto ray = met(g, z);
        const double r = ray.r, sine = ray.sine;
        if (!hanging.empty())
            pass_bodies(r, horizon);
        if (started) {
            const double dg = g - last_g, dz = z - last_z;
            const double length = std::sqrt(dg * dg + dz * dz);
            const double grazing = bent_ ? (ray.down * dg - ray.along * dz) / length
                                         : (z * dg - g * dz) / (r * length); // its sine
            if (sine < horizon && grazing > 0) {
                // Only the part of the facet above the horizon is lit.
                double lit = 1;
                if (last_sine > horizon && last_sine > sine)
                    lit = (horizon - sine) / (last_sine - sine);
                double energy = scatter * fallen(grazing) * length * lit * theta * r * weight;
                const auto bin = bin_of(sine);
                energy *= static_cast<double>(fan[bin]);
                if (!passes.empty())
                    energy *= static_cast<double>(passes[bin]);
                const double from = std::min(last_r, r), to = std::max(last_r, r);
                const int pieces = std::max(1, static_cast<int>((to - from) * cells_per_m));
                if (pieces == 1) {
                    add((from + to) / 2, energy);
                } else {
                    for (int i = 0; i < pieces; ++i)
                        add(from + (to - from) * (i + 0.5) / pieces, energy / pieces);
                }
            }
        }
        horizon = std::min(horizon, sine);
        last_z = z;
        last_g = g;
        last_r = r;
        last_sine = sine;
        started = true;
        if (r > range * 1.02)
            break;
    }
    if (!hanging.empty())
        pass_bodies(range, horizon);
}

// The ground of the bounces: as it is some depths aside.
void Acoustics::hear_surface(Point at, double draught, double bearing, const Band &band, const Fan &fan,
                             double tilt, Heard &heard) const {
    if (!scene_.making.surface)
        return;
    ShallowWater water;
    water.depth_m = scene_.depth_m(at);
    water.draught_m = draught;
    water.wind_m_s = scene_.wind_m_s;
    water.bottom = usual_sediment(static_cast<std::size_t>(scene_.ground(
        {at.x + 3 * water.depth_m * std::sin(bearing), at.y + 3 * water.depth_m * std::cos(bearing)})));
    water.frequency_hz = band.frequency_hz;
    water.along_rad = band.along_deg / degrees_per_radian;
    water.absorption_db_per_m = absorption_fresh_db_per_m(band.frequency_hz, scene_.temperature_c);
    add_surface(heard.energy, heard.cell_m, water, [&fan, &band, tilt](double sine) {
        if (sine < lowest_sine)
            return response(std::asin(sine) * degrees_per_radian - tilt, band.across_deg);
        return static_cast<double>(fan[static_cast<std::size_t>(
            std::min((sine - lowest_sine) / sine_step, static_cast<double>(sine_bins - 1)))]);
    });
}

void Acoustics::hear_down(Point at, double transducer_depth, double bearing, const Band &band, double range,
                          Heard &heard) {
    constexpr double cone_deg = down_cone_deg;
    const double absorption = absorption_fresh_db_per_m(band.frequency_hz, scene_.temperature_c);
    const auto add = [&](double r, double energy) {
        const auto k = static_cast<std::size_t>(r / heard.cell_m);
        if (k < heard.energy.size())
            heard.energy[k] += static_cast<float>(energy);
    };
    const auto carried = [&](double r, double off_deg) {
        return response(off_deg, cone_deg) * std::exp(-0.2302585093 * 2 * absorption * r) / (r * r * r * r);
    };
    const double deep = std::max(0.2, scene_.depth_m(at) - transducer_depth);
    const double edge = deep * std::tan(cone_deg / degrees_per_radian);
    std::vector<const Solid *> below;
    std::copy_if(near_solids_.begin(), near_solids_.end(), std::back_inserter(below), [&](const Solid *s) {
        return std::hypot(s->middle().x - at.x, s->middle().y - at.y) < edge + s->reach_m();
    });
    constexpr int spokes = 10, rings = 30;
    for (int s = 0; s < spokes; ++s) {
        const double a = bearing + 2 * std::numbers::pi * s / spokes;
        for (int k = 0; k < rings; ++k) {
            const double g = edge * (k + 0.5) / rings,
                         area = 2 * std::numbers::pi * g * edge / rings / spokes;
            const Point p{at.x + g * std::sin(a), at.y + g * std::cos(a)};
            double top = 0;
            double scatter = textures()[static_cast<std::size_t>(scene_.ground(p))].scatter;
            for (const auto *solid : below)
                if (const double h = solid->height_at(p); h > top)
                    top = h, scatter = power_of(solid->strength_db);
            const double z = std::max(0.05, scene_.depth_m(p) + scene_.sunk_m(p) - transducer_depth - top),
                         r = met(g, z).r;
            const double grazing = z / std::sqrt(g * g + z * z);
            if (r < range)
                add(r,
                    scatter * grazing * grazing * area * carried(r, std::atan2(g, z) * degrees_per_radian));
        }
    }
    for (const auto *b : near_bodies_) {
        const double g = std::hypot(b->at.x - at.x, b->at.y - at.y);
        const double z = scene_.depth_m(b->at) - b->height_m - transducer_depth, r = met(g, z).r;
        if (z > 0.05 && g < 2 * edge && r < range)
            add(r, power_of(b->strength_db) * carried(r, std::atan2(g, z) * degrees_per_radian));
    }
}

Acoustics::Unquantised Acoustics::hear_levels(const BoatState &boat, const SoundingSettings &settings,
                                              std::uint32_t noise_seed) {
    return listen(boat, settings, noise_seed, true);
}

Acoustics::Unquantised Acoustics::listen(const BoatState &boat, const SoundingSettings &settings,
                                         std::uint32_t noise_seed, bool expects) {
    const auto &making = scene_.making;
    auto band = band_nearest(settings.frequency_hz);
    band.along_deg *= making.beam;
    band.bandwidth_hz *= making.bandwidth;
    const auto samples = making.samples;
    const auto &at = scene_.boat.installation;
    const auto lever = turned(at.transducer, boat.heading_deg, boat.pitch_deg, boat.roll_deg);
    const Point place{boat.at.x + lever.east_m, boat.at.y + lever.north_m};
    const double depth = at.draught_m();
    std::mt19937 random(noise_seed);

    Unquantised out;
    auto &ping = out.ping;
    ping.sound_speed_m_s = c_;
    ping.sample_interval_s = settings.range_m / static_cast<double>(samples) * 2 / c_;
    ping.first_sample_s = ping.sample_interval_s / 2;
    ping.frequency_hz = band.frequency_hz;
    ping.bandwidth_hz = band.bandwidth_hz;
    ping.pulse_s = 120e-6;
    gather(place, settings.range_m);
    bend(depth, settings.range_m);
    // The noise of the hull and the motor grows with speed: some 18 dB for a doubling beyond a walking pace.
    // Common practice, no published source; only its rise matters here.
    const double noise_db = scene_.noise_db + 60 * std::log10(std::max(1.0, boat.speed_m_s / 1.8));
    const double theta = band.along_deg / degrees_per_radian;
    const double cell = settings.range_m / static_cast<double>(samples);
    carried_over(band, settings.range_m, cell);
    const auto &fault = scene_.sounder_fault;
    for (const bool port : {true, false}) {
        Heard heard{std::vector<float>(samples, 0.0F), cell};
        const double lean = boat.roll_deg + fault.roll_deg;
        const auto &fan = fan_at(tilt_deg + (port ? -lean : lean), band.across_deg);
        const auto field =
            by_scatterers({place, depth, (boat.heading_deg + (port ? -90 : 90)) / degrees_per_radian,
                           tilt_deg + (port ? -lean : lean), band.along_deg, band.across_deg},
                          band, heard);
        for (int i = 0; i < rays_a_fan && !field; ++i) {
            const double share = (i - (rays_a_fan - 1) / 2.0) / rays_a_fan; // −0.4 … 0.4 of 1.6 widths
            const double off = share * 1.6 * band.along_deg;
            // Two-way weights, made to sum to one.
            static constexpr std::array<double, rays_a_fan> weights{0.08, 0.24, 0.36, 0.24, 0.08};
            const double bearing = (boat.heading_deg + (port ? -90 : 90) + off) / degrees_per_radian;
            hear_plane(place, depth, bearing, weights[static_cast<std::size_t>(i)], theta, fan,
                       settings.range_m, heard);
        }
        hear_surface(place, depth, (boat.heading_deg + (port ? -90 : 90)) / degrees_per_radian, band, fan,
                     tilt_deg + (port ? -lean : lean), heard);
        // Crossed plugs: what one side hears comes out as the other.
        const auto side = port != fault.swapped ? Side::port : Side::starboard;
        receive(out, heard, side, band, settings, noise_db, theta, random, field ? &*field : nullptr,
                expects);
        if (fault.weak_left_db > 0 && side == Side::port)
            for (auto &level : out.level_db.back())
                level -= static_cast<float>(fault.weak_left_db);
    }
    if (making.gain_wander_db > 0 || making.weak_share > 0) {
        std::mt19937 untold(noise_seed ^ 0xBEEF);
        double off = std::normal_distribution<double>(0, std::max(1e-9, making.gain_wander_db))(untold);
        if (std::uniform_real_distribution<double>(0, 1)(untold) < making.weak_share)
            off -= making.weak_db;
        for (auto &levels : out.level_db)
            for (auto &level : levels)
                level += static_cast<float>(off);
    }
    out.streak = fault.streak_every > 0 && noise_seed % static_cast<std::uint32_t>(fault.streak_every) == 0;
    if (!looks_down_)
        return out;
    // Looking down: a fan thin along the track, and a cone as a plain sounder has.
    gather(place, 12);
    Heard thin{std::vector<float>(samples, 0.0F), cell};
    const double sideways = std::min(settings.range_m, 1.2 * std::max(1.0, scene_.depth_m(place)));
    const double ahead = boat.heading_deg / degrees_per_radian;
    const auto thin_field = by_scatterers(
        {place, depth, ahead + std::numbers::pi / 2, 90, band.along_deg, down_fan_deg, true}, band, thin);
    for (const int s : {-90, 90}) {
        if (thin_field)
            break;
        hear_plane(place, depth, (boat.heading_deg + s) / degrees_per_radian, 1, theta,
                   fan_at(90, down_fan_deg), sideways, thin);
    }
    receive(out, thin, Side::down, band, settings, noise_db, theta, random,
            thin_field ? &*thin_field : nullptr, expects);
    ping.beams.back().width_along_deg = band.along_deg;
    ping.beams.back().width_across_deg = down_fan_deg;
    Heard below{std::vector<float>(samples, 0.0F), cell};
    const auto cone_field = by_scatterers(
        {place, depth, ahead + std::numbers::pi / 2, 90, down_cone_deg, down_cone_deg, true}, band, below);
    if (!cone_field)
        hear_down(place, depth, ahead, band, settings.range_m, below);
    receive(out, below, Side::down, band, settings, noise_db, down_cone_deg / degrees_per_radian, random,
            cone_field ? &*cone_field : nullptr, expects);
    return out;
}

Ping Acoustics::hear(const BoatState &boat, const SoundingSettings &settings, std::uint32_t noise_seed) {
    auto heard = listen(boat, settings, noise_seed, false);
    quantise(heard, noise_seed);
    return std::move(heard.ping);
}

Ping Acoustics::hear_ray(const BoatState &boat, const SoundingSettings &settings, double azimuth_deg,
                         std::uint32_t noise_seed) {
    auto heard = listen_along(boat, settings, azimuth_deg, noise_seed, false);
    quantise(heard, noise_seed);
    return std::move(heard.ping);
}

Acoustics::Unquantised Acoustics::hear_ray_levels(const BoatState &boat, const SoundingSettings &settings,
                                                  double azimuth_deg, std::uint32_t noise_seed) {
    return listen_along(boat, settings, azimuth_deg, noise_seed, true);
}

Acoustics::Unquantised Acoustics::listen_along(const BoatState &boat, const SoundingSettings &settings,
                                               double azimuth_deg, std::uint32_t noise_seed, bool expects) {
    const auto &band = band_nearest(settings.frequency_hz, head_bands());
    const auto at = scene_.boat.head_installation();
    const auto lever = turned(at.transducer, boat.heading_deg, boat.pitch_deg, boat.roll_deg);
    const Point place{boat.at.x + lever.east_m, boat.at.y + lever.north_m};
    std::mt19937 random(noise_seed);
    Unquantised out;
    auto &ping = out.ping;
    const auto samples = scene_.making.samples;
    const double cell = settings.range_m / static_cast<double>(samples);
    ping.sound_speed_m_s = c_;
    ping.sample_interval_s = cell * 2 / c_;
    ping.first_sample_s = ping.sample_interval_s / 2;
    ping.frequency_hz = band.frequency_hz;
    ping.bandwidth_hz = band.bandwidth_hz;
    ping.pulse_s = 120e-6;
    gather(place, settings.range_m);
    bend(at.draught_m(), settings.range_m);
    carried_over(band, settings.range_m, cell);
    const double theta = band.along_deg / degrees_per_radian, to = azimuth_deg / degrees_per_radian;
    Heard heard{std::vector<float>(samples, 0.0F), cell};
    // The ray leans with the boat: bow up lifts what looks ahead.
    const double lean = boat.roll_deg * std::sin(to) - boat.pitch_deg * std::cos(to);
    const auto &fan = fan_at(head_tilt_deg + lean, band.across_deg);
    const auto field =
        by_scatterers({place, at.draught_m(), (boat.heading_deg + azimuth_deg) / degrees_per_radian,
                       head_tilt_deg + lean, band.along_deg, band.across_deg},
                      band, heard);
    for (int i = 0; i < rays_a_fan && !field; ++i) {
        const double share = (i - (rays_a_fan - 1) / 2.0) / rays_a_fan;
        static constexpr std::array<double, rays_a_fan> weights{0.08, 0.24, 0.36, 0.24, 0.08};
        const double bearing =
            (boat.heading_deg + azimuth_deg + share * 1.6 * band.along_deg) / degrees_per_radian;
        hear_plane(place, at.draught_m(), bearing, weights[static_cast<std::size_t>(i)], theta, fan,
                   settings.range_m, heard);
    }
    hear_surface(place, at.draught_m(), (boat.heading_deg + azimuth_deg) / degrees_per_radian, band, fan,
                 head_tilt_deg + lean, heard);
    if (const double behind = wrap_360(azimuth_deg); behind > hull_from_deg && behind < hull_to_deg)
        for (auto &e : heard.energy)
            e *= 0.003F;
    receive(out, heard, Side::around, band, settings, scene_.noise_db, theta, random,
            field ? &*field : nullptr, expects);
    ping.beams.back().azimuth_deg = wrap_180(azimuth_deg);
    ping.beams.back().depression_deg = head_tilt_deg;
    return out;
}

} // namespace heron::sim
