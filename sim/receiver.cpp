// From what comes back to what the device writes: speckle, noise, TVG, gain and counts.
#include "sim/acoustics.hpp"
#include "sonar/decibels.hpp"
#include "water/water.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace heron::sim {
namespace {

// Unit-power complex noise by halves, from a table read from a random place on: drawing each would be a third
// of all work.
class Normals {
  public:
    Normals(const std::vector<float> &table, std::uint32_t from)
        : table_(table), at_(from & (table.size() - 1)) {}
    float operator()() {
        at_ = (at_ + 1) & (table_.size() - 1);
        return table_[at_];
    }

  private:
    const std::vector<float> &table_;
    std::size_t at_;
};

} // namespace

// Kept while band, range and TVG stay.
const std::vector<Acoustics::SlantCell> &Acoustics::slant_cells(const Band &band, double cell_m,
                                                                std::size_t n, double tvg_log) {
    if (slant_cells_.size() == n && slant_key_ == std::array{band.frequency_hz, cell_m, tvg_log})
        return slant_cells_;
    slant_key_ = {band.frequency_hz, cell_m, tvg_log};
    const double absorption = absorption_fresh_db_per_m(band.frequency_hz, scene_.temperature_c);
    const auto &making = scene_.making;
    slant_cells_.resize(n);
    for (std::size_t k = 0; k < n; ++k) {
        const double r = (static_cast<double>(k) + 0.5) * cell_m;
        slant_cells_[k] = {118 - 160 * r,
                           tvg_log * std::log10(std::max(r, 0.3)) + 2 * absorption * r +
                               making.tvg_db_per_m * r +
                               making.ripple_db * std::sin(2 * std::numbers::pi * r / making.ripple_m),
                           std::exp(-0.2302585093 * 2 * absorption * r) / (r * r)};
    }
    return slant_cells_;
}

// Energy into levels: speckle over the pulse, suspended matter, noise and TVG.
void Acoustics::receive(Unquantised &into, const Heard &heard, Side side, const Band &band,
                        const SoundingSettings &settings, double noise_db, double theta, std::mt19937 &random,
                        const Scatterers::Field *field, bool expects) {
    Beam beam;
    beam.side = side;
    beam.azimuth_deg = nominal_azimuth_deg(side);
    beam.depression_deg = side == Side::down ? 90 : tilt_deg;
    const auto &making = scene_.making;
    beam.width_along_deg = side == Side::down ? down_cone_deg : band.along_deg * making.beam_told;
    beam.width_across_deg = side == Side::down ? down_cone_deg : band.across_deg;
    beam.gain_db = (settings.gain - 50) * gain_step_db;
    beam.scale = {db_at_zero, making.db_per_count, 0, 255};
    const std::size_t n = heard.energy.size();
    std::vector<float> levels(n);
    Normals normal(normals_, static_cast<std::uint32_t>(random()));
    // A pulse smears over c/(2B) of range.
    const double pulse_m = c_ / (2 * band.bandwidth_hz);
    // Of scatterers the pulse is in their sum already.
    const auto half =
        field != nullptr ? 0 : static_cast<std::ptrdiff_t>(std::lround(pulse_m / heard.cell_m / 2));
    const double suspended = power_of(scene_.suspended_db + 20 * std::log10(band.frequency_hz / 770e3));
    const double source = power_of(band.source_db + making.source_db);
    const auto &cells = slant_cells(band, heard.cell_m, n, settings.tvg_log);
    // Of the shell that the fan fills.
    const double suspended_over_m2 = suspended * theta * 0.6 * heard.cell_m;
    std::vector<float> re(n), im(n), power(n), amplitude(n);
    for (std::size_t k = 0; k < n; ++k) {
        const double energy =
            (static_cast<double>(heard.energy[k]) + suspended_over_m2 * cells[k].carried_m2) * source;
        power[k] = static_cast<float>(energy);
        // What scatterers send back has its phases: chance is left to the water and its surface.
        const double by_chance = field != nullptr
                                     ? std::max(0.0, energy - static_cast<double>(field->energy[k]) * source)
                                     : energy;
        amplitude[k] = static_cast<float>(std::sqrt(by_chance));
    }
    const auto noise_amplitude = static_cast<float>(std::sqrt(power_of(noise_db)));
    // A device that averages n looks adds up their energies, each with a speckle and a noise of its own: what
    // comes out is spread as the gamma distribution of shape n.
    const int n_looks = looks();
    std::vector<double> sum_energy(n, 0);
    for (int look = 0; look < n_looks; ++look) {
        for (std::size_t k = 0; k < amplitude.size(); ++k) {
            re[k] = amplitude[k] * normal();
            im[k] = amplitude[k] * normal();
        }
        for (std::size_t k = 0; k < n; ++k) {
            float sum_re = 0, sum_im = 0;
            for (auto j = std::max<std::ptrdiff_t>(0, static_cast<std::ptrdiff_t>(k) - half);
                 j <= std::min<std::ptrdiff_t>(std::ssize(re) - 1, static_cast<std::ptrdiff_t>(k) + half);
                 ++j) {
                sum_re += re[static_cast<std::size_t>(j)];
                sum_im += im[static_cast<std::size_t>(j)];
            }
            if (field != nullptr) {
                sum_re +=
                    static_cast<float>(std::sqrt(source)) * field->re[static_cast<std::size_t>(look)][k];
                sum_im +=
                    static_cast<float>(std::sqrt(source)) * field->im[static_cast<std::size_t>(look)][k];
            }
            sum_re += noise_amplitude * normal();
            sum_im += noise_amplitude * normal();
            sum_energy[k] += static_cast<double>(sum_re * sum_re + sum_im * sum_im);
        }
    }
    // The transmission itself still rings close by.
    const auto level = [&cells](std::size_t k, double received) {
        return static_cast<float>(std::max(decibels_of(received + 1e-12), cells[k].ringing_db) +
                                  cells[k].added_db);
    };
    for (std::size_t k = 0; k < n; ++k)
        levels[k] = level(k, sum_energy[k] / n_looks);
    if (expects) {
        std::vector<float> expected(n);
        for (std::size_t k = 0; k < n; ++k) {
            float sum_power = 0;
            for (auto j = std::max<std::ptrdiff_t>(0, static_cast<std::ptrdiff_t>(k) - half);
                 j <= std::min<std::ptrdiff_t>(std::ssize(re) - 1, static_cast<std::ptrdiff_t>(k) + half);
                 ++j)
                sum_power += power[static_cast<std::size_t>(j)];
            expected[k] = level(k, static_cast<double>(sum_power + noise_amplitude * noise_amplitude));
        }
        into.expected_db.push_back(std::move(expected));
    }
    into.ping.beams.push_back(std::move(beam));
    into.level_db.push_back(std::move(levels));
    into.energy.push_back(heard.energy);
}

void Acoustics::quantise(Unquantised &heard, std::uint32_t noise_seed) const {
    for (std::size_t b = 0; b < heard.ping.beams.size(); ++b) {
        auto &beam = heard.ping.beams[b];
        const auto &levels = heard.level_db[b];
        beam.code.resize(levels.size());
        std::transform(levels.begin(), levels.end(), beam.code.begin(), [&](float level) {
            return count_of(static_cast<double>(level), beam.gain_db, scene_.making.db_per_count);
        });
    }
    if (heard.streak) {
        std::mt19937 random(noise_seed ^ 0xA51);
        add_streak(heard.ping, random);
    }
}

} // namespace heron::sim
