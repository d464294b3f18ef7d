#include "reading/clusters.hpp"

#include "reading/box_energy.hpp"
#include "sonar/decibels.hpp"
#include "sonar/median.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <iterator>
#include <numbers>
#include <opencv2/imgproc.hpp>

namespace heron {
namespace {

constexpr double least_behind_edge_m = 0.5;

double ground_of(const Swath &s, std::size_t line, std::size_t column) {
    const double r = s.slant_m(line, static_cast<double>(column) + 0.5), a = s.altitude_m[line];
    return std::sqrt(std::max(0.0, r * r - a * a));
}

// Columns of a line that were sounded, from where the first return has passed.
struct Sounded {
    std::size_t first = 0, end = 0;
};
Sounded sounded(const Swath &s, std::size_t line) {
    const auto columns = s.ground.columns;
    const auto first = static_cast<std::size_t>(least_behind_edge_m / s.cell_m) + 1;
    const double last = (s.end_m[line] - 0.1 - s.edge_m[line]) / s.cell_m - 0.5;
    const auto end = std::min(columns, static_cast<std::size_t>(std::max(0.0, last)));
    return {first, std::max(first, end)};
}

} // namespace

std::vector<BrightGrain> bright_grains(const Swath &s) {
    std::vector<BrightGrain> all;
    if (s.lines() == 0 || s.ground.columns < 40)
        return all;
    const cv::Mat off(static_cast<int>(s.lines()), static_cast<int>(s.ground.columns), CV_32F,
                      const_cast<float *>(s.ground.off.data()));
    const auto whole = [](double v) { return std::max(1, static_cast<int>(std::lround(v))); };
    const auto level = box_energy_db(off, whole(std::max(2 * s.spacing_m, 0.25) / s.spacing_m),
                                     whole(std::max(1.5 * s.pulse_m, 2 * s.cell_m) / s.cell_m));
    cv::Mat highest;
    cv::dilate(level, highest,
               cv::getStructuringElement(
                   cv::MORPH_RECT, {2 * whole(0.12 / s.cell_m) + 1, 2 * whole(0.25 / s.spacing_m) + 1}));
    for (std::size_t line = 0; line < s.lines(); ++line) {
        const auto [first, end] = sounded(s, line);
        const auto *own = level.ptr<float>(static_cast<int>(line));
        const auto *most = highest.ptr<float>(static_cast<int>(line));
        for (auto k = first; k < end; ++k)
            if (own[k] >= most[k])
                all.push_back({line, k, s.along_m[line], ground_of(s, line, k), static_cast<double>(own[k])});
    }
    return all;
}

namespace {

struct Extent {
    double first_along_m = 0, last_along_m = 0, near_m = 0, far_m = 0;
    double area_m2() const { return std::max(10.0, (last_along_m - first_along_m) * (far_m - near_m)); }
    // Of a disc, as much as lies within.
    double disc_m2(const BrightGrain &about, double radius) const {
        const auto share = [radius](double at, double from, double to) {
            return std::max(0.15, (std::min(at + radius, to) - std::max(at - radius, from)) / (2 * radius));
        };
        return share(about.along_m, first_along_m, last_along_m) * share(about.ground_m, near_m, far_m) *
               std::numbers::pi * radius * radius;
    }
};

Extent extent_of(const Swath &s) {
    Extent e;
    e.first_along_m = s.along_m.front();
    e.last_along_m = s.along_m.back();
    std::vector<double> near, far;
    for (std::size_t line = 0; line < s.lines(); line += 4) {
        const auto [first, end] = sounded(s, line);
        near.push_back(ground_of(s, line, first));
        far.push_back(ground_of(s, line, end));
    }
    e.near_m = median(near);
    e.far_m = std::max(e.near_m, median(far));
    return e;
}

// Variance over mean of the counts in squares of two metres, the fullest twentieth left out: there what is
// looked for may lie.
double dispersion_of(const std::vector<BrightGrain> &grains, const Extent &e) {
    constexpr double square_m = 2;
    const auto rows = static_cast<std::size_t>((e.last_along_m - e.first_along_m) / square_m),
               columns = static_cast<std::size_t>((e.far_m - e.near_m) / square_m);
    if (rows < 4 || columns < 2)
        return 1;
    std::vector<double> counts(rows * columns, 0);
    for (const auto &g : grains) {
        const double y = (g.along_m - e.first_along_m) / square_m, x = (g.ground_m - e.near_m) / square_m;
        if (y >= 0 && x >= 0 && y < static_cast<double>(rows) && x < static_cast<double>(columns))
            counts[static_cast<std::size_t>(y) * columns + static_cast<std::size_t>(x)] += 1;
    }
    std::sort(counts.begin(), counts.end());
    counts.resize(counts.size() * 19 / 20);
    double mean = 0, squares = 0;
    for (const double c : counts) {
        mean += c / static_cast<double>(counts.size());
        squares += c * c / static_cast<double>(counts.size());
    }
    return std::max(1.0, (squares - mean * mean) / std::max(0.05, mean));
}

constexpr std::array<double, 5> radii_m{0.7, 1, 1.5, 2.2, 3};
constexpr double usual_within_m = 6, least_disc_z = 3.5, rim = 1.6, least_in_disc = 5;

// Those of one level, the strongest first.
std::vector<GrainCluster> clusters_of(const std::vector<BrightGrain> &grains, const Extent &e) {
    struct Disc {
        double z, usual;
        std::size_t about, radius, grains;
    };
    std::vector<Disc> discs;
    const double dispersion = dispersion_of(grains, e),
                 overall = static_cast<double>(grains.size()) / e.area_m2();
    for (std::size_t i = 0; i < grains.size(); ++i) {
        // How many lie within each radius, each rim and all about.
        std::array<std::size_t, radii_m.size()> inside{}, in_rim{};
        std::size_t about = 0;
        for (const auto &g : grains) {
            const double d = std::hypot(g.along_m - grains[i].along_m, g.ground_m - grains[i].ground_m);
            about += d < usual_within_m;
            for (std::size_t r = 0; r < radii_m.size(); ++r) {
                inside[r] += d < radii_m[r];
                in_rim[r] += d < rim * radii_m[r];
            }
        }
        for (std::size_t r = 0; r < radii_m.size(); ++r) {
            const double ring = e.disc_m2(grains[i], usual_within_m) - e.disc_m2(grains[i], rim * radii_m[r]);
            const double beside = static_cast<double>(about - in_rim[r]) / std::max(5.0, ring);
            const double usual = std::max(overall, beside) * e.disc_m2(grains[i], radii_m[r]);
            // The one that the disc is drawn about says nothing.
            const auto n = static_cast<double>(inside[r]) - 1;
            const double z = n < least_in_disc ? 0 : cluster_z(n, usual, dispersion);
            if (z >= least_disc_z)
                discs.push_back({z, usual, i, r, inside[r]});
        }
    }
    std::sort(discs.begin(), discs.end(), [](const Disc &a, const Disc &b) { return a.z > b.z; });
    std::vector<GrainCluster> found;
    std::vector<bool> taken(grains.size(), false);
    constexpr double beside_m = 0.8;
    for (const auto &disc : discs) {
        if (taken[disc.about])
            continue;
        const auto &middle = grains[disc.about];
        GrainCluster c;
        c.radius_m = radii_m[disc.radius];
        c.grains = disc.grains;
        c.usual = disc.usual;
        c.z = disc.z;
        c.first_along_m = c.last_along_m = middle.along_m;
        c.near_m = c.far_m = middle.ground_m;
        for (std::size_t i = 0; i < grains.size(); ++i) {
            const auto &g = grains[i];
            const double d = std::hypot(g.along_m - middle.along_m, g.ground_m - middle.ground_m);
            if (d < c.radius_m + beside_m)
                taken[i] = true;
            if (d >= c.radius_m)
                continue;
            c.along_m += g.along_m / static_cast<double>(disc.grains);
            c.ground_m += g.ground_m / static_cast<double>(disc.grains);
            c.first_along_m = std::min(c.first_along_m, g.along_m);
            c.last_along_m = std::max(c.last_along_m, g.along_m);
            c.near_m = std::min(c.near_m, g.ground_m);
            c.far_m = std::max(c.far_m, g.ground_m);
        }
        found.push_back(c);
    }
    return found;
}

} // namespace

double cluster_z(double grains, double usual, double dispersion) {
    return grains <= usual || usual <= 0
               ? 0
               : std::sqrt(2 * (grains * std::log(grains / usual) - (grains - usual)) / dispersion);
}

namespace {

// Levels over what the maxima about reach: over their median, in distances from it of the one that a sixth of
// them lies below. On coarse ground maxima are high everywhere, and a cloud in a field of silt beside it
// would drown among them. Squares of two metres, each with what lies within seven about it.
std::vector<BrightGrain> over_maxima_about(const std::vector<BrightGrain> &grains, const Extent &e) {
    constexpr double wide_m = 2, least_spread_db = 0.4;
    constexpr std::ptrdiff_t around = 3;
    constexpr std::size_t least_known = 30;
    const auto whole = [](double v) { return static_cast<std::ptrdiff_t>(v) + 1; };
    const auto rows = whole(std::max(0.0, e.last_along_m - e.first_along_m) / wide_m),
               columns = whole(e.far_m / wide_m);
    const auto at = [&](const BrightGrain &g) {
        const auto y = static_cast<std::ptrdiff_t>((g.along_m - e.first_along_m) / wide_m),
                   x = static_cast<std::ptrdiff_t>(g.ground_m / wide_m);
        return std::clamp<std::ptrdiff_t>(y, 0, rows - 1) * columns +
               std::clamp<std::ptrdiff_t>(x, 0, columns - 1);
    };
    std::vector<std::vector<float>> squares(static_cast<std::size_t>(rows * columns));
    for (const auto &g : grains)
        squares[static_cast<std::size_t>(at(g))].push_back(static_cast<float>(g.over_db));
    std::vector<double> middle(squares.size(), 0), spread(squares.size(), 1);
    std::vector<float> about;
    for (std::ptrdiff_t y = 0; y < rows; ++y)
        for (std::ptrdiff_t x = 0; x < columns; ++x) {
            about.clear();
            for (auto v = std::max<std::ptrdiff_t>(0, y - around); v <= std::min(rows - 1, y + around); ++v)
                for (auto u = std::max<std::ptrdiff_t>(0, x - around); u <= std::min(columns - 1, x + around);
                     ++u) {
                    const auto &some = squares[static_cast<std::size_t>(v * columns + u)];
                    about.insert(about.end(), some.begin(), some.end());
                }
            if (about.size() <= least_known)
                continue;
            const auto i = static_cast<std::size_t>(y * columns + x);
            middle[i] = static_cast<double>(median_in_place(about));
            const auto low = about.begin() + std::ssize(about) * 16 / 100;
            std::nth_element(about.begin(), low, about.end());
            spread[i] = std::max(least_spread_db, middle[i] - static_cast<double>(*low));
        }
    auto told = grains;
    for (auto &g : told) {
        const auto i = static_cast<std::size_t>(at(g));
        g.over_db = (g.over_db - middle[i]) / spread[i];
    }
    return told;
}

// Whether the ground that lies beside shows between the grains of a disc: the mean energy within is higher,
// and the medians of both differ less than that and by less than 8 dB. Ground of another kind differs in both
// alike.
bool ground_shows(const Swath &s, const GrainCluster &c) {
    constexpr double of_radius = 0.8, apart_m = 0.7, beside_m = 4, alike_db = 8, higher_db = 2, more_db = 1.5;
    constexpr std::size_t least = 30;
    const auto columns = s.ground.columns;
    std::vector<double> inside, beside;
    double energy_inside = 0, energy_beside = 0;
    for (std::size_t line = 0; line < s.lines(); ++line) {
        const double off = std::fabs(s.along_m[line] - c.along_m);
        const bool in =
            off<of_radius * c.radius_m, by = off> c.radius_m + apart_m && off < c.radius_m + beside_m;
        if (!in && !by)
            continue;
        const auto span = sounded(s, line);
        const auto first = static_cast<double>(span.first), end = static_cast<double>(span.end);
        const double a = s.altitude_m[line], half = of_radius * c.radius_m;
        const auto column_at = [&](double ground) {
            return std::clamp((std::hypot(std::max(0.0, ground), a) - s.edge_m[line]) / s.cell_m, first, end);
        };
        const auto to = static_cast<std::size_t>(column_at(c.ground_m + half));
        for (auto k = static_cast<std::size_t>(column_at(c.ground_m - half)); k < to; ++k) {
            const auto v = static_cast<double>(s.ground_level_db[line * columns + k]);
            if (v != v)
                continue;
            (in ? inside : beside).push_back(v);
            (in ? energy_inside : energy_beside) += power_of(v);
        }
    }
    if (inside.size() < least || beside.size() < least)
        return false;
    const double over = decibels_of(energy_inside / static_cast<double>(inside.size()) /
                                    (energy_beside / static_cast<double>(beside.size()))),
                 between = median_in_place(inside) - median_in_place(beside);
    return std::fabs(between) < alike_db && over > std::max(higher_db, between + more_db);
}

// Of the two levels, for grains in the order of their brightness.
void add_clusters(std::vector<BrightGrain> grains, const Extent &e, std::vector<GrainCluster> &found) {
    std::sort(grains.begin(), grains.end(),
              [](const BrightGrain &a, const BrightGrain &b) { return a.over_db > b.over_db; });
    constexpr std::size_t least_grains = 20, most_grains = 1500;
    for (const double a_grain_m2 : {10.0, 25.0}) {
        const auto n =
            std::min({grains.size(), most_grains, static_cast<std::size_t>(e.area_m2() / a_grain_m2)});
        if (n < least_grains)
            continue;
        const auto some = clusters_of({grains.begin(), grains.begin() + static_cast<std::ptrdiff_t>(n)}, e);
        found.insert(found.end(), some.begin(), some.end());
    }
}

} // namespace

std::vector<GrainCluster> grain_clusters(const Swath &s, const std::vector<BrightGrain> &grains) {
    std::vector<GrainCluster> found;
    if (s.lines() == 0 || grains.empty())
        return found;
    const auto e = extent_of(s);
    add_clusters(grains, e, found);
    // By what the maxima about reach, too; and of all only where the ground shows between the grains: a spot
    // of coarser ground is full of grains as well.
    if (s.ground_level_db.size() == s.lines() * s.ground.columns) {
        add_clusters(over_maxima_about(grains, e), e, found);
        std::erase_if(found, [&](const GrainCluster &c) { return !ground_shows(s, c); });
    }
    std::sort(found.begin(), found.end(), [](const auto &a, const auto &b) { return a.z > b.z; });
    std::vector<GrainCluster> kept;
    for (const auto &c : found)
        if (std::none_of(kept.begin(), kept.end(), [&](const GrainCluster &k) {
                return std::hypot(c.along_m - k.along_m, c.ground_m - k.ground_m) < c.radius_m + k.radius_m;
            }))
            kept.push_back(c);
    return kept;
}

double cluster_evidence(double z) {
    return std::clamp(0.4 * (z - 3), 0.0, 4.0);
}

namespace {

constexpr double bed_square_m = 0.5;

// Squares of half a metre over ground, a row along the track each.
struct Squares {
    int rows = 0, columns = 0;
    double first_along_m = 0;
    int row_of(double along_m) const {
        return std::clamp(static_cast<int>((along_m - first_along_m) / bed_square_m), 0, rows - 1);
    }
    int column_of(double ground_m) const {
        return std::clamp(static_cast<int>(ground_m / bed_square_m), 0, columns - 1);
    }
};

// Levels within a patch against the ground beside it, range by range: medians and mean energies.
struct Against {
    double between_db = 0, over_db = 0;
    bool known = false;
};
Against against_beside(const Swath &s, const Squares &squares, const cv::Mat &labels, int label) {
    const auto columns = s.ground.columns;
    double medians = 0, energies = 0, weight = 0;
    std::vector<double> inside, beside;
    constexpr std::size_t least_inside = 8, least_beside = 20;
    for (std::size_t k = 0; k < columns; k += 3) {
        inside.clear();
        beside.clear();
        for (std::size_t line = 0; line < s.lines(); ++line) {
            const auto [first, end] = sounded(s, line);
            const auto v = static_cast<double>(s.ground_level_db[line * columns + k]);
            if (k < first || k >= end || v != v)
                continue;
            const int at =
                labels.at<int>(squares.row_of(s.along_m[line]), squares.column_of(ground_of(s, line, k)));
            if (at == label)
                inside.push_back(v);
            else if (at == 0)
                beside.push_back(v);
        }
        if (inside.size() < least_inside || beside.size() < least_beside)
            continue;
        const auto energy = [](const std::vector<double> &levels) {
            double sum = 0;
            for (const double v : levels)
                sum += power_of(v);
            return decibels_of(sum / static_cast<double>(levels.size()));
        };
        const auto w = static_cast<double>(inside.size());
        energies += w * (energy(inside) - energy(beside));
        medians += w * (median_in_place(inside) - median_in_place(beside));
        weight += w;
    }
    if (weight == 0)
        return {};
    return {medians / weight, energies / weight, true};
}

} // namespace

std::vector<WeedBed> weed_beds(const Swath &s, const std::vector<BrightGrain> &grains) {
    constexpr std::size_t least_grains = 100, least_in_bed = 80;
    constexpr double least_area_m2 = 20, a_m2 = 0.8, times_usual = 4, least_fill = 0.35, wide_m = 0.8;
    std::vector<WeedBed> found;
    if (s.lines() == 0 || grains.size() < least_grains)
        return found;
    std::vector<double> levels;
    for (const auto &g : grains)
        levels.push_back(g.over_db);
    std::sort(levels.begin(), levels.end());
    const double middle = levels[levels.size() / 2], low = levels[levels.size() * 16 / 100],
                 least_db = std::max(6.0, middle + 4 * (middle - low));
    const auto e = extent_of(s);
    Squares squares;
    squares.first_along_m = e.first_along_m;
    squares.rows = static_cast<int>((e.last_along_m - e.first_along_m) / bed_square_m) + 1;
    squares.columns = static_cast<int>(e.far_m / bed_square_m) + 1;
    cv::Mat counts(squares.rows, squares.columns, CV_32F, cv::Scalar(0)), seen = counts.clone();
    for (const auto &g : grains)
        if (g.over_db > least_db)
            counts.at<float>(squares.row_of(g.along_m), squares.column_of(g.ground_m)) += 1;
    const int near = squares.column_of(e.near_m);
    seen.colRange(near, squares.columns).setTo(1);
    cv::Mat dense, whole;
    cv::GaussianBlur(counts, dense, {0, 0}, wide_m / bed_square_m, wide_m / bed_square_m, cv::BORDER_REFLECT);
    cv::GaussianBlur(seen, whole, {0, 0}, wide_m / bed_square_m, wide_m / bed_square_m, cv::BORDER_REFLECT);
    cv::max(whole, 0.2, whole);
    cv::divide(dense, whole, dense, 1 / (bed_square_m * bed_square_m));
    dense.setTo(0, seen == 0);
    std::vector<double> usual;
    for (int y = 0; y < squares.rows; ++y)
        for (int x = near; x < squares.columns; ++x)
            usual.push_back(static_cast<double>(dense.at<float>(y, x)));
    const cv::Mat mask = dense > std::max(a_m2, times_usual * median_in_place(usual));
    cv::Mat labels, stats, centres;
    const int n = cv::connectedComponentsWithStats(mask, labels, stats, centres, 4, CV_32S);
    for (int label = 1; label < n; ++label) {
        const int cells = stats.at<int>(label, cv::CC_STAT_AREA),
                  box = stats.at<int>(label, cv::CC_STAT_WIDTH) * stats.at<int>(label, cv::CC_STAT_HEIGHT);
        if (cells * bed_square_m * bed_square_m < least_area_m2 || cells < least_fill * box)
            continue;
        const auto against = against_beside(s, squares, labels, label);
        if (!against.known || against.between_db < -3 || against.between_db > 4 || against.over_db < 6 ||
            against.over_db < against.between_db + 1.5)
            continue;
        WeedBed bed;
        bed.area_m2 = cells * bed_square_m * bed_square_m;
        bed.between_db = against.between_db;
        bed.over_db = against.over_db;
        bed.nearest_m = stats.at<int>(label, cv::CC_STAT_LEFT) * bed_square_m;
        double grown = 0;
        std::size_t line = 0;
        for (int y = 0; y < squares.rows; ++y) {
            const double along = e.first_along_m + (y + 0.5) * bed_square_m;
            while (line + 1 < s.lines() && s.along_m[line] < along)
                ++line;
            for (int x = 0; x < squares.columns; ++x) {
                if (labels.at<int>(y, x) != label)
                    continue;
                grown += static_cast<double>(counts.at<float>(y, x));
                const WeedBed::Cell cell{line, (x + 0.5) * bed_square_m};
                bed.all.push_back(cell);
                const auto other = [&](int v, int u) {
                    return v < 0 || u < 0 || v >= squares.rows || u >= squares.columns ||
                           labels.at<int>(v, u) != label;
                };
                if (other(y - 1, x) || other(y + 1, x) || other(y, x - 1) || other(y, x + 1))
                    bed.rim.push_back(cell);
            }
        }
        bed.grains = static_cast<std::size_t>(grown);
        if (bed.grains >= least_in_bed)
            found.push_back(std::move(bed));
    }
    return found;
}

} // namespace heron
