#include "screen/straighten.hpp"

#include <algorithm>
#include <cmath>
#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>
#include <optional>

namespace heron {

PanelSize panel_size(const ScreenCalibration &c) {
    const auto edge = [&](std::size_t a, std::size_t b) {
        return std::hypot(c.corners[b].x - c.corners[a].x, c.corners[b].y - c.corners[a].y);
    };
    const auto whole = [](double v) { return std::clamp(static_cast<int>(std::lround(v)), 16, 8000); };
    return {whole((edge(0, 1) + edge(3, 2)) / 2), whole((edge(0, 3) + edge(1, 2)) / 2)};
}

Homography homography(const std::array<Pixel, 4> &from, const std::array<Pixel, 4> &to) {
    cv::Mat a = cv::Mat::zeros(8, 8, CV_64F), b(8, 1, CV_64F), x;
    for (int i = 0; i < 4; ++i) {
        const auto &p = from[static_cast<std::size_t>(i)], &q = to[static_cast<std::size_t>(i)];
        const double rows[2][8] = {{p.x, p.y, 1, 0, 0, 0, -q.x * p.x, -q.x * p.y},
                                   {0, 0, 0, p.x, p.y, 1, -q.y * p.x, -q.y * p.y}};
        for (int r = 0; r < 2; ++r) {
            for (int k = 0; k < 8; ++k)
                a.at<double>(2 * i + r, k) = rows[r][k];
            b.at<double>(2 * i + r) = r == 0 ? q.x : q.y;
        }
    }
    cv::solve(a, b, x, cv::DECOMP_LU);
    Homography h{};
    for (int k = 0; k < 8; ++k)
        h[static_cast<std::size_t>(k)] = x.at<double>(k);
    h[8] = 1;
    return h;
}

Pixel mapped(const Homography &h, Pixel p) {
    const double w = h[6] * p.x + h[7] * p.y + h[8];
    return {(h[0] * p.x + h[1] * p.y + h[2]) / w, (h[3] * p.x + h[4] * p.y + h[5]) / w};
}

Pixel bowed(Pixel p, const ScreenCalibration &c) {
    if (c.bow == 0)
        return p;
    const double half = std::hypot(c.width, c.height) / 2, x = (p.x - c.width / 2.0) / half,
                 y = (p.y - c.height / 2.0) / half;
    const double by = 1 + c.bow * (x * x + y * y);
    return {c.width / 2.0 + x * by * half, c.height / 2.0 + y * by * half};
}

namespace {

// Where the panel lies on the picture, upright and unbowed, in whole pixels; nothing where it has to be
// warped.
std::optional<cv::Rect> upright_on(const ScreenPicture &picture, const ScreenCalibration &c, PanelSize size) {
    const auto &k = c.corners;
    if (c.bow != 0 || picture.width != c.width || picture.height != c.height || k[0].x != k[3].x ||
        k[1].x != k[2].x || k[0].y != k[1].y || k[2].y != k[3].y)
        return std::nullopt;
    if (const auto own = panel_size(c); own.width != size.width || own.height != size.height)
        return std::nullopt;
    return cv::Rect(static_cast<int>(std::lround(k[0].x)), static_cast<int>(std::lround(k[0].y)), size.width,
                    size.height);
}

cv::Mat matrix_of(const ScreenPicture &f) {
    return {f.height, f.width, CV_8UC3, const_cast<Rgb *>(f.pixels.data())};
}

// Newest row last.
Panel panel_from(const cv::Mat &from, NewestAt newest, Panel p = {}) {
    const bool level = newest == NewestAt::top || newest == NewestAt::bottom;
    p.rows = level ? from.rows : from.cols;
    p.columns = level ? from.cols : from.rows;
    p.pixels.resize(from.total());
    cv::Mat to(p.rows, p.columns, CV_8UC3, p.pixels.data());
    constexpr int upside_down = 0;
    const bool turned = newest == NewestAt::top || newest == NewestAt::left;
    if (!level)
        cv::transpose(from, to);
    if (level && turned)
        cv::flip(from, to, upside_down);
    else if (level)
        from.copyTo(to);
    else if (turned)
        cv::flip(to, to, upside_down);
    return p;
}

} // namespace

ScreenPicture upright_panel(const ScreenPicture &picture, const ScreenCalibration &c) {
    return upright_panel(picture, c, panel_size(c));
}

ScreenPicture upright_panel(const ScreenPicture &picture, const ScreenCalibration &c, PanelSize size) {
    const double w = size.width, h = size.height;
    auto to_picture = homography({Pixel{0, 0}, {w, 0}, {w, h}, {0, h}}, c.corners);
    const double sx = static_cast<double>(picture.width) / c.width,
                 sy = static_cast<double>(picture.height) / c.height;
    ScreenPicture out;
    out.width = size.width;
    out.height = size.height;
    out.pixels.resize(static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height));
    cv::Mat to(size.height, size.width, CV_8UC3, out.pixels.data());
    // Whole pixels are taken as they are, so that nothing is smeared.
    if (const auto at = upright_on(picture, c, size)) {
        const auto seen = *at & cv::Rect(0, 0, picture.width, picture.height);
        if (!seen.empty())
            matrix_of(picture)(seen).copyTo(to(seen - at->tl()));
        return out;
    }
    // A flat glass is a homography between the middles of pixels.
    if (c.bow == 0) {
        const cv::Mat between = (cv::Mat_<double>(3, 3) << sx, 0, -0.5, 0, sy, -0.5, 0, 0, 1) *
                                cv::Mat(3, 3, CV_64F, to_picture.data()) *
                                (cv::Mat_<double>(3, 3) << 1, 0, 0.5, 0, 1, 0.5, 0, 0, 1);
        cv::warpPerspective(matrix_of(picture), to, between, to.size(),
                            cv::INTER_LINEAR | cv::WARP_INVERSE_MAP, cv::BORDER_REPLICATE);
        return out;
    }
    cv::Mat map_x(size.height, size.width, CV_32F), map_y(size.height, size.width, CV_32F);
    for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x) {
            const auto p = bowed(mapped(to_picture, {x + 0.5, y + 0.5}), c);
            map_x.at<float>(y, x) = static_cast<float>(p.x * sx - 0.5);
            map_y.at<float>(y, x) = static_cast<float>(p.y * sy - 0.5);
        }
    cv::remap(matrix_of(picture), to, map_x, map_y, cv::INTER_LINEAR, cv::BORDER_REPLICATE);
    return out;
}

Panel panel_of(const ScreenPicture &f, NewestAt newest) {
    return panel_from(matrix_of(f), newest);
}

Panel straighten(const ScreenPicture &picture, const ScreenCalibration &c) {
    return straighten(picture, c, panel_size(c));
}

Panel straighten(const ScreenPicture &picture, const ScreenCalibration &c, PanelSize size, Panel room) {
    // A panel that stands upright on the picture is copied once.
    const auto at = upright_on(picture, c, size);
    const bool whole = at && (*at & cv::Rect(0, 0, picture.width, picture.height)) == *at;
    auto panel = whole ? panel_from(matrix_of(picture)(*at), c.newest, std::move(room))
                       : panel_of(upright_panel(picture, c, size), c.newest);
    if (c.swap_sides)
        for (int r = 0; r < panel.rows; ++r)
            std::reverse(panel.pixels.begin() + static_cast<std::ptrdiff_t>(r) * panel.columns,
                         panel.pixels.begin() + static_cast<std::ptrdiff_t>(r + 1) * panel.columns);
    return panel;
}

} // namespace heron
