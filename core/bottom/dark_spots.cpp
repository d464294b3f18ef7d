#include "bottom/dark_spots.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <opencv2/imgproc.hpp>
#include <optional>
#include <utility>

namespace heron {
namespace {

constexpr double square_side_m = DarkSpotFinder::step_m;
constexpr std::size_t margin_lines = 30,
                      most_lines = 180; // lines: what windows reach, and what is looked over at once
constexpr double apart_m = 2.3;
constexpr std::size_t least_bowls = 5, bowls_a_thing = 3;

int steps(double metres) {
    return static_cast<int>(std::lround(metres / square_side_m));
}

// The mean of what is known in boxes so many squares along and across the track.
cv::Mat1f mean_within(const cv::Mat1f &level, const cv::Mat1f &known, cv::Size box,
                      cv::Mat1f *share = nullptr) {
    cv::Mat1f held, sum, n;
    cv::multiply(level, known, held);
    cv::boxFilter(held, sum, -1, box, {-1, -1}, true, cv::BORDER_CONSTANT);
    cv::boxFilter(known, n, -1, box, {-1, -1}, true, cv::BORDER_CONSTANT);
    cv::Mat1f mean(level.rows, level.cols, 0.0F);
    for (int y = 0; y < level.rows; ++y)
        for (int x = 0; x < level.cols; ++x)
            if (n(y, x) > 0)
                mean(y, x) = sum(y, x) / n(y, x);
    if (share != nullptr)
        *share = n;
    return mean;
}

// A stretch of one side laid flat: a line a row, a step abeam a column.
struct Flat {
    cv::Mat1f level, known; ///< smoothed; known: 1, else 0
    cv::Mat1f over_db;      ///< over the mean within 2.5 m
    cv::Mat1f spread_db;    ///< of the ground about
};

void smooth(Flat &flat) {
    constexpr double by_m = 0.12, least_heard = 0.05;
    cv::Mat1f sum, n;
    const double by = by_m / square_side_m;
    cv::GaussianBlur(flat.level, sum, {0, 0}, by, by, cv::BORDER_CONSTANT);
    cv::GaussianBlur(flat.known, n, {0, 0}, by, by, cv::BORDER_CONSTANT);
    for (int y = 0; y < sum.rows; ++y)
        for (int x = 0; x < sum.cols; ++x) {
            const bool heard = static_cast<double>(n(y, x)) > least_heard;
            flat.level(y, x) = heard ? sum(y, x) / n(y, x) : 0;
            flat.known(y, x) = heard ? 1.0F : 0.0F;
        }
}

void compare(Flat &flat) {
    constexpr float least_share = 0.3F;
    const cv::Size near_by(steps(2.5), steps(2.5)), about(steps(4.1), steps(6.1));
    const auto mean = mean_within(flat.level, flat.known, near_by);
    cv::Mat1f share, square;
    cv::multiply(flat.level, flat.level, square);
    const auto wide = mean_within(flat.level, flat.known, about, &share),
               squares = mean_within(square, flat.known, about);
    flat.over_db = cv::Mat1f(mean.rows, mean.cols, 0.0F);
    flat.spread_db = cv::Mat1f(mean.rows, mean.cols, 0.0F);
    for (int y = 0; y < mean.rows; ++y)
        for (int x = 0; x < mean.cols; ++x) {
            flat.spread_db(y, x) = std::sqrt(std::max(0.0F, squares(y, x) - wide(y, x) * wide(y, x)));
            if (share(y, x) > least_share && flat.known(y, x) > 0)
                flat.over_db(y, x) = flat.level(y, x) - mean(y, x);
        }
}

struct Piece {
    int label, left, top, width, height, area;
};

// A spot by its size and shape, well within the stretch.
bool is_spot(const Piece &p, const Flat &flat) {
    constexpr double least_m = 0.2, most_across_m = 1.3, most_along_m = 1.6, least_m2 = 0.1, most_m2 = 1.5;
    constexpr double least_filled = 0.45, edge_m = 0.5;
    const double area = p.area * square_side_m * square_side_m;
    const int edge = steps(edge_m);
    return p.width >= steps(least_m) && p.width <= steps(most_across_m) && p.height >= steps(least_m) &&
           p.height <= steps(most_along_m) && area >= least_m2 - 1e-9 && area <= most_m2 &&
           p.area >= least_filled * p.width * p.height && p.left >= edge && p.top >= edge &&
           p.left + p.width + edge <= flat.level.cols && p.top + p.height + edge <= flat.level.rows;
}

// Means of the four decimetres before and behind a piece along the sound, decibels over the ground about it.
std::optional<std::pair<double, double>> before_and_behind(const Piece &p, const cv::Mat1i &labels,
                                                           const Flat &flat) {
    constexpr int reach = 4;
    double before = 0, behind = 0;
    int n_before = 0, n_behind = 0;
    const auto take = [&](int y, int x, double &sum, int &n) {
        if (flat.known(y, x) > 0)
            sum += static_cast<double>(flat.over_db(y, x)), ++n;
    };
    for (int y = p.top; y < p.top + p.height; ++y) {
        int first = -1, last = -1;
        for (int x = p.left; x < p.left + p.width; ++x)
            if (labels(y, x) == p.label) {
                first = first < 0 ? x : first;
                last = x;
            }
        for (int k = 1; first >= 0 && k <= reach; ++k) {
            take(y, first - k, before, n_before);
            take(y, last + k, behind, n_behind);
        }
    }
    if (n_before == 0 || n_behind == 0)
        return std::nullopt;
    return std::pair(before / n_before, behind / n_behind);
}

// By how many times the ground's spread a piece lies under what is about it, in the mean.
double darkness(const Piece &p, const cv::Mat1i &labels, const Flat &flat) {
    double sum = 0, spread = 0;
    for (int y = p.top; y < p.top + p.height; ++y)
        for (int x = p.left; x < p.left + p.width; ++x)
            if (labels(y, x) == p.label) {
                sum += static_cast<double>(flat.over_db(y, x));
                spread += static_cast<double>(flat.spread_db(y, x));
            }
    return -sum / std::max(1e-3, spread);
}

// Indices of what hangs together by steps of no more than `apart_m`.
std::vector<std::vector<std::size_t>> together(const std::vector<DarkSpot> &spots,
                                               const std::vector<std::size_t> &which) {
    std::map<std::pair<long, long>, std::vector<std::size_t>> squares;
    const auto square = [&](std::size_t i) {
        return std::pair(std::lround(std::floor(spots[i].east_m / apart_m)),
                         std::lround(std::floor(spots[i].north_m / apart_m)));
    };
    for (const auto i : which)
        squares[square(i)].push_back(i);
    std::vector<std::vector<std::size_t>> groups;
    for (const auto i : which) {
        auto &own = squares[square(i)];
        const auto here = std::find(own.begin(), own.end(), i);
        if (here == own.end())
            continue; // in a group already
        own.erase(here);
        std::vector<std::size_t> group{i};
        for (std::size_t k = 0; k < group.size(); ++k) {
            const auto &a = spots[group[k]];
            const auto [x, y] = square(group[k]);
            for (long dx = -1; dx <= 1; ++dx)
                for (long dy = -1; dy <= 1; ++dy) {
                    const auto at = squares.find({x + dx, y + dy});
                    if (at == squares.end())
                        continue;
                    std::erase_if(at->second, [&](std::size_t j) {
                        const bool near_by =
                            std::hypot(spots[j].east_m - a.east_m, spots[j].north_m - a.north_m) <= apart_m;
                        if (near_by)
                            group.push_back(j);
                        return near_by;
                    });
                }
        }
        groups.push_back(std::move(group));
    }
    return groups;
}

} // namespace

void DarkSpotFinder::add(const Row &row, const std::vector<float> &levels, std::vector<DarkSpot> &found) {
    constexpr double most_gap_lines = 10;
    const double line_at = std::floor(row.along_m / square_side_m);
    if (!lines_.empty()) {
        const double ahead = line_at - first_line_ - static_cast<double>(lines_.size() - 1);
        if (!(ahead >= -1) || !(ahead <= most_gap_lines) || row.pass != lines_.back().row.pass)
            end(found);
    }
    if (lines_.empty())
        first_line_ = line_at;
    // The first of a run has no distance that is a number, maybe.
    const auto number =
        line_at - first_line_ > 0 ? static_cast<std::size_t>(line_at - first_line_) : std::size_t{0};
    while (lines_.size() <= number)
        lines_.push_back({row, {}, {}, false});
    auto &line = lines_[number];
    line.row = row;
    line.heard = true;
    line.sum.resize(std::max(line.sum.size(), levels.size()), 0);
    line.n.resize(line.sum.size(), 0);
    for (std::size_t k = 0; k < levels.size(); ++k)
        if (levels[k] == levels[k]) {
            line.sum[k] += levels[k];
            line.n[k] += 1;
        }
    if (lines_.size() < most_lines)
        return;
    look_over(looked_, most_lines - margin_lines, found);
    constexpr std::size_t kept = 2 * margin_lines;
    lines_.erase(lines_.begin(), lines_.end() - kept);
    first_line_ += static_cast<double>(most_lines - kept);
    looked_ = kept - margin_lines;
}

void DarkSpotFinder::end(std::vector<DarkSpot> &found) {
    look(found);
    lines_.clear();
    looked_ = 0;
}

void DarkSpotFinder::look(std::vector<DarkSpot> &found) const {
    look_over(looked_, lines_.size(), found);
}

// Tells what has its middle between two lines; the others are there to be held against.
void DarkSpotFinder::look_over(std::size_t from, std::size_t to, std::vector<DarkSpot> &found) const {
    constexpr std::size_t least_lines = 20;
    constexpr double least_heard =
        0.4; // of the lines: else a ping was sent every quarter of a metre and more
    if (lines_.size() < least_lines)
        return;
    std::size_t columns = 0, heard = 0;
    for (const auto &l : lines_) {
        columns = std::max(columns, l.sum.size());
        heard += l.heard;
    }
    if (columns == 0 || static_cast<double>(heard) < least_heard * static_cast<double>(lines_.size()))
        return;
    Flat flat;
    flat.level = cv::Mat1f(static_cast<int>(lines_.size()), static_cast<int>(columns), 0.0F);
    flat.known = flat.level.clone();
    for (std::size_t y = 0; y < lines_.size(); ++y)
        for (std::size_t x = 0; x < lines_[y].sum.size(); ++x)
            if (lines_[y].n[x] > 0) {
                flat.level(static_cast<int>(y), static_cast<int>(x)) = lines_[y].sum[x] / lines_[y].n[x];
                flat.known(static_cast<int>(y), static_cast<int>(x)) = 1;
            }
    smooth(flat);
    compare(flat);
    constexpr float least_db = 3, least_times = 1.3F;
    cv::Mat1b dark(flat.level.rows, flat.level.cols, std::uint8_t{0});
    for (int y = 0; y < dark.rows; ++y)
        for (int x = 0; x < dark.cols; ++x)
            dark(y, x) =
                flat.over_db(y, x) < -std::max(least_db, least_times * flat.spread_db(y, x)) ? 255 : 0;
    cv::Mat1i labels, stats;
    cv::Mat1d middles;
    const int n = cv::connectedComponentsWithStats(dark, labels, stats, middles, 8, CV_32S);
    constexpr double least_darkness = 1.6, least_difference_db = 2, steepest = 0.7; // abeam over altitude
    for (int l = 1; l < n; ++l) {
        const Piece piece{l,
                          stats(l, cv::CC_STAT_LEFT),
                          stats(l, cv::CC_STAT_TOP),
                          stats(l, cv::CC_STAT_WIDTH),
                          stats(l, cv::CC_STAT_HEIGHT),
                          stats(l, cv::CC_STAT_AREA)};
        const auto line = static_cast<std::size_t>(std::lround(middles(l, 1)));
        if (line < from || line >= to || !is_spot(piece, flat))
            continue;
        const auto &row = lines_[line].row;
        const double abeam = (middles(l, 0) + 0.5) * square_side_m;
        const auto sides = before_and_behind(piece, labels, flat);
        if (abeam < steepest * row.altitude_m || !sides ||
            std::fabs(sides->second - sides->first) < least_difference_db ||
            darkness(piece, labels, flat) < least_darkness)
            continue;
        found.push_back({row.east_m + abeam * row.east, row.north_m + abeam * row.north,
                         static_cast<float>(std::max(piece.width, piece.height) * square_side_m),
                         sides->second > sides->first, row.pass});
    }
}

std::vector<BowlGroup> bowl_groups(const std::vector<DarkSpot> &spots) {
    std::map<std::uint16_t, std::vector<std::size_t>> bowls, things;
    for (std::size_t i = 0; i < spots.size(); ++i)
        (spots[i].sunk ? bowls : things)[spots[i].pass].push_back(i);
    std::vector<BowlGroup> groups;
    for (const auto &[pass, of_pass] : bowls)
        for (const auto &one : together(spots, of_pass)) {
            if (one.size() < least_bowls)
                continue;
            const auto &stand = things[pass];
            const auto among =
                static_cast<std::size_t>(std::count_if(stand.begin(), stand.end(), [&](std::size_t t) {
                    return std::any_of(one.begin(), one.end(), [&](std::size_t b) {
                        return std::hypot(spots[t].east_m - spots[b].east_m,
                                          spots[t].north_m - spots[b].north_m) < apart_m;
                    });
                }));
            if (one.size() < bowls_a_thing * among)
                continue;
            BowlGroup group;
            for (const auto i : one)
                group.bowls.push_back(spots[i]);
            groups.push_back(std::move(group));
        }
    // The pass that saw most of a place tells it.
    std::sort(groups.begin(), groups.end(),
              [](const auto &a, const auto &b) { return a.bowls.size() > b.bowls.size(); });
    std::vector<BowlGroup> told;
    for (auto &g : groups)
        if (std::none_of(told.begin(), told.end(), [&](const BowlGroup &other) {
                return std::any_of(g.bowls.begin(), g.bowls.end(), [&](const DarkSpot &a) {
                    return std::any_of(other.bowls.begin(), other.bowls.end(), [&](const DarkSpot &b) {
                        return std::hypot(a.east_m - b.east_m, a.north_m - b.north_m) <= apart_m;
                    });
                });
            }))
            told.push_back(std::move(g));
    return told;
}

} // namespace heron
