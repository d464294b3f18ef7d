#include "bottom/ground_map.hpp"

#include "bottom/weeds.hpp"
#include "units/units.hpp"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <limits>

namespace heron {
namespace {

constexpr double turning_deg_s = 5;
constexpr float ray_shows = 0.04F; // less than any look of a side

int floor_div(int a, int b) {
    return a >= 0 ? a / b : -((b - 1 - a) / b);
}

std::int16_t hundredths(float db) {
    return static_cast<std::int16_t>(std::lround(std::clamp(100 * db, -32'767.0F, 32'767.0F)));
}

// How deep the bottom lies under the transducer: the farther of what the two sides met in the median of 17
// rows. One row's farther side is too deep by what chance makes of two. Where a sounder that looks down is
// believed in its place, half of either: the one comes from uphill, the other is off by its own.
double sounded_m(const Scan &scan, std::size_t row) {
    constexpr std::size_t each_way = 8;
    const auto &bottom = scan.bottom(row);
    if (bottom.source == BottomSource::hand)
        return bottom.altitude_m;
    std::vector<double> port, starboard;
    const auto from = std::max(scan.first(), row - std::min(row, each_way)),
               to = std::min(scan.end(), row + each_way + 1);
    for (auto r = from; r < to; ++r) {
        const auto &b = scan.bottom(r);
        if (b.found && b.port_m > 0)
            port.push_back(b.port_m);
        if (b.found && b.starboard_m > 0)
            starboard.push_back(b.starboard_m);
    }
    const auto median = [](std::vector<double> &v) {
        if (v.empty())
            return 0.0;
        const auto middle = v.begin() + std::ssize(v) / 2;
        std::nth_element(v.begin(), middle, v.end());
        return *middle;
    };
    const double sides = std::max(median(port), median(starboard));
    if (sides <= 0)
        return bottom.altitude_m;
    return bottom.source == BottomSource::sounder ? (sides + bottom.altitude_m) / 2 : sides;
}

} // namespace

void GroundMap::Cell::hear(float db, float weight) {
    const float before = this->weight(), now = before + weight;
    if (!(now > 0))
        return;
    mean_ = hundredths(mean_db() + (db - mean_db()) * weight / now);
    weight_ = static_cast<std::uint16_t>(std::max(1L, std::lround(std::min(a_weight * now, 65'535.0F))));
}

void GroundMap::Cell::show(float db, float shows) {
    const auto s = static_cast<std::uint8_t>(std::lround(std::clamp(a_best * shows, 0.0F, 255.0F)));
    if (s < best_)
        return;
    best_ = s;
    best_db_ = hundredths(db);
}

void GroundMap::Cell::pass(std::uint8_t number) {
    if (looks_ > 0 && last_pass_ == number)
        return;
    looks_ = static_cast<std::uint8_t>(std::min(255, looks_ + 1));
    last_pass_ = number;
}

void GroundMap::Cell::take(const Cell &other, float shift_db) {
    hear(other.mean_db() - shift_db, other.weight());
    show(other.best_db() - shift_db, other.best());
    looks_ = static_cast<std::uint8_t>(std::min(255, looks_ + other.looks_));
}

void GroundMap::Cell::take_beside(const Cell &other) {
    hear(other.mean_db(), other.weight());
    show(other.best_db(), other.best());
    looks_ = std::max(looks_, other.looks_);
}

std::span<GroundMap::Cell, GroundMap::Tile::size> GroundMap::Tile::own() {
    static_assert(sizeof(Cell) * size == SpilledBlock::bytes && std::is_trivially_copyable_v<Cell>);
    if (cells_.use_count() > 1) {
        auto copy = std::make_shared<SpilledBlock>();
        std::memcpy(copy->data(), cells_->data(), SpilledBlock::bytes);
        cells_ = std::move(copy);
    }
    return std::span<Cell, size>(reinterpret_cast<Cell *>(cells_->data()), size);
}

void GroundMap::let_go() const {
    constexpr std::size_t large = 400; // 66 MB
    if (tiles_.size() >= large)
        for (const auto &[key, t] : tiles_)
            t.let_go();
}

const GroundMap::Cell *GroundMap::cell(int column, int row) const {
    const Key key{floor_div(column, tile), floor_div(row, tile)};
    const auto at = tiles_.find(key);
    if (at == tiles_.end())
        return nullptr;
    return &at->second.cells()[static_cast<std::size_t>(row - key.second * tile) * tile +
                               static_cast<std::size_t>(column - key.first * tile)];
}

// Another pass begins after a gap of half a minute and where the boat has come about.
void GroundMap::count_pass(const Scan &scan, std::size_t row, double heading_deg) {
    constexpr double gap_s = 30, about_deg = 60;
    const auto time = scan.facts(row).time;
    if (!pass_heading_deg_ || std::fabs(wrap_180(heading_deg - *pass_heading_deg_)) > about_deg ||
        std::fabs(seconds_between(last_, time)) > gap_s) {
        ++pass_;
        pass_heading_deg_ = heading_deg;
    }
    last_ = time;
}

// One sounding a metre run. Its doubt is the pick's, and that of the speed of sound: the water between is a
// few degrees warmer or colder than what was told (3 °C at 1 sigma: 12 m/s of 1,460).
void GroundMap::sound(const Scan &scan, std::size_t row, const OnUtm &at) {
    constexpr double of_the_way = 0.008;
    const auto &bottom = scan.bottom(row);
    if (!soundings_.empty() &&
        std::hypot(soundings_.back().east_m - at.east_m, soundings_.back().north_m - at.north_m) < 0.5)
        return;
    std::optional<double> grown_m;
    if (const auto under = under_the_boat(scan, row))
        grown_m = under->grows ? under->stands_m : 0;
    soundings_.push_back({at.east_m, at.north_m, sounded_m(scan, row) + scan.installation.draught_m(),
                          std::hypot(std::max(0.05, bottom.altitude_sd_m), of_the_way * bottom.altitude_m),
                          grown_m});
}

void GroundMap::add_soundings(const NavTrack &nav, const Installation &installation) {
    for (const auto &depth : nav.depths()) {
        const auto steady = nav.steady_depth_at(depth.time);
        const auto at = nav.position_at(depth.time);
        if (!steady || steady->time != depth.time || !at)
            continue;
        const auto on = to_utm(zone_, at->place);
        const double d = depth.below_transducer_m + depth.to_waterline_m.value_or(installation.draught_m());
        if (!(d > 0) || !(d < most_slant_m) ||
            (!soundings_.empty() &&
             std::hypot(soundings_.back().east_m - on.east_m, soundings_.back().north_m - on.north_m) < 0.5))
            continue;
        soundings_.push_back({on.east_m, on.north_m, d, std::hypot(0.1, 0.02 * d), {}});
    }
}

void GroundMap::lower_soundings(double level_m) {
    for (auto &s : soundings_)
        s.depth_m -= level_m;
}

std::optional<double> GroundMap::difference_to(const GroundMap &other) const {
    constexpr std::size_t least_cells = 200;
    std::vector<float> differences;
    for (const auto &[key, t] : other.tiles_) {
        const auto own = tiles_.find(key);
        if (own == tiles_.end())
            continue;
        for (std::size_t i = 0; i < t.cells().size(); ++i) {
            const auto &a = own->second.cells()[i], &b = t.cells()[i];
            if (a.weight() > 0 && b.weight() > 0)
                differences.push_back(b.mean_db() - a.mean_db());
        }
    }
    if (differences.size() < least_cells)
        return std::nullopt;
    std::nth_element(differences.begin(), differences.begin() + std::ssize(differences) / 2,
                     differences.end());
    return static_cast<double>(differences[differences.size() / 2]);
}

GroundMap GroundMap::coarser(int times) const {
    if (times == 1)
        return *this;
    GroundMap wide(zone_, cell_m_ * times);
    wide.soundings_ = soundings_;
    wide.spots_ = dark_spots();
    wide.pass_ = pass_;
    wide.bands_khz_ = bands_khz_;
    wide.days_ = days_;
    for (const auto &[key, t] : tiles_)
        for (int y = 0; y < tile; ++y)
            for (int x = 0; x < tile; ++x) {
                const auto &b = t.cells()[static_cast<std::size_t>(y * tile + x)];
                if (b.weight() <= 0)
                    continue;
                const int column = floor_div(key.first * tile + x, times),
                          line = floor_div(key.second * tile + y, times);
                const Key where{floor_div(column, tile), floor_div(line, tile)};
                wide.tiles_[where]
                    .own()[static_cast<std::size_t>(line - where.second * tile) * tile +
                           static_cast<std::size_t>(column - where.first * tile)]
                    .take_beside(b);
            }
    return wide;
}

int GroundMap::times_within(double most_cells, int least) const {
    constexpr int most = 32;
    int times = least, south = std::numeric_limits<int>::max(), north = std::numeric_limits<int>::min();
    for (const auto &[key, t] : tiles_) {
        south = std::min(south, key.second);
        north = std::max(north, key.second);
    }
    const double across =
                     tiles_.empty() ? 0.0 : tiles_.rbegin()->first.first - tiles_.begin()->first.first + 1.0,
                 cells = across * (static_cast<double>(north) - south + 1) * tile * tile;
    while (times < most && cells / (static_cast<double>(times) * times) > most_cells)
        times *= 2;
    return times;
}

void GroundMap::merge(const GroundMap &other) {
    const auto shift = static_cast<float>(difference_to(other).value_or(0));
    for (const auto &[key, t] : other.tiles_) {
        auto &own = tiles_[key];
        ++own.version;
        const auto cells = own.own();
        for (std::size_t i = 0; i < cells.size(); ++i)
            if (t.cells()[i].weight() > 0)
                cells[i].take(t.cells()[i], shift);
    }
    soundings_.insert(soundings_.end(), other.soundings_.begin(), other.soundings_.end());
    for (auto spot : other.dark_spots()) {
        spot.pass = static_cast<std::uint16_t>(spot.pass + pass_);
        spots_.push_back(spot);
    }
    bands_khz_.insert(other.bands_khz_.begin(), other.bands_khz_.end());
    days_.insert(other.days_.begin(), other.days_.end());
    pass_ = static_cast<std::uint16_t>(pass_ + other.pass_);
    pass_heading_deg_.reset();
}

std::vector<DarkSpot> GroundMap::dark_spots() const {
    auto all = spots_;
    for (const auto &finder : finders_)
        finder.look(all);
    return all;
}

// The levels in even steps abeam: the mean of the samples in each, the nearest where none lies in it.
void GroundMap::look_for_spots(const Scan &scan, std::size_t row, const Beam &beam,
                               const DarkSpotFinder::Row &from) {
    constexpr std::size_t most_spots = 1'000'000;
    const auto &ping = scan.ping(row);
    constexpr double step = DarkSpotFinder::step_m, coarsest_m = 0.15, farthest_m = 60;
    if (spots_.size() > most_spots || ping.slant_m(1) - ping.slant_m(0) > coarsest_m)
        return;
    abeam_.clear();
    const auto sample_at = [&](double abeam) {
        return std::max(0.0, ping.sample_at(std::hypot(abeam, from.altitude_m)));
    };
    for (double to = step, first = sample_at(0); to <= farthest_m; to += step) {
        const double last = sample_at(to);
        auto k = static_cast<std::size_t>(std::ceil(first));
        const auto end = std::max(k + 1, static_cast<std::size_t>(std::ceil(last)));
        if (end > scratch_.size())
            break;
        float sum = 0, n = 0;
        for (; k < end; ++k)
            if (scratch_[k] == scratch_[k]) {
                sum += scratch_[k];
                n += 1;
            }
        abeam_.push_back(n > 0 ? sum / n : std::numeric_limits<float>::quiet_NaN());
        first = last;
    }
    finders_[beam.side == Side::port ? 0 : 1].add(from, abeam_, spots_);
}

void GroundMap::note(const Scan &scan, std::size_t row) {
    constexpr std::size_t most = 500;
    if (bands_khz_.size() < most)
        bands_khz_.insert(RowChoice::khz_of(scan, row));
    if (days_.size() < most)
        days_.insert(RowChoice::day_of(scan.facts(row).time));
}

void GroundMap::add(const Scan &scan, std::size_t row, const GroundCurve &curve) {
    const auto &f = scan.facts(row);
    const auto &bottom = f.bottom;
    if (f.place_unknown || !bottom.found)
        return;
    const auto fix = scan.nav.fix_at(f.time);
    if (!fix)
        return;
    const auto at = to_utm(zone_, transducer_place(fix->pose, scan.installation));
    sound(scan, row, at);
    const auto &ping = scan.ping(row);
    const bool turns = std::fabs(f.turn_deg_s) > turning_deg_s;
    for (const auto &b : ping.beams) {
        if (b.side == Side::down || (turns && b.side != Side::around))
            continue;
        count_pass(scan, row, fix->pose.heading_deg);
        curve.ground_of(scan, row, b, scratch_);
        // Flat bottom: samples lie at √(r² − A²) abeam, or along the ray.
        const double bearing = (fix->pose.heading_deg +
                                (b.side == Side::around ? b.azimuth_deg : nominal_azimuth_deg(b.side)) -
                                at.convergence_deg) /
                               degrees_per_radian,
                     east = std::sin(bearing) * at.scale, north = std::cos(bearing) * at.scale;
        if (b.side != Side::around)
            look_for_spots(scan, row, b,
                           {at.east_m, at.north_m, east, north, f.along_m, bottom.altitude_m, pass_});
        // A wide ray lies over several cells; the sides' fans over one or two.
        std::span<Cell> into;
        Key key{};
        const double altitude = bottom.altitude_m;
        for (std::size_t k = 0; k < scratch_.size(); ++k) {
            if (!(scratch_[k] == scratch_[k]))
                continue;
            const double r = ping.slant_m(static_cast<double>(k)), sine = altitude / r,
                         g = std::sqrt(std::max(0.0, r * r - altitude * altitude));
            const int column = static_cast<int>(std::floor((at.east_m + g * east) / cell_m_)),
                      line = static_cast<int>(std::floor((at.north_m + g * north) / cell_m_));
            const Key here{floor_div(column, tile), floor_div(line, tile)};
            if (into.empty() || here != key) {
                key = here;
                auto &tile_here = tiles_[key];
                ++tile_here.version;
                into = tile_here.own();
            }
            auto &cell = into[static_cast<std::size_t>(line - key.second * tile) * tile +
                              static_cast<std::size_t>(column - key.first * tile)];
            // Between some ten and forty-five degrees of grazing the ground tells most.
            const double good = sine > 0.7 ? (0.96 - sine) / 0.26 : sine < 0.17 ? sine / 0.17 : 1;
            const auto weight = static_cast<float>(std::max(0.05, good));
            const float db = scratch_[k];
            cell.hear(db, weight);
            // A side's look is always the better one: a ray is a degree wide, and grainy under the boat.
            cell.show(db, b.side == Side::around ? ray_shows : weight);
            if (good > 0.5)
                cell.pass(static_cast<std::uint8_t>(1 + pass_ % 255));
        }
    }
}

} // namespace heron
