#include "screen/guess.hpp"

#include "screen/photo_panel.hpp"
#include "screen/straighten.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

namespace heron {
namespace {

cv::Mat grey_numbers_of(const ScreenPicture &f) {
    cv::Mat grey, out;
    cv::cvtColor(cv::Mat(f.height, f.width, CV_8UC3, const_cast<Rgb *>(f.pixels.data())), grey,
                 cv::COLOR_RGB2GRAY);
    grey.convertTo(out, CV_32F);
    return out;
}

// The longest run of values over half of the most, as [from, to).
std::pair<int, int> longest_run(const std::vector<double> &v, double least) {
    int best_from = 0, best_to = 0, from = -1, gap = 0;
    constexpr int bridged = 6; // lines of a ruler or a cursor
    for (int i = 0; i <= static_cast<int>(v.size()); ++i) {
        const bool in = i < static_cast<int>(v.size()) && v[static_cast<std::size_t>(i)] >= least;
        if (in) {
            if (from < 0)
                from = i;
            gap = 0;
        } else if (from >= 0 && (++gap > bridged || i == static_cast<int>(v.size()))) {
            const int to = i - gap + 1;
            if (to - from > best_to - best_from) {
                best_from = from;
                best_to = to;
            }
            from = -1;
            gap = 0;
        }
    }
    return {best_from, best_to};
}

// A circle has grain within and none in the corners about it. Its rim by where the grain ends on both sides,
// or above and below: astern of a head there is none.
std::optional<std::array<Pixel, 4>> circle_in(const cv::Mat &grainy, const cv::Rect &box) {
    constexpr double squarest = 0.85, of_inside = 0.25, rim_at = 0.35, least_way = 0.8, most_way = 1.2;
    const double ratio = static_cast<double>(box.width) / box.height;
    if (ratio < squarest || ratio > 1 / squarest)
        return std::nullopt;
    const double x = box.x + box.width / 2.0, y = box.y + box.height / 2.0,
                 r = (box.width + box.height) / 4.0;
    double inside = 0, within = 0, corners = 0;
    for (int iy = std::max(0, box.y); iy < std::min(grainy.rows, box.y + box.height); ++iy)
        for (int ix = std::max(0, box.x); ix < std::min(grainy.cols, box.x + box.width); ++ix) {
            const double d = std::hypot(ix - x, iy - y) / r, v = grainy.at<std::uint8_t>(iy, ix) / 255.0;
            if (d < 0.9) {
                inside += v;
                ++within;
            } else if (d > 1.12) {
                corners += v;
            }
        }
    const double corner_pixels = (4 - std::numbers::pi * 1.12 * 1.12) * r * r;
    if (within < 1 || corner_pixels < 1)
        return std::nullopt;
    inside /= within;
    corners /= std::max(1.0, corner_pixels);
    if (inside <= 0 || corners > of_inside * inside)
        return std::nullopt;
    const auto way = [&](int dx, int dy) -> std::optional<double> {
        constexpr int run = 5;
        double last = 0;
        for (double d = 0.6 * r; d < most_way * r; ++d) {
            double sum = 0;
            int n = 0;
            for (int along = 0; along < run; ++along)
                for (int aside = -static_cast<int>(0.12 * r); aside <= static_cast<int>(0.12 * r); ++aside) {
                    // Aside of the axis the rim lies nearer: along the arc.
                    const double at = std::sqrt(std::max(0.0, (d + along) * (d + along) - aside * aside));
                    const int ix = static_cast<int>(x + dx * at + dy * aside),
                              iy = static_cast<int>(y + dy * at + dx * aside);
                    if (ix >= 0 && iy >= 0 && ix < grainy.cols && iy < grainy.rows) {
                        sum += grainy.at<std::uint8_t>(iy, ix) / 255.0;
                        ++n;
                    }
                }
            if (n > 0 && sum / n > rim_at * inside)
                last = d + run / 2.0;
        }
        return last > least_way * r ? std::optional(last) : std::nullopt;
    };
    const auto left = way(-1, 0), right = way(1, 0), up = way(0, -1), down = way(0, 1);
    double middle_x = 0, middle_y = 0, radius = 0; // all three are found, or nothing is told
    if (left && right) {
        radius = (*left + *right) / 2;
        middle_x = x + (*right - *left) / 2;
        middle_y = up && down ? y + (*down - *up) / 2 : up ? y - *up + radius : down ? y + *down - radius : y;
    } else if (up && down) {
        radius = (*up + *down) / 2;
        middle_y = y + (*down - *up) / 2;
        middle_x = left ? x - *left + radius : right ? x + *right - radius : x;
    } else {
        return std::nullopt;
    }
    const double x0 = middle_x - radius, x1 = middle_x + radius, y0 = middle_y - radius,
                 y1 = middle_y + radius;
    return std::array{Pixel{x0, y0}, Pixel{x1, y0}, Pixel{x1, y1}, Pixel{x0, y1}};
}

// How many lines inward from an edge are mostly of the border's colour: none of those are the panel's, be
// figures written there or an edge smeared by compression. `inside` holds lines as rows, from the edge
// inward, `grain` their grainy share and `usual` that of the panel.
int border_lines(float border, const cv::Mat &inside, const std::vector<double> &grain, double usual) {
    constexpr int smeared = 10;
    constexpr float alike = 12;
    constexpr double mostly = 0.6, smooth = 0.5;
    int n = 0;
    for (; n < inside.rows; ++n) {
        const auto *line = inside.ptr<float>(n);
        const auto like =
            std::count_if(line, line + inside.cols, [&](float v) { return std::fabs(v - border) < alike; });
        const bool of_border = static_cast<double>(like) > mostly * inside.cols;
        if (!of_border || (n >= smeared && grain[static_cast<std::size_t>(n)] > smooth * usual))
            break;
    }
    return n;
}

// What lies outside an edge, if that much of the picture does.
std::optional<float> colour_of(const cv::Mat &grey, const cv::Rect &strip) {
    constexpr int least = 4;
    const auto seen = strip & cv::Rect(0, 0, grey.cols, grey.rows);
    if (seen.width < least || seen.height < least)
        return std::nullopt;
    std::vector<float> v;
    for (int y = seen.y; y < seen.y + seen.height; ++y)
        v.insert(v.end(), grey.ptr<float>(y) + seen.x, grey.ptr<float>(y) + seen.x + seen.width);
    const auto middle = v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2);
    std::nth_element(v.begin(), middle, v.end());
    return *middle;
}

// Edges of a box put farther in where they are the border's. An edge at the picture's own has nothing
// outside: there the border is of the colour that it has at the others.
cv::Rect within_border(const cv::Mat &grey, const cv::Mat &both, cv::Rect box) {
    constexpr int near = 6, strip = 16;
    constexpr double at_most = 0.25; // of the panel, from each edge
    std::array<std::optional<float>, 4> border{
        colour_of(grey, {box.x - near - strip, box.y, strip, box.height}),
        colour_of(grey, {box.x + box.width + near, box.y, strip, box.height}),
        colour_of(grey, {box.x, box.y - near - strip, box.width, strip}),
        colour_of(grey, {box.x, box.y + box.height + near, box.width, strip})};
    for (auto &b : border)
        for (std::size_t other = 0; other < border.size() && !b; ++other)
            b = border[other];
    if (!border.front())
        return box;
    const cv::Rect whole(0, 0, both.cols, both.rows);
    const auto tight = [&](bool columns) {
        // Lines as rows, so that columns and rows are one.
        const cv::Mat lines = columns ? grey(whole).t() : grey(whole).clone();
        const cv::Mat grainy = columns ? both.t() : both;
        int &first = columns ? box.x : box.y, &extent = columns ? box.width : box.height;
        const auto across =
            columns ? cv::Range(box.y, box.y + box.height) : cv::Range(box.x, box.x + box.width);
        std::vector<double> share;
        for (int i = first; i < first + extent; ++i)
            share.push_back(cv::mean(grainy(cv::Range(i, i + 1), across))[0]);
        auto sorted = share;
        std::sort(sorted.begin(), sorted.end());
        const double usual = sorted[sorted.size() / 2];
        const int most = static_cast<int>(at_most * extent);
        cv::Mat back;
        cv::flip(lines(cv::Range(first + extent - most, first + extent), across), back, 0);
        const int before = border_lines(*border[columns ? 0 : 2],
                                        lines(cv::Range(first, first + most), across), share, usual);
        const int behind =
            border_lines(*border[columns ? 1 : 3], back, {share.rbegin(), share.rend()}, usual);
        first += before;
        extent -= before + behind;
    };
    tight(true);
    tight(false);
    tight(true);
    return box;
}

} // namespace

