#include "reading/swath.hpp"

#include "sonar/decibels.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

namespace heron {
namespace {

constexpr double least_step_m = 0.03;
constexpr std::size_t least_lines = 24;
constexpr double coarse_along_m = 0.36, coarse_across_m = 0.12;
constexpr float lowest_off = -16, highest_off = 26;
constexpr float missing = std::numeric_limits<float>::quiet_NaN();

float median_of(std::vector<float> &v) {
    if (v.empty())
        return missing;
    const auto middle = v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2);
    std::nth_element(v.begin(), middle, v.end());
    return *middle;
}

// Means of the samples' energy in each cell, so that a grain of one sample is not lost among its neighbours;
// a cell that holds none takes the nearest sample.
void resample(const Ping &ping, const Beam &beam, double from_m, double cell_m, std::size_t columns,
              float *out) {
    const double first = ping.sample_at(from_m), step = cell_m / ping.metres_per_sample();
    const auto n = std::ssize(beam.code);
    for (std::size_t c = 0; c < columns; ++c) {
        auto k0 = static_cast<std::ptrdiff_t>(std::lround(first + static_cast<double>(c) * step)),
             k1 = static_cast<std::ptrdiff_t>(std::lround(first + static_cast<double>(c + 1) * step));
        if (k1 <= k0)
            k1 = k0 + 1;
        double sum = 0, only = 0;
        int heard = 0;
        for (auto k = std::max<std::ptrdiff_t>(0, k0); k < std::min(k1, n); ++k) {
            const auto code = beam.code[static_cast<std::size_t>(k)];
            if (code == missing_code)
                continue;
            const double db = beam.scale.db(code) - beam.gain_db;
            // One sample alone needs no way there and back.
            only = db;
            sum += k1 - k0 > 1 ? power_of(db) : 0;
            ++heard;
        }
        out[c] = heard == 0 ? missing : static_cast<float>(k1 - k0 > 1 ? decibels_of(sum / heard) : only);
    }
}

// Where nothing is known, what is known nearest in the same line: levels are relative, and none stands for
// all.
void fill_across(cv::Mat &m) {
    for (int y = 0; y < m.rows; ++y) {
        auto *line = m.ptr<float>(y);
        int known = -1; // the last column that is
        for (int x = 0; x <= m.cols; ++x) {
            if (x < m.cols && line[x] != line[x])
                continue;
            const int middle = known < 0 ? 0 : x == m.cols ? m.cols : (known + x + 1) / 2;
            for (int u = known + 1; u < std::min(x, m.cols); ++u)
                line[u] = u < middle ? line[known] : x < m.cols ? line[x] : known < 0 ? 0 : line[known];
            known = x;
        }
    }
}

// Takes the background off a grid of levels. `along_m`: half the window of the median along the track.
void flatten(const std::vector<float> &level, std::size_t lines, std::size_t columns, double spacing_m,
             double cell_m, double along_m, SwathGrid &grid) {
    grid.lines = lines;
    grid.columns = columns;
    grid.off.assign(lines * columns, 0);
    const auto per_line = static_cast<std::size_t>(std::max(1.0, std::round(coarse_along_m / spacing_m)));
    const auto per_column = static_cast<std::size_t>(std::max(1.0, std::round(coarse_across_m / cell_m)));
    const auto h = (lines + per_line - 1) / per_line, w = (columns + per_column - 1) / per_column;
    cv::Mat coarse(static_cast<int>(h), static_cast<int>(w), CV_32F);
    std::vector<float> some;
    for (std::size_t y = 0; y < h; ++y)
        for (std::size_t x = 0; x < w; ++x) {
            some.clear();
            for (auto l = y * per_line; l < std::min(lines, (y + 1) * per_line); ++l)
                for (auto c = x * per_column; c < std::min(columns, (x + 1) * per_column); ++c)
                    if (const float v = level[l * columns + c]; v == v)
                        some.push_back(v);
            coarse.at<float>(static_cast<int>(y), static_cast<int>(x)) = median_of(some);
        }
    // Along the track.
    const auto half =
        static_cast<std::ptrdiff_t>(std::max(2.0, along_m / (spacing_m * static_cast<double>(per_line))));
    cv::Mat usual = coarse.clone();
    for (std::size_t x = 0; x < w; ++x)
        for (std::ptrdiff_t y = 0; y < static_cast<std::ptrdiff_t>(h); ++y) {
            some.clear();
            for (auto l = std::max<std::ptrdiff_t>(0, y - half);
                 l < std::min<std::ptrdiff_t>(static_cast<std::ptrdiff_t>(h), y + half + 1); ++l)
                if (const float v = coarse.at<float>(static_cast<int>(l), static_cast<int>(x)); v == v)
                    some.push_back(v);
            usual.at<float>(static_cast<int>(y), static_cast<int>(x)) = median_of(some);
        }
    fill_across(usual);
    // What that leaves, over 6 m × 2 m: an eight-bit median in steps of a quarter decibel.
    constexpr float step = 0.25F;
    cv::Mat left(coarse.size(), CV_8U);
    for (int y = 0; y < coarse.rows; ++y)
        for (int x = 0; x < coarse.cols; ++x) {
            const float v = coarse.at<float>(y, x) - usual.at<float>(y, x);
            left.at<std::uint8_t>(y, x) = cv::saturate_cast<std::uint8_t>(v == v ? 128 + v / step : 128);
        }
    cv::Mat smooth;
    cv::medianBlur(left, smooth, 17);
    grid.patch_lines = h;
    grid.patch_columns = w;
    grid.lines_each = per_line;
    grid.columns_each = per_column;
    grid.patch.resize(h * w);
    for (std::size_t y = 0; y < h; ++y)
        for (std::size_t x = 0; x < w; ++x)
            grid.patch[y * w + x] =
                (static_cast<float>(smooth.at<std::uint8_t>(static_cast<int>(y), static_cast<int>(x))) -
                 128) *
                step;
    cv::Mat background(coarse.size(), CV_32F);
    for (int y = 0; y < coarse.rows; ++y)
        for (int x = 0; x < coarse.cols; ++x)
            background.at<float>(y, x) =
                usual.at<float>(y, x) + (static_cast<float>(smooth.at<std::uint8_t>(y, x)) - 128) * step;
    // Straight between the middles of the coarse cells.
    for (std::size_t l = 0; l < lines; ++l) {
        const float fy = std::clamp((static_cast<float>(l) + 0.5F) / static_cast<float>(per_line) - 0.5F,
                                    0.0F, static_cast<float>(h - 1));
        const auto y0 = static_cast<int>(fy), y1 = std::min(y0 + 1, static_cast<int>(h) - 1);
        const float sy = fy - static_cast<float>(y0);
        for (std::size_t c = 0; c < columns; ++c) {
            const float v = level[l * columns + c];
            if (v != v)
                continue;
            const float fx =
                std::clamp((static_cast<float>(c) + 0.5F) / static_cast<float>(per_column) - 0.5F, 0.0F,
                           static_cast<float>(w - 1));
            const auto x0 = static_cast<int>(fx), x1 = std::min(x0 + 1, static_cast<int>(w) - 1);
            const float sx = fx - static_cast<float>(x0);
            const float b =
                (background.at<float>(y0, x0) * (1 - sx) + background.at<float>(y0, x1) * sx) * (1 - sy) +
                (background.at<float>(y1, x0) * (1 - sx) + background.at<float>(y1, x1) * sx) * sy;
            grid.off[l * columns + c] = std::clamp(v - b, lowest_off, highest_off);
        }
    }
    // What is left of whole lines (roll, a step of the device).
    for (std::size_t l = 0; l < lines; ++l) {
        some.clear();
        for (std::size_t c = columns / 8; c < columns; c += 2)
            if (level[l * columns + c] == level[l * columns + c])
                some.push_back(grid.off[l * columns + c]);
        if (some.size() < 20)
            continue;
        const float m = median_of(some);
        for (std::size_t c = 0; c < columns; ++c)
            if (level[l * columns + c] == level[l * columns + c])
                grid.off[l * columns + c] -= m;
    }
}

// Adds a line, where the beam is there; false where it is not.
bool add_line(const Scan &scan, std::size_t row, double along_m, double edge_m, Swath &s) {
    const auto &ping = scan.ping(row);
    const auto *beam = ping.beam(s.side);
    if (beam == nullptr || beam->code.size() < 50)
        return false;
    s.rows.push_back(row);
    s.along_m.push_back(along_m);
    s.edge_m.push_back(edge_m);
    s.altitude_m.push_back(scan.bottom(row).altitude_m);
    s.end_m.push_back(ping.slant_m(static_cast<double>(beam->code.size())));
    s.pulse_m = ping.resolution_m();
    s.beam_rad = beam->width_along_deg * 3.14159265358979 / 180;
    return true;
}

// Levels of all lines into the grids, and their background off.
void fill(const Scan &scan, Swath &s) {
    const double longest = *std::max_element(s.end_m.begin(), s.end_m.end());
    s.cell_m = std::clamp(longest / 450, 0.04, 0.09);
    // The first return wanders by a sample or two from line to line; the bottom does not.
    std::vector<double> smooth(s.edge_m.size());
    for (std::size_t i = 0; i < smooth.size(); ++i) {
        const auto a = i > 3 ? i - 3 : 0, b = std::min(smooth.size(), i + 4);
        std::vector<float> near(s.edge_m.begin() + static_cast<std::ptrdiff_t>(a),
                                s.edge_m.begin() + static_cast<std::ptrdiff_t>(b));
        smooth[i] = static_cast<double>(median_of(near));
    }
    s.edge_m = smooth;
    const double least_edge = *std::min_element(s.edge_m.begin(), s.edge_m.end()),
                 most_edge = *std::max_element(s.edge_m.begin(), s.edge_m.end());
    const auto columns = static_cast<std::size_t>(std::max(8.0, (longest - least_edge) / s.cell_m));
    // A sounder of its own may tell of a bottom far below what the picture reaches.
    const auto deep =
        static_cast<std::size_t>(std::max(4.0, std::min(most_edge, std::max(longest, 0.0)) / s.cell_m));
    const auto side = s.side;
    const auto n = s.lines();
    s.ground_level_db.assign(n * columns, missing);
    std::vector<float> water(n * deep, missing);
    std::size_t low = 0, high = 0, all = 0;
    for (std::size_t l = 0; l < n; ++l) {
        const auto &ping = scan.ping(s.rows[l]);
        const auto &beam = *ping.beam(side);
        resample(ping, beam, s.edge_m[l], s.cell_m, columns, &s.ground_level_db[l * columns]);
        resample(ping, beam, 0, s.cell_m, deep, &water[l * deep]);
        // The transmission itself, and the bottom's own rise.
        for (std::size_t c = 0; c < deep; ++c)
            if (static_cast<double>(c) * s.cell_m < 0.7 ||
                (static_cast<double>(c) + 1) * s.cell_m > s.edge_m[l] - 0.15)
                water[l * deep + c] = missing;
        for (auto k = static_cast<std::size_t>(std::max(0.0, ping.sample_at(s.edge_m[l])));
             k < beam.code.size(); k += 5) {
            ++all;
            low += beam.code[k] <= beam.scale.clip_low;
            high += beam.code[k] >= beam.scale.clip_high;
        }
    }
    s.clipped_low = static_cast<double>(low) / static_cast<double>(std::max<std::size_t>(1, all));
    s.clipped_high = static_cast<double>(high) / static_cast<double>(std::max<std::size_t>(1, all));
    flatten(s.ground_level_db, n, columns, s.spacing_m, s.cell_m, 9, s.ground);
    flatten(water, n, deep, s.spacing_m, s.cell_m, 4, s.water);
}

} // namespace

