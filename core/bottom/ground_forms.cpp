#include "bottom/ground_forms.hpp"

#include "bottom/chart_lines.hpp"
#include "sonar/median.hpp"
#include "units/units.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <opencv2/imgproc.hpp>

namespace heron {
namespace {

GroundRaster finer(const GroundRaster &wide, double cell_m) {
    auto r = wide;
    r.cell_m = cell_m;
    const double times = wide.cell_m / cell_m;
    r.columns = static_cast<std::size_t>(std::lround(static_cast<double>(wide.columns) * times));
    r.rows = static_cast<std::size_t>(std::lround(static_cast<double>(wide.rows) * times));
    return r;
}

// What a cell's best look shows over the mean about it, held to twelve decibels; 0 and not `known` where
// nothing was seen.
struct Detail {
    cv::Mat over, known; ///< CV_32F
};

Detail detail_of(const GroundMap &map, const GroundRaster &r) {
    constexpr double about_m = 1.25;
    constexpr float most_db = 12;
    const auto rows = static_cast<int>(r.rows), columns = static_cast<int>(r.columns);
    auto level = best_levels(map, r);
    cv::Mat filled(rows, columns, CV_32F), known(rows, columns, CV_32F);
    for (int y = 0; y < rows; ++y)
        for (int x = 0; x < columns; ++x) {
            const float v = level[static_cast<std::size_t>(y) * r.columns + static_cast<std::size_t>(x)];
            known.at<float>(y, x) = v == v ? 1 : 0;
            filled.at<float>(y, x) = v == v ? v : 0;
        }
    const int side = 2 * std::max(1, static_cast<int>(std::lround(about_m / r.cell_m))) + 1;
    cv::Mat sum, n;
    cv::boxFilter(filled, sum, CV_32F, {side, side}, {-1, -1}, true, cv::BORDER_CONSTANT);
    cv::boxFilter(known, n, CV_32F, {side, side}, {-1, -1}, true, cv::BORDER_CONSTANT);
    Detail d{cv::Mat(rows, columns, CV_32F, cv::Scalar(0)), known};
    for (int y = 0; y < rows; ++y)
        for (int x = 0; x < columns; ++x)
            if (known.at<float>(y, x) > 0)
                d.over.at<float>(y, x) = std::clamp(
                    filled.at<float>(y, x) - sum.at<float>(y, x) / n.at<float>(y, x), -most_db, most_db);
    return d;
}

// A part of a raster, in its cells.
GroundRaster part_of(const GroundRaster &r, const cv::Rect &box) {
    auto part = r;
    part.west_m += box.x * r.cell_m;
    part.north_m -= box.y * r.cell_m;
    part.columns = static_cast<std::size_t>(box.width);
    part.rows = static_cast<std::size_t>(box.height);
    return part;
}

bool holds_any_of(const GroundRaster &r, const GroundMap &map) {
    const double tile_m = GroundMap::tile * map.cell_m();
    const auto tile_at = [&](double m) { return static_cast<int>(std::floor(m / tile_m)); };
    const double east_m = r.west_m + static_cast<double>(r.columns) * r.cell_m,
                 south_m = r.north_m - static_cast<double>(r.rows) * r.cell_m;
    for (int column = tile_at(r.west_m); column <= tile_at(east_m); ++column) {
        const auto from = map.tiles().lower_bound({column, tile_at(south_m)});
        if (from != map.tiles().end() && from->first.first == column &&
            from->first.second <= tile_at(r.north_m))
            return true;
    }
    return false;
}

// The outline of a patch of a mask, its rectangle and middle.
void outline_patch(const cv::Mat &mask, const GroundRaster &r, double cell_m, GroundForm &form) {
    std::vector<std::vector<cv::Point>> lines;
    cv::findContours(mask.clone(), lines, cv::RETR_EXTERNAL, cv::CHAIN_APPROX_SIMPLE);
    if (lines.empty())
        return;
    const auto &line = *std::max_element(lines.begin(), lines.end(),
                                         [](const auto &a, const auto &b) { return a.size() < b.size(); });
    const auto on_plane = [&](double x, double y) {
        return EastNorth{r.west_m + (x + 0.5) * cell_m, r.north_m - (y + 0.5) * cell_m};
    };
    for (const auto &p : line)
        form.outline.push_back(on_plane(p.x, p.y));
    const auto box = cv::minAreaRect(line);
    form.middle = on_plane(static_cast<double>(box.center.x), static_cast<double>(box.center.y));
    const double a = (static_cast<double>(box.size.width) + 1) * cell_m,
                 b = (static_cast<double>(box.size.height) + 1) * cell_m;
    form.length_m = std::max(a, b);
    form.width_m = std::min(a, b);
    // The picture's angle runs clockwise from east, as y points down.
    const double east_down_deg = static_cast<double>(box.angle) + (a >= b ? 0 : 90);
    form.bearing_deg = std::fmod(90 + east_down_deg + 360, 180);
}

// One wave in a window, as far as there is one.
struct Wave {
    float share = 0, length_m = 0, across_deg = 0; ///< across: 0 to 180 from grid north
};

class WaveFinder {
  public:
    explicit WaveFinder(double cell_m)
        : cell_m_(cell_m), n_(2 * static_cast<int>(std::lround(window_m / cell_m / 2))) {
        cv::createHanningWindow(hann_, {n_, n_}, CV_32F);
    }
    static constexpr double window_m = 8, shortest_m = 0.6, longest_m = 2.3;
    int cells() const { return n_; }

