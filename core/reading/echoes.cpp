#include "reading/echoes.hpp"

#include "reading/box_energy.hpp"
#include "sonar/decibels.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

namespace heron {
namespace {

cv::Mat matrix_of(const SwathGrid &grid) {
    return cv::Mat(static_cast<int>(grid.lines), static_cast<int>(grid.columns), CV_32F,
                   const_cast<float *>(grid.off.data()));
}

struct Box {
    double along_m, across_m;
};

// Box means in standard deviations of their surroundings.
struct Standing {
    cv::Mat mean, z, sigma;
};

// `sign`: +1 for what is bright, −1 for what is dark. Speckle in decibels falls far lower than it rises, and
// so do its means: deviations to the side asked for alone tell how far chance goes there.
// `energy`: boxes hold the mean of energy, else of decibels. A grain fills a box in part only: its energy
// does not mind, its mean of decibels drowns. For wide and for dark things decibels are the steadier.
// `window`: of the spread, in coarse cells.
Standing standing(const cv::Mat &off, const Swath &s, Box box, float sign, double least_sigma, bool energy,
                  int window = 23) {
    const auto whole = [](double v) { return std::max(1, static_cast<int>(std::lround(v))); };
    const int h = whole(box.along_m / s.spacing_m), w = whole(box.across_m / s.cell_m);
    Standing r;
    if (energy) {
        r.mean = box_energy_db(off, h, w);
    } else {
        cv::blur(off, r.mean, {w, h}, {-1, -1}, cv::BORDER_REPLICATE);
    }
    // The absolute deviation, sampled on a coarse grid, its median over some 8 m × 4 m.
    const int every_line = std::max(1, static_cast<int>(std::lround(0.36 / s.spacing_m))),
              every_column = std::max(1, static_cast<int>(std::lround(0.16 / s.cell_m)));
    cv::Mat coarse((off.rows + every_line - 1) / every_line, (off.cols + every_column - 1) / every_column,
                   CV_8U);
    constexpr float step = 0.06F;
    for (int y = 0; y < coarse.rows; ++y)
        for (int x = 0; x < coarse.cols; ++x)
            coarse.at<std::uint8_t>(y, x) = cv::saturate_cast<std::uint8_t>(
                std::fabs(r.mean.at<float>(y * every_line, x * every_column)) / step);
    cv::Mat smooth, wide, beyond(coarse.size(), CV_32F), counted(coarse.size(), CV_32F);
    cv::medianBlur(coarse, smooth, window);
    smooth.convertTo(wide, CV_32F, static_cast<double>(step) * 1.4826);
    // The mean of the deviations to this side, none of them counting beyond two and a half sigma: for a
    // Gaussian √(2/π) of its sigma, bent a little by that bound.
    constexpr float bound = 2.5F, gaussian = 0.7825F;
    for (int y = 0; y < coarse.rows; ++y)
        for (int x = 0; x < coarse.cols; ++x) {
            const float v = sign * r.mean.at<float>(y * every_line, x * every_column);
            const bool this_side = v > 0;
            beyond.at<float>(y, x) =
                this_side ? std::min(v, bound * std::max(0.25F, wide.at<float>(y, x))) : 0;
            counted.at<float>(y, x) = this_side ? 1 : 0;
        }
    cv::blur(beyond, beyond, {window, window}, {-1, -1}, cv::BORDER_REPLICATE);
    cv::blur(counted, counted, {window, window}, {-1, -1}, cv::BORDER_REPLICATE);
    cv::max(counted, 0.1, counted);
    cv::divide(beyond, counted, wide, 1 / static_cast<double>(gaussian));
    cv::resize(wide, r.sigma, off.size(), 0, 0, cv::INTER_LINEAR);
    cv::max(r.sigma, least_sigma, r.sigma);
    cv::divide(r.mean, r.sigma, r.z);
    return r;
}

cv::Mat rectangle(Box box, const Swath &s) {
    return cv::getStructuringElement(
        cv::MORPH_RECT, {std::max(1, static_cast<int>(std::lround(box.across_m / s.cell_m)) | 1),
                         std::max(1, static_cast<int>(std::lround(box.along_m / s.spacing_m)) | 1)});
}

double ground_step_m(const Swath &s, std::size_t line, double column) {
    const double r = s.slant_m(line, column), a = std::min(s.altitude_m[line], r * 0.995);
    return s.cell_m * r / std::sqrt(r * r - a * a);
}

// Shape of a region from the moments of its cells over ground.
void shape(const Swath &s, const std::vector<cv::Point> &cells, Echo &e) {
    const bool water = e.zone == Zone::water;
    const auto middle = (e.first_line + e.last_line) / 2;
    const double across =
        water ? s.cell_m
              : std::min(ground_step_m(s, middle, static_cast<double>(e.first_column + e.last_column) / 2),
                         6 * s.cell_m);
    double mx = 0, my = 0;
    for (const auto &p : cells) {
        mx += p.x;
        my += p.y;
    }
    const double n = static_cast<double>(cells.size());
    mx /= n;
    my /= n;
    double xx = 0, yy = 0, xy = 0;
    for (const auto &p : cells) {
        const double dx = (p.x - mx) * across, dy = (p.y - my) * s.spacing_m;
        xx += dx * dx;
        yy += dy * dy;
        xy += dx * dy;
    }
    xx = xx / n + across * across / 12;
    yy = yy / n + s.spacing_m * s.spacing_m / 12;
    xy /= n;
    const double half = (xx + yy) / 2, root = std::hypot((xx - yy) / 2, xy);
    const double big = half + root, small = std::max(half - root, 1e-6);
    // Of an even bar the variance is a twelfth of the square of its length.
    e.length_m = std::sqrt(12 * big);
    e.width_m = std::sqrt(12 * small);
    const double angle = 0.5 * std::atan2(2 * xy, yy - xx); // of the longer axis from the track
    e.turned = std::fabs(std::sin(angle));
    e.along_m = static_cast<double>(e.last_line - e.first_line + 1) * s.spacing_m;
    e.across_m = static_cast<double>(e.last_column - e.first_column + 1) * across;
}

void measure_region(const Swath &s, const cv::Mat &off, const Standing &small,
                    const std::vector<Standing> &scales, const std::vector<cv::Point> &cells, double seed,
                    float sign, Echo &e) {
    e.first_line = e.first_column = static_cast<std::size_t>(-1);
    e.last_line = e.last_column = 0;
    double sum = 0, energy = 0, best = -1e9;
    e.z = 0;
    for (const auto &p : cells) {
        e.first_line = std::min(e.first_line, static_cast<std::size_t>(p.y));
        e.last_line = std::max(e.last_line, static_cast<std::size_t>(p.y));
        e.first_column = std::min(e.first_column, static_cast<std::size_t>(p.x));
        e.last_column = std::max(e.last_column, static_cast<std::size_t>(p.x));
        sum += static_cast<double>(sign * off.at<float>(p));
        energy += std::exp(0.23025850929940457 * static_cast<double>(off.at<float>(p)));
        const double m = static_cast<double>(sign * small.mean.at<float>(p));
        if (m > best) {
            best = m;
            e.strongest_line = static_cast<std::size_t>(p.y);
            e.strongest_column = static_cast<std::size_t>(p.x);
        }
        e.z_small = std::max(e.z_small, static_cast<double>(sign * small.z.at<float>(p)));
        for (const auto &scale : scales)
            e.z = std::max(e.z, static_cast<double>(sign * scale.z.at<float>(p)));
    }
    e.cells = cells.size();
    e.peak_db = best;
    e.mean_db = sum / static_cast<double>(cells.size());
    e.grainy_db = decibels_of(std::max(1e-9, energy / static_cast<double>(cells.size()))) -
                  static_cast<double>(sign) * e.mean_db;
    e.sigma_db = static_cast<double>(
        small.sigma.at<float>(static_cast<int>(e.strongest_line), static_cast<int>(e.strongest_column)));
    e.near_edge.assign(e.last_line - e.first_line + 1, 1 << 20);
    e.far_edge.assign(e.last_line - e.first_line + 1, -1);
    for (const auto &p : cells) {
        const auto l = static_cast<std::size_t>(p.y) - e.first_line;
        e.far_edge[l] = std::max(e.far_edge[l], p.x);
        e.near_edge[l] = std::min(e.near_edge[l], p.x);
    }
    // Separate peaks: maxima of the smallest box that pass the seed.
    e.grains = 0;
    const int reach_y = std::max(1, static_cast<int>(std::lround(0.3 / s.spacing_m))),
              reach_x = std::max(2, static_cast<int>(std::lround(0.2 / s.cell_m)));
    for (const auto &p : cells) {
        const float v = sign * small.mean.at<float>(p);
        if (static_cast<double>(sign * small.z.at<float>(p)) < seed)
            continue;
        bool top = true;
        for (int y = std::max(0, p.y - reach_y); top && y <= std::min(off.rows - 1, p.y + reach_y); ++y)
            for (int x = std::max(0, p.x - reach_x); x <= std::min(off.cols - 1, p.x + reach_x); ++x)
                if (sign * small.mean.at<float>(y, x) > v ||
                    (sign * small.mean.at<float>(y, x) == v && (y < p.y || (y == p.y && x < p.x)))) {
                    top = false;
                    break;
                }
        e.grains += top;
    }
    e.grains = std::max(1, e.grains);
    shape(s, cells, e);
}

// Regions of a mask whose parts lie less than `join_m` apart, as lists of cells.
std::vector<std::vector<cv::Point>> regions(const cv::Mat &mask, const Swath &s, double join_m,
                                            double across_m) {
    const auto odd = [](double v) { return std::max(1, 2 * static_cast<int>(v) + 1); };
    cv::Mat joined, labels;
    const cv::Mat element = cv::getStructuringElement(
        cv::MORPH_ELLIPSE, {odd(join_m / 2 / across_m), odd(join_m / 2 / s.spacing_m)});
    cv::dilate(mask, joined, element);
    const int n = cv::connectedComponents(joined, labels, 8, CV_32S);
    std::vector<std::vector<cv::Point>> all(static_cast<std::size_t>(std::max(0, n - 1)));
    for (int y = 0; y < mask.rows; ++y)
        for (int x = 0; x < mask.cols; ++x)
            if (mask.at<std::uint8_t>(y, x) != 0)
                all[static_cast<std::size_t>(labels.at<int>(y, x) - 1)].emplace_back(x, y);
    std::erase_if(all, [](const auto &r) { return r.empty(); });
    return all;
}

// The same of the ground itself: of cells that are not the brightest.
double usual_grain_db(const cv::Mat &off) {
    double sum = 0, energy = 0, n = 0;
    for (int y = 0; y < off.rows; y += 2)
        for (int x = 0; x < off.cols; x += 3)
            if (const float v = off.at<float>(y, x); v < 9 && v != 0) {
                sum += static_cast<double>(v);
                energy += std::exp(0.23025850929940457 * static_cast<double>(v));
                n += 1;
            }
    return n > 0 ? decibels_of(energy / n) - sum / n : 0;
}

// What is broad and faint: weeds, clouds of bait, beds. The background over 6 m × 2 m takes such a thing for
// ground in part; here only the median along the track is off. What is larger than 7 m is ground of another
// kind.
void find_broad(const Swath &s, double seed, std::vector<Echo> &found) {
    const auto &grid = s.ground;
    if (grid.columns < 40)
        return;
    const cv::Mat off = matrix_of(grid);
    cv::Mat whole = off.clone();
    for (int y = 0; y < whole.rows; ++y)
        for (int x = 0; x < whole.cols; ++x)
            whole.at<float>(y, x) += grid.patch_at(static_cast<std::size_t>(y), static_cast<std::size_t>(x));
    // A strong echo is told of already, and is no part of what is faint beside it.
    constexpr double strong = 8;
    for (const auto &o : found) {
        if (o.zone != Zone::ground || o.z < strong)
            continue;
        for (auto l = o.first_line; l <= o.last_line; ++l)
            for (int c = o.near_edge[l - o.first_line]; c <= o.far_edge[l - o.first_line]; ++c)
                whole.at<float>(static_cast<int>(l), c) = 0;
    }
    constexpr int wide_window = 45;
    const auto small = standing(
        off, s, {std::max(2 * s.spacing_m, 0.25), std::max(1.5 * s.pulse_m, 2 * s.cell_m)}, 1, 0.25, true);
    std::vector<Standing> scales{standing(whole, s, {2, 1}, 1, 0.25, false, wide_window),
                                 standing(whole, s, {3.2, 1.6}, 1, 0.25, false, wide_window)};
    const auto inner = standing(whole, s, {0.7, 0.35}, 1, 0.25, false, wide_window);
    cv::Mat highest;
    cv::max(scales[0].z, scales[1].z, highest);
    cv::Mat mask = (inner.z > 1.2F) & (highest > 2.0F);
    for (const auto &cells : regions(mask, s, 0.5, s.cell_m * 1.2)) {
        double best = 0;
        for (const auto &p : cells)
            best = std::max(best, static_cast<double>(highest.at<float>(p)));
        if (best < seed)
            continue;
        Echo e;
        e.zone = Zone::ground;
        measure_region(s, whole, small, scales, cells, seed, 1, e);
        constexpr double largest_m = 7, least_m = 0.8;
        if (e.along_m > largest_m || e.across_m > largest_m || e.along_m < least_m || e.across_m < least_m)
            continue;
        // What is told by its grains already is not told twice.
        const auto alike = [&](const Echo &o) {
            const auto common = [](std::size_t a0, std::size_t a1, std::size_t b0, std::size_t b1) {
                const auto from = std::max(a0, b0), to = std::min(a1, b1);
                return to >= from ? static_cast<double>(to - from + 1) : 0.0;
            };
            const double both = common(e.first_line, e.last_line, o.first_line, o.last_line) *
                                common(e.first_column, e.last_column, o.first_column, o.last_column);
            const auto box = [](const Echo &x) {
                return static_cast<double>((x.last_line - x.first_line + 1) *
                                           (x.last_column - x.first_column + 1));
            };
            return both > 0.5 * std::max(box(e), box(o));
        };
        const auto same = std::find_if(found.begin(), found.end(),
                                       [&](const Echo &o) { return o.zone == Zone::ground && alike(o); });
        if (same == found.end()) {
            found.push_back(std::move(e));
        } else {
            same->z = std::max(same->z, e.z);
            same->mean_db = std::max(same->mean_db, e.mean_db);
        }
    }
}

void find_in(const Swath &s, const SwathGrid &grid, Zone zone, double seed, double grow, double join_m,
             const std::vector<Box> &boxes, const cv::Mat *taken, std::vector<Echo> &found) {
    if (grid.columns < 8)
        return;
    const cv::Mat off = matrix_of(grid);
    const float sign = zone == Zone::dark ? -1.0F : 1.0F;
    std::vector<Standing> scales;
    for (std::size_t i = 0; i < boxes.size(); ++i)
        scales.push_back(standing(off, s, boxes[i], sign, zone == Zone::water ? 0.5 : 0.25,
                                  zone == Zone::ground && i < 2));
    cv::Mat highest = sign * scales[0].z;
    for (std::size_t i = 1; i < scales.size(); ++i)
        cv::max(highest, cv::Mat(sign * scales[i].z), highest);
    // A large box is lifted by what lies at its rim: a cell counts by it only where its own smaller box holds
    // half as much.
    cv::Mat mask = cv::Mat(sign * scales[0].z) > grow;
    for (std::size_t i = 1; i < scales.size(); ++i) {
        const cv::Mat inner = sign * scales[i - 1].mean, outer = sign * scales[i].mean;
        cv::Mat core(inner.size(), CV_32F, cv::Scalar(1e6));
        if (i > 1)
            cv::dilate(cv::Mat(sign * scales[0].mean), core, rectangle(boxes[i], s));
        mask |= (cv::Mat(sign * scales[i].z) > grow) & ((inner > 0.5 * outer) | (core < 2.2 * outer));
    }
    // Nor does what a box smears about a strong echo: a cell holds a third of the strongest within a box of
    // it, in dB.
    const cv::Mat small = sign * scales[0].mean;
    cv::Mat strongest;
    cv::dilate(small, strongest, rectangle({2.5 * boxes[0].along_m, 2.5 * boxes[0].across_m}, s));
    mask &= (small > 0.35 * strongest) | (strongest < 4);
    // Only such cells can begin a region.
    highest.setTo(0, mask == 0);
    if (zone == Zone::water)
        mask &= (scales[0].mean > 4.5F) | (highest > 2 * seed);
    if (taken != nullptr)
        mask.setTo(0, *taken);
    cv::Mat density, passed = highest > 3.2F;
    passed.convertTo(density, CV_32F, 1 / 255.0);
    cv::blur(
        density, density,
        {std::max(1, static_cast<int>(4 / s.cell_m) | 1), std::max(1, static_cast<int>(6 / s.spacing_m) | 1)},
        {-1, -1}, cv::BORDER_REFLECT);
    // Regions hold a seed; those that do not are dropped before they are joined to one that does.
    cv::Mat labels;
    const int n = cv::connectedComponents(mask, labels, 8, CV_32S);
    std::vector<bool> seeded(static_cast<std::size_t>(n), false);
    for (int y = 0; y < mask.rows; ++y)
        for (int x = 0; x < mask.cols; ++x)
            if (labels.at<int>(y, x) > 0 && static_cast<double>(highest.at<float>(y, x)) > seed)
                seeded[static_cast<std::size_t>(labels.at<int>(y, x))] = true;
    for (int y = 0; y < mask.rows; ++y)
        for (int x = 0; x < mask.cols; ++x)
            if (!seeded[static_cast<std::size_t>(labels.at<int>(y, x))])
                mask.at<std::uint8_t>(y, x) = 0;
    for (const auto &cells : regions(mask, s, join_m, s.cell_m * 1.2)) {
        Echo e;
        e.zone = zone;
        measure_region(s, off, scales[0], scales, cells, seed, sign, e);
        e.clutter = static_cast<double>(
            density.at<float>(static_cast<int>(e.strongest_line), static_cast<int>(e.strongest_column)));
        found.push_back(std::move(e));
    }
}

} // namespace

std::vector<Echo> find_echoes(const Swath &s, const DetectionLevels &levels, double join_m) {
    std::vector<Echo> found;
    if (s.lines() == 0)
        return found;
    const double along = std::max({2 * s.spacing_m, 0.25}), thin = std::max(1.5 * s.pulse_m, 2 * s.cell_m);
    find_in(s, s.ground, Zone::ground, levels.seed, levels.grow, join_m,
            {{along, thin}, {std::max(along, 0.55), 0.16}, {0.9, 0.4}, {2, 1}}, nullptr, found);
    find_broad(s, levels.broad_seed, found);
    find_in(s, s.water, Zone::water, levels.water_seed, levels.grow, join_m, {{along, thin}, {0.9, 0.4}},
            nullptr, found);
    const double usual = usual_grain_db(matrix_of(s.ground));
    for (auto &e : found)
        if (e.zone == Zone::ground)
            e.grainy_db -= usual;
    return found;
}

std::vector<Echo> find_darks(const Swath &s, const std::vector<Echo> &echoes,
                             const std::vector<std::size_t> &own_until, const DetectionLevels &levels,
                             double join_m) {
    std::vector<Echo> found;
    if (s.lines() == 0)
        return found;
    cv::Mat taken(static_cast<int>(s.lines()), static_cast<int>(s.ground.columns), CV_8U, cv::Scalar(0));
    for (std::size_t i = 0; i < echoes.size(); ++i) {
        const auto &e = echoes[i];
        if (e.zone != Zone::ground)
            continue;
        // A shadow is a little wider than what was seen of the echo.
        const auto wider = static_cast<std::size_t>(std::lround(0.4 / s.spacing_m)) + 1;
        for (auto l = e.first_line > wider ? e.first_line - wider : 0;
             l <= std::min(e.last_line + wider, s.lines() - 1); ++l) {
            const auto own = std::clamp(l, e.first_line, e.last_line) - e.first_line;
            const int from = e.near_edge[own], to = std::min(static_cast<int>(own_until[i]), taken.cols);
            if (from < to)
                taken.row(static_cast<int>(l)).colRange(from, to).setTo(255);
        }
    }
    // The first half metre behind the first return is uneven by nature.
    taken.colRange(0, std::min(taken.cols, static_cast<int>(0.5 / s.cell_m))).setTo(255);
    find_in(s, s.ground, Zone::dark, levels.dark_seed, levels.grow, join_m,
            {{0.3, 0.3}, {0.7, 0.7}, {1.6, 1}}, &taken, found);
    return found;
}

} // namespace heron