MiddleGuess guess_middle(const ScreenPicture &upright, bool across_is_level) {
    const auto grey = grey_numbers_of(upright);
    cv::Mat profile;
    cv::reduce(grey, profile, across_is_level ? 0 : 1, cv::REDUCE_AVG, CV_32F);
    const int n = across_is_level ? grey.cols : grey.rows;
    std::vector<double> p(static_cast<std::size_t>(n));
    for (int i = 0; i < n; ++i)
        p[static_cast<std::size_t>(i)] =
            static_cast<double>(across_is_level ? profile.at<float>(0, i) : profile.at<float>(i, 0));
    MiddleGuess best;
    // Every half pixel: about `c` what lies so far to one side is like what lies so far to the other.
    for (int twice = n / 3; twice <= 2 * n - n / 3; ++twice) {
        const double c = twice / 2.0;
        const int reach = static_cast<int>(std::min(c, n - c)) - 1;
        if (reach < n / 8)
            continue;
        double a = 0, b = 0, aa = 0, bb = 0, ab = 0;
        int count = 0;
        for (int k = 1; k < reach; ++k) {
            const double x = p[static_cast<std::size_t>(std::ceil(c) - 1 - k)],
                         y = p[static_cast<std::size_t>(std::floor(c) + k)];
            a += x;
            b += y;
            aa += x * x;
            bb += y * y;
            ab += x * y;
            ++count;
        }
        const double va = aa / count - a / count * a / count, vb = bb / count - b / count * b / count;
        if (va < 1 || vb < 1)
            continue;
        const double r = (ab / count - a / count * b / count) / std::sqrt(va * vb);
        // The more of the panel takes part the more it says.
        const double weighed = r * std::pow(2.0 * reach / n, 0.15);
        if (weighed > best.symmetry) {
            best.symmetry = weighed;
            best.middle = c / n;
        }
    }
    return best;
}