    Wave in(const Detail &d, int x, int y) const {
        constexpr double least_known = 0.7, less_of_longer = 0.5;
        const cv::Rect box(x, y, n_, n_);
        if (cv::mean(d.known(box))[0] < least_known)
            return {};
        cv::Mat part, spectrum;
        cv::multiply(d.over(box), hann_, part);
        cv::dft(part, spectrum, cv::DFT_COMPLEX_OUTPUT);
        const double across = n_ * cell_m_;
        // Half of the plane: the other half mirrors it.
        const int most = std::min(n_ / 2 - 1, static_cast<int>(across / shortest_m));
        const double least = across / longest_m;
        const auto power = [&](int fx, int fy) {
            const auto v = spectrum.at<cv::Vec2f>((fy + n_) % n_, (fx + n_) % n_);
            return static_cast<double>(v[0] * v[0] + v[1] * v[1]);
        };
        double all = 0, peak = 0;
        int px = 0, py = 0;
        for (int fy = 0; fy <= most; ++fy)
            for (int fx = fy == 0 ? 0 : -most; fx <= most; ++fx) {
                const double f = std::hypot(fx, fy);
                if (f < least || f > most)
                    continue;
                const double p = power(fx, fy);
                all += p;
                if (p > peak) {
                    peak = p;
                    px = fx;
                    py = fy;
                }
            }
        // An edge of ground has the more power the longer the wave; crests in rows have not.
        double longer = 0;
        for (int dy = -1; dy <= 1; ++dy)
            for (int dx = -1; dx <= 1; ++dx)
                longer = std::max(longer, power(px / 2 + dx, py / 2 + dy));
        if (!(all > 0) || longer > less_of_longer * peak)
            return {};
        double about = 0, sx = 0, sy = 0;
        for (int dy = -1; dy <= 1; ++dy)
            for (int dx = -1; dx <= 1; ++dx) {
                const double p = power(px + dx, py + dy);
                about += p;
                sx += p * (px + dx);
                sy += p * (py + dy);
            }
        sx /= about;
        sy /= about;
        const double bearing = std::atan2(sx, -sy) * degrees_per_radian; // rows run south
        return {static_cast<float>(about / all), static_cast<float>(across / std::hypot(sx, sy)),
                static_cast<float>(std::fmod(bearing + 360, 180))};
    }