double step_over_ground(const RowFacts &before, const RowFacts &now) {
    const bool known = now.speed_m_s == now.speed_m_s;
    return now.along_m - before.along_m + (known ? 0 : 0.1 * static_cast<double>(now.timed - before.timed));
}

Swath prepare_swath(const Scan &scan, Side side, std::size_t first, std::size_t end) {
    Swath s;
    s.side = side;
    std::vector<float> steps;
    double along = 0;
    bool any = false;
    for (auto row = first; row < end; ++row) {
        const auto &bottom = scan.bottom(row);
        const auto &facts = scan.facts(row);
        if (row > first)
            along += step_over_ground(scan.facts(row - 1), facts);
        if (!bottom.found)
            continue;
        if (any && along - s.along_m.back() < least_step_m)
            continue;
        const double own = side == Side::port ? bottom.port_m : bottom.starboard_m,
                     before = any ? s.along_m.back() : along;
        if (!add_line(scan, row, along, own > 0 ? own : bottom.altitude_m, s))
            continue;
        if (any)
            steps.push_back(static_cast<float>(std::min(along - before, 2.0)));
        any = true;
    }
    if (s.rows.size() < least_lines)
        return {};
    s.spacing_m = std::clamp(static_cast<double>(median_of(steps)), least_step_m, 1.0);
    fill(scan, s);
    return s;
}

Swath prepare_rays(const Scan &scan, std::span<const std::size_t> rows, double spacing_m,
                   std::optional<double> altitude_m) {
    Swath s;
    s.side = Side::around;
    for (const auto row : rows) {
        const auto &bottom = scan.bottom(row);
        if (!bottom.found && !altitude_m)
            continue;
        const double altitude = bottom.found ? bottom.altitude_m : *altitude_m;
        if (add_line(scan, row, static_cast<double>(s.lines()) * spacing_m, altitude, s))
            s.altitude_m.back() = altitude;
    }
    if (s.rows.size() < least_lines)
        return {};
    s.spacing_m = std::clamp(spacing_m, least_step_m, 1.0);
    fill(scan, s);
    return s;
}

} // namespace heron