namespace {

// Of a panel whose corners are known.
void tell_middle(const ScreenPicture &picture, ScreenGuess &g) {
    ScreenCalibration c;
    c.width = picture.width;
    c.height = picture.height;
    c.corners = g.corners;
    const auto panel = upright_panel(picture, c);
    const auto level = guess_middle(panel, true), upright = guess_middle(panel, false);
    g.newest = level.symmetry >= upright.symmetry ? NewestAt::top : NewestAt::right;
    g.middle =
        std::max(level, upright, [](const auto &a, const auto &b) { return a.symmetry < b.symmetry; }).middle;
    g.symmetry = std::max(level.symmetry, upright.symmetry);
}

// Of a picture as it was saved: the panel is a box.
std::optional<ScreenGuess> guess_upright(const ScreenPicture &picture) {
    if (picture.width < 64 || picture.height < 64)
        return std::nullopt;
    const auto grey = grey_numbers_of(picture);
    // Grain: how much neighbours differ, on both axes, in boxes of some pixels.
    cv::Mat dx, dy, grain, mask;
    cv::absdiff(grey(cv::Rect(1, 0, grey.cols - 1, grey.rows - 1)),
                grey(cv::Rect(0, 0, grey.cols - 1, grey.rows - 1)), dx);
    cv::absdiff(grey(cv::Rect(0, 1, grey.cols - 1, grey.rows - 1)),
                grey(cv::Rect(0, 0, grey.cols - 1, grey.rows - 1)), dy);
    cv::Mat moves_x = dx > 1.5F, moves_y = dy > 1.5F, both;
    cv::bitwise_and(moves_x, moves_y, both);
    cv::Mat share;
    both.convertTo(share, CV_32F, 1.0 / 255);
    cv::blur(share, share, {15, 15});
    mask = share > 0.18F;
    cv::Mat labels, stats, centres;
    cv::morphologyEx(mask, mask, cv::MORPH_CLOSE, cv::getStructuringElement(cv::MORPH_RECT, {41, 41}));
    cv::morphologyEx(mask, mask, cv::MORPH_OPEN, cv::getStructuringElement(cv::MORPH_RECT, {41, 41}));
    const int n = cv::connectedComponentsWithStats(mask, labels, stats, centres);
    int largest = -1, most = 0;
    for (int i = 1; i < n; ++i)
        if (stats.at<int>(i, cv::CC_STAT_AREA) > most) {
            most = stats.at<int>(i, cv::CC_STAT_AREA);
            largest = i;
        }
    if (largest < 0 || most < 0.08 * static_cast<double>(picture.width) * picture.height)
        return std::nullopt;
    const cv::Rect box(stats.at<int>(largest, cv::CC_STAT_LEFT), stats.at<int>(largest, cv::CC_STAT_TOP),
                       stats.at<int>(largest, cv::CC_STAT_WIDTH), stats.at<int>(largest, cv::CC_STAT_HEIGHT));
    // Far out a ray is many pixels wide: there it is grainy on one axis alone.
    cv::Mat either;
    cv::bitwise_or(moves_x(cv::Rect(0, 0, both.cols, both.rows)),
                   moves_y(cv::Rect(0, 0, both.cols, both.rows)), either);
    if (const auto round = circle_in(either, box)) {
        ScreenGuess g;
        g.corners = *round;
        g.circle = true;
        return g;
    }
    // Its edges to the pixel: lines of which a good part is grainy.
    const int pad = 24;
    const cv::Rect wide = cv::Rect(box.x - pad, box.y - pad, box.width + 2 * pad, box.height + 2 * pad) &
                          cv::Rect(0, 0, both.cols, both.rows);
    cv::Mat by_column, by_row;
    cv::reduce(both(wide), by_column, 0, cv::REDUCE_AVG, CV_32F);
    cv::reduce(both(wide), by_row, 1, cv::REDUCE_AVG, CV_32F);
    std::vector<double> columns(static_cast<std::size_t>(wide.width)),
        rows(static_cast<std::size_t>(wide.height));
    for (int i = 0; i < wide.width; ++i)
        columns[static_cast<std::size_t>(i)] = static_cast<double>(by_column.at<float>(0, i));
    for (int i = 0; i < wide.height; ++i)
        rows[static_cast<std::size_t>(i)] = static_cast<double>(by_row.at<float>(i, 0));
    auto [x0, x1] = longest_run(columns, 0.1 * 255 * 0.5);
    auto [y0, y1] = longest_run(rows, 0.1 * 255);
    // The dark water is smooth: a run may end at it. The box then says how far it goes.
    if (x1 - x0 < 0.8 * box.width) {
        x0 = box.x - wide.x;
        x1 = x0 + box.width;
    }
    if (y1 - y0 < 0.8 * box.height) {
        y0 = box.y - wide.y;
        y1 = y0 + box.height;
    }
    ScreenGuess g;
    const auto panel_box = within_border(grey, both, cv::Rect(wide.x + x0, wide.y + y0, x1 - x0, y1 - y0));
    const double left = panel_box.x, top = panel_box.y;
    double right = left + panel_box.width, bottom = top + panel_box.height;
    // Differences miss the picture's last line and column.
    if (panel_box.x + panel_box.width == both.cols)
        ++right;
    if (panel_box.y + panel_box.height == both.rows)
        ++bottom;
    g.corners = {Pixel{left, top}, {right, top}, {right, bottom}, {left, bottom}};
    tell_middle(picture, g);
    return g;
}

// How far from upright its sides are at the most, as a slope.
double tilt_of(const std::array<Pixel, 4> &corners) {
    double most = 0;
    for (std::size_t i = 0; i < corners.size(); ++i) {
        const auto &a = corners[i], &b = corners[(i + 1) % corners.size()];
        const double across = std::fabs(a.x - b.x), down = std::fabs(a.y - b.y);
        most = std::max(most, std::min(across, down) / std::max({across, down, 1.0}));
    }
    return most;
}

double farthest(const std::array<Pixel, 4> &a, const std::array<Pixel, 4> &b) {
    double most = 0;
    for (std::size_t i = 0; i < a.size(); ++i)
        most = std::max(most, std::hypot(a[i].x - b[i].x, a[i].y - b[i].y));
    return most;
}

} // namespace

std::optional<ScreenGuess> guess_screen(const ScreenPicture &picture) {
    constexpr double straight = 0.02, beside = 0.025; // a slope; of the picture's width
    auto upright = guess_upright(picture);
    if (upright && upright->circle)
        return upright;
    const auto corners = panel_on_photograph(picture);
    if (!corners)
        return upright;
    // Of a picture as saved both say the same, and the box says it to the pixel. On a photograph the camera's
    // grain leads the box astray.
    if (upright && tilt_of(*corners) < straight &&
        farthest(*corners, upright->corners) < beside * picture.width)
        return upright;
    ScreenGuess g;
    g.corners = *corners;
    g.photographed = true;
    tell_middle(picture, g);
    return g;
}

} // namespace heron