  private:
    double cell_m_;
    int n_;
    cv::Mat hann_;
};

double turn_between(double a, double b) {
    const double d = std::fmod(a - b + 540, 180);
    return std::min(d, 180 - d);
}

// The waves of all windows, a step apart. A lake is wide and a boat's track narrow: block by block, so that
// only what was seen is ever held.
std::vector<Wave> waves_of(const GroundMap &map, const GroundRaster &r, const WaveFinder &finder, int step,
                           int columns, int rows) {
    constexpr int block = 48; // windows
    const int margin = static_cast<int>(std::ceil(2 / r.cell_m));
    std::vector<Wave> waves(static_cast<std::size_t>(columns) * static_cast<std::size_t>(rows));
    const cv::Rect whole(0, 0, static_cast<int>(r.columns), static_cast<int>(r.rows));
    for (int y0 = 0; y0 < rows; y0 += block)
        for (int x0 = 0; x0 < columns; x0 += block) {
            const int x1 = std::min(columns, x0 + block), y1 = std::min(rows, y0 + block);
            const auto box = cv::Rect(cv::Point(x0 * step - margin, y0 * step - margin),
                                      cv::Point((x1 - 1) * step + finder.cells() + margin,
                                                (y1 - 1) * step + finder.cells() + margin)) &
                             whole;
            const auto part = part_of(r, box);
            if (!holds_any_of(part, map))
                continue;
            const auto detail = detail_of(map, part);
            for (int y = y0; y < y1; ++y)
                for (int x = x0; x < x1; ++x)
                    waves[static_cast<std::size_t>(y) * static_cast<std::size_t>(columns) +
                          static_cast<std::size_t>(x)] =
                        finder.in(detail, x * step - box.x, y * step - box.y);
        }
    return waves;
}

void find_ripples(const GroundMap &map, const GroundRaster &r, std::vector<GroundForm> &forms) {
    constexpr double step_m = 2, least_share = 0.3, like_m = 0.25, like_deg = 20;
    constexpr int least_windows = 8;
    const WaveFinder finder(r.cell_m);
    const int step = std::max(1, static_cast<int>(std::lround(step_m / r.cell_m)));
    const int columns = (static_cast<int>(r.columns) - finder.cells()) / step + 1,
              rows = (static_cast<int>(r.rows) - finder.cells()) / step + 1;
    if (static_cast<int>(r.columns) < finder.cells() || static_cast<int>(r.rows) < finder.cells())
        return;
    auto waves = waves_of(map, r, finder, step, columns, rows);
    const auto at = [&](int x, int y) -> Wave & {
        return waves[static_cast<std::size_t>(y) * static_cast<std::size_t>(columns) +
                     static_cast<std::size_t>(x)];
    };
    // Grown over windows that agree with their neighbour.
    std::vector<std::uint8_t> taken(waves.size(), 0);
    for (int y0 = 0; y0 < rows; ++y0)
        for (int x0 = 0; x0 < columns; ++x0) {
            std::vector<cv::Point> field{{x0, y0}};
            const auto index = [&](cv::Point p) {
                return static_cast<std::size_t>(p.y) * static_cast<std::size_t>(columns) +
                       static_cast<std::size_t>(p.x);
            };
            if (taken[index(field[0])] != 0 || static_cast<double>(at(x0, y0).share) < least_share)
                continue;
            taken[index(field[0])] = 1;
            for (std::size_t i = 0; i < field.size(); ++i) {
                const auto &own = at(field[i].x, field[i].y);
                for (int dy = -1; dy <= 1; ++dy)
                    for (int dx = -1; dx <= 1; ++dx) {
                        const cv::Point p(field[i].x + dx, field[i].y + dy);
                        if (p.x < 0 || p.y < 0 || p.x >= columns || p.y >= rows || taken[index(p)] != 0)
                            continue;
                        const auto &w = at(p.x, p.y);
                        if (static_cast<double>(w.share) < least_share ||
                            std::fabs(std::log(w.length_m / own.length_m)) > static_cast<float>(like_m) ||
                            turn_between(static_cast<double>(w.across_deg),
                                         static_cast<double>(own.across_deg)) > like_deg)
                            continue;
                        taken[index(p)] = 1;
                        field.push_back(p);
                    }
            }
            if (field.size() < least_windows)
                continue;
            // A window tells of its middle half.
            const auto around = cv::boundingRect(field);
            const cv::Rect box(around.x * step, around.y * step, (around.width - 1) * step + finder.cells(),
                               (around.height - 1) * step + finder.cells());
            cv::Mat mask(box.height, box.width, CV_8U, cv::Scalar(0));
            GroundForm form;
            std::vector<double> lengths;
            double c = 0, s = 0;
            for (const auto &p : field) {
                const int quarter = finder.cells() / 4;
                mask(cv::Rect(p.x * step + quarter - box.x, p.y * step + quarter - box.y, 2 * quarter,
                              2 * quarter)) = 255;
                const auto &w = at(p.x, p.y);
                lengths.push_back(static_cast<double>(w.length_m));
                const double twice = 2 * static_cast<double>(w.across_deg) / degrees_per_radian;
                c += std::cos(twice);
                s += std::sin(twice);
                form.strength += static_cast<double>(w.share) / static_cast<double>(field.size());
            }
            outline_patch(mask, part_of(r, box), r.cell_m, form);
            form.wave_m = median(std::move(lengths));
            form.bearing_deg = std::fmod(std::atan2(s, c) / 2 * degrees_per_radian + 90 + 360, 180);
            forms.push_back(std::move(form));
        }
}

// A strip cut across its longer side, metre by metre.
struct Strip {
    double length_m = 0, width_m = 0;
    double uneven = 0; ///< the middle half of its widths, over twice their median
    double bent_m = 0; ///< how far its middle line lies from a parabola, root of the mean square
};

Strip widths_along(const cv::Mat &mask, double cell_m, const GroundForm &form) {
    const double turn = form.bearing_deg / degrees_per_radian, along_x = std::sin(turn),
                 along_y = -std::cos(turn);
    std::map<int, std::pair<double, double>> slices; // cells, sum of the way across
    for (int y = 0; y < mask.rows; ++y)
        for (int x = 0; x < mask.cols; ++x)
            if (mask.at<std::uint8_t>(y, x) != 0) {
                auto &s = slices[static_cast<int>(std::floor((x * along_x + y * along_y) * cell_m))];
                s.first += 1;
                s.second += (x * along_y - y * along_x) * cell_m;
            }
    Strip strip;
    std::vector<double> widths, at, across;
    for (const auto &[metre, s] : slices) {
        widths.push_back(s.first * cell_m * cell_m);
        at.push_back(metre);
        across.push_back(s.second / s.first);
    }
    strip.length_m = static_cast<double>(slices.size());
    if (slices.size() < 4)
        return strip;
    auto sorted = widths;
    std::sort(sorted.begin(), sorted.end());
    strip.width_m = sorted[sorted.size() / 2];
    strip.uneven = (sorted[sorted.size() * 3 / 4] - sorted[sorted.size() / 4]) / 2 / strip.width_m;
    // Least squares by OpenCV.
    const auto n = static_cast<int>(at.size());
    cv::Mat a(n, 3, CV_64F), b(n, 1, CV_64F), x;
    const double middle = at[at.size() / 2];
    for (int i = 0; i < n; ++i) {
        const double t = at[static_cast<std::size_t>(i)] - middle;
        a.at<double>(i, 0) = 1;
        a.at<double>(i, 1) = t;
        a.at<double>(i, 2) = t * t;
        b.at<double>(i) = across[static_cast<std::size_t>(i)];
    }
    cv::solve(a, b, x, cv::DECOMP_SVD);
    const cv::Mat left = a * x - b;
    strip.bent_m = std::sqrt(left.dot(left) / n);
    return strip;
}

// How much lower the bottom lies on one side of a strip than on the other: the median over windows along it,
// and beyond its ends where a track may cross its line, in which both sides were sounded. Nothing where there
// is no such window.
std::optional<double> drop_across(const GroundMap &map, const GroundForm &form, double width_m) {
    constexpr double clear_m = 1.5, far_m = 7, beyond_ends_m = 25, window_m = 25, step_m = 10;
    constexpr std::size_t least = 5;
    struct Beside {
        double along_m, depth_m;
    };
    const double turn = form.bearing_deg / degrees_per_radian, e = std::sin(turn), n = std::cos(turn);
    const double reach = form.length_m / 2 + beyond_ends_m;
    std::array<std::vector<Beside>, 2> sides;
    for (const auto &s : map.soundings()) {
        const double x = s.east_m - form.middle.east_m, y = s.north_m - form.middle.north_m;
        const double along = x * e + y * n, off = x * n - y * e, beyond = std::fabs(off) - width_m / 2;
        if (std::fabs(along) < reach && beyond > clear_m && beyond < far_m)
            sides[off > 0 ? 1 : 0].push_back({along, s.depth_m});
    }
    std::vector<double> drops;
    for (double at = -reach; at <= reach; at += step_m) {
        std::array<std::vector<double>, 2> depths;
        for (std::size_t i = 0; i < 2; ++i)
            for (const auto &s : sides[i])
                if (std::fabs(s.along_m - at) < window_m)
                    depths[i].push_back(s.depth_m);
        if (depths[0].size() >= least && depths[1].size() >= least)
            drops.push_back(std::fabs(median(std::move(depths[0])) - median(std::move(depths[1]))));
    }
    return drops.empty() ? std::nullopt : std::optional(median(std::move(drops)));
}

// What share of a strip stands in weeds or at their edge.
double share_in_weeds(const cv::Mat &mask, const cv::Mat &weeds) {
    const int cells = cv::countNonZero(mask);
    cv::Mat both;
    cv::bitwise_and(mask, weeds, both);
    return cells > 0 ? static_cast<double>(cv::countNonZero(both)) / cells : 0;
}

// What is hard, narrow and long, no face of a ledge and no rim of a bed of weeds.
void find_lanes(const GroundMap &map, const Hardness &h, std::vector<GroundForm> &forms) {
    constexpr double most_drop_m = 1, most_weeds = 0.3, weeds_reach_m = 2;
    constexpr double widest_m = 7, narrowest_m = 2.2, shortest_m = 18, least_elongation = 4,
                     most_uneven = 0.35, most_bent_m = 1;
    const auto &r = h.raster;
    const auto rows = static_cast<int>(r.rows), columns = static_cast<int>(r.columns);
    cv::Mat hard(rows, columns, CV_8U, cv::Scalar(0)), known(rows, columns, CV_8U, cv::Scalar(0)),
        weeds(rows, columns, CV_8U, cv::Scalar(0));
    for (int y = 0; y < rows; ++y)
        for (int x = 0; x < columns; ++x) {
            const auto i = static_cast<std::size_t>(y) * r.columns + static_cast<std::size_t>(x);
            known.at<std::uint8_t>(y, x) = h.hardness[i] == h.hardness[i] ? 255 : 0;
            hard.at<std::uint8_t>(y, x) = h.hardness[i] > 0.5F ? 255 : 0;
            weeds.at<std::uint8_t>(y, x) = h.ground[i] == GroundClass::weeds ? 255 : 0;
        }
    const int wide = std::max(1, static_cast<int>(std::lround(widest_m / 2 / r.cell_m)));
    const auto disc = cv::getStructuringElement(cv::MORPH_ELLIPSE, {2 * wide + 1, 2 * wide + 1});
    const int reach = static_cast<int>(std::lround(weeds_reach_m / r.cell_m));
    cv::dilate(weeds, weeds, cv::getStructuringElement(cv::MORPH_ELLIPSE, {2 * reach + 1, 2 * reach + 1}));
    // What was not seen may be hard: a strip must be seen to end.
    cv::Mat maybe, broad, strip;
    cv::bitwise_or(hard, ~known, maybe);
    cv::morphologyEx(maybe, broad, cv::MORPH_OPEN, disc);
    cv::bitwise_and(hard, ~broad, strip);
    cv::Mat label, stats, middles;
    const int n = cv::connectedComponentsWithStats(strip, label, stats, middles, 8, CV_32S);
    for (int l = 1; l < n; ++l) {
        const double area = stats.at<int>(l, cv::CC_STAT_AREA) * r.cell_m * r.cell_m;
        if (area < shortest_m * narrowest_m)
            continue;
        const cv::Rect box(stats.at<int>(l, cv::CC_STAT_LEFT), stats.at<int>(l, cv::CC_STAT_TOP),
                           stats.at<int>(l, cv::CC_STAT_WIDTH), stats.at<int>(l, cv::CC_STAT_HEIGHT));
        const cv::Mat mask = label(box) == l;
        GroundForm form;
        form.kind = GroundForm::Kind::lane;
        outline_patch(mask, part_of(r, box), r.cell_m, form);
        const auto strip_of = widths_along(mask, r.cell_m, form);
        const double width = strip_of.width_m;
        form.strength = strip_of.length_m / std::max(0.5, width);
        if (strip_of.length_m < shortest_m || width < narrowest_m || width > widest_m ||
            form.strength < least_elongation || strip_of.uneven > most_uneven ||
            strip_of.bent_m > most_bent_m || share_in_weeds(mask, weeds(box)) > most_weeds ||
            drop_across(map, form, width).value_or(0) > most_drop_m)
            continue;
        form.width_m = width;
        forms.push_back(std::move(form));
    }
}

// On rock there are shadows of all kinds, and among weeds; and nothing is swept there.
double share_of_rock_and_weeds(const Hardness &h, const std::vector<DarkSpot> &bowls) {
    constexpr double about_m = 1;
    const int reach = std::max(1, static_cast<int>(std::lround(about_m / h.raster.cell_m)));
    double of_those = 0, all = 0;
    for (const auto &b : bowls)
        for (int dy = -reach; dy <= reach; ++dy)
            for (int dx = -reach; dx <= reach; ++dx) {
                const auto i =
                    h.raster.cell_at(b.east_m + dx * h.raster.cell_m, b.north_m + dy * h.raster.cell_m);
                if (!i || h.ground[*i] == GroundClass::unknown)
                    continue;
                all += 1;
                of_those += h.ground[*i] == GroundClass::rock || h.ground[*i] == GroundClass::weeds;
            }
    return all > 0 ? of_those / all : 1;
}

// By how much a form holds more bowls than lie about it, within twelve metres: root of twice the logarithm of
// the likelihood ratio of two counts of Poisson's.
double bowls_over_usual(const GroundForm &form, const Hardness &h, const std::vector<DarkSpot> &spots) {
    constexpr double next_m = 1, about_m = 12;
    const auto beside = [](double off_m) { return off_m > next_m && off_m < about_m; };
    const double about =
        static_cast<double>(std::count_if(spots.begin(), spots.end(), [&](const DarkSpot &s) {
            return s.sunk && beside(metres_outside(form, {s.east_m, s.north_m}));
        }));
    double seen = 0, own = 0; // cells
    const double reach = form.length_m / 2 + about_m;
    for (double n = form.middle.north_m - reach; n < form.middle.north_m + reach; n += h.raster.cell_m)
        for (double e = form.middle.east_m - reach; e < form.middle.east_m + reach; e += h.raster.cell_m) {
            const auto i = h.raster.cell_at(e, n);
            if (!i || h.ground[*i] == GroundClass::unknown)
                continue;
            const double off = metres_outside(form, {e, n});
            seen += beside(off);
            own += off <= 0;
        }
    // Half a bowl more: where none lies about, some would a little farther on.
    const double count = static_cast<double>(form.bowls.size()),
                 usual = (about + 0.5) * own / std::max(1.0, seen);
    return count > usual ? std::sqrt(2 * (count * std::log(count / usual) - (count - usual))) : 0;
}

void find_beds(const GroundMap &map, const Hardness &h, std::vector<GroundForm> &forms) {
    constexpr double most_share = 1.0 / 3, rim_m = 0.5, least_over_usual = 3.5;
    const auto spots = map.dark_spots();
    for (const auto &group : bowl_groups(spots)) {
        if (share_of_rock_and_weeds(h, group.bowls) > most_share)
            continue;
        GroundForm form;
        form.kind = GroundForm::Kind::beds;
        // Corners of a box about each bowl, from the first one's place: large numbers lose centimetres.
        const auto &first = group.bowls.front();
        std::vector<cv::Point2f> corners, hull;
        std::vector<double> widths;
        for (const auto &b : group.bowls) {
            form.bowls.push_back({b.east_m, b.north_m});
            widths.push_back(static_cast<double>(b.size_m));
            const double half = static_cast<double>(b.size_m) / 2 + rim_m;
            for (const double e : {-half, half})
                for (const double n : {-half, half})
                    corners.emplace_back(static_cast<float>(b.east_m - first.east_m + e),
                                         static_cast<float>(b.north_m - first.north_m + n));
        }
        cv::convexHull(corners, hull);
        const auto on_plane = [&](const cv::Point2f &p) {
            return EastNorth{first.east_m + static_cast<double>(p.x),
                             first.north_m + static_cast<double>(p.y)};
        };
        for (const auto &p : hull)
            form.outline.push_back(on_plane(p));
        const auto box = cv::minAreaRect(hull);
        form.middle = on_plane(box.center);
        const auto a = static_cast<double>(box.size.width), b = static_cast<double>(box.size.height);
        form.length_m = std::max(a, b);
        form.width_m = std::min(a, b);
        // Here the angle runs anticlockwise from east, as north points up.
        form.bearing_deg = std::fmod(90 - (static_cast<double>(box.angle) + (a >= b ? 0 : 90)) + 720, 180);
        form.bowl_m = median(widths);
        form.strength = bowls_over_usual(form, h, spots);
        if (form.strength < least_over_usual)
            continue;
        forms.push_back(std::move(form));
    }
}

} // namespace

std::string_view name_of(GroundForm::Kind kind) {
    switch (kind) {
    case GroundForm::Kind::ripples:
        return "ripples";
    case GroundForm::Kind::lane:
        return "lane";
    case GroundForm::Kind::beds:
        return "spawning beds";
    }
    return "";
}

double metres_outside(const GroundForm &form, const EastNorth &p) {
    double least = 1e9;
    bool inside = false;
    for (std::size_t i = 0, k = form.outline.size() - 1; i < form.outline.size(); k = i++) {
        const auto &a = form.outline[k], &b = form.outline[i];
        const double e = b.east_m - a.east_m, n = b.north_m - a.north_m, run = std::max(1e-12, e * e + n * n),
                     t = std::clamp(((p.east_m - a.east_m) * e + (p.north_m - a.north_m) * n) / run, 0.0,
                                    1.0);
        least = std::min(least, std::hypot(p.east_m - a.east_m - t * e, p.north_m - a.north_m - t * n));
        if ((a.north_m > p.north_m) != (b.north_m > p.north_m) &&
            p.east_m < a.east_m + (p.north_m - a.north_m) / n * e)
            inside = !inside;
    }
    return inside ? 0 : least;
}

std::vector<GroundForm> forms_of(const GroundMap &map, const Hardness &hardness) {
    constexpr double widest_cell_m = 0.5;
    std::vector<GroundForm> forms;
    if (map.empty() || hardness.raster.cells() == 0 || map.cell_m() > widest_cell_m)
        return forms;
    const auto r = finer(hardness.raster, map.cell_m());
    find_ripples(map, r, forms);
    find_lanes(map, hardness, forms);
    // The two edges of a lane and its ditches are rows too.
    constexpr double along_deg = 20;
    const auto lanes = forms;
    std::erase_if(forms, [&](const GroundForm &f) {
        return f.kind == GroundForm::Kind::ripples &&
               std::any_of(lanes.begin(), lanes.end(), [&](const GroundForm &lane) {
                   return lane.kind == GroundForm::Kind::lane && lane.length_m > f.length_m &&
                          turn_between(lane.bearing_deg, f.bearing_deg) < along_deg &&
                          metres_outside(lane, f.middle) < f.width_m / 2;
               });
    });
    find_beds(map, hardness, forms);
    return forms;
}

} // namespace heron
