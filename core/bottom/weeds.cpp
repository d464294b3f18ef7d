#include "bottom/weeds.hpp"

#include "sonar/decibels.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <set>

namespace heron {
namespace {

constexpr float least_share = 0.04F; // of cells about one that are grains
constexpr double across_m = 12;

int cells_of(double metres, const GroundRaster &r) {
    return static_cast<int>(std::lround(metres / r.cell_m));
}

// What share of the seen cells about each is a grain; negative where little was seen. CV_32F.
cv::Mat grain_shares(const GroundRaster &r, const std::vector<float> &best,
                     const std::vector<float> &ground) {
    constexpr float louder_db = 11, not_so_db = 6, least_seen = 0.25;
    constexpr double off_m = 0.5, window_m = 2.5;
    const auto columns = static_cast<int>(r.columns), rows = static_cast<int>(r.rows);
    cv::Mat grain(rows, columns, CV_32F, cv::Scalar(0)), seen(rows, columns, CV_32F, cv::Scalar(0));
    const int off = std::max(1, cells_of(off_m, r));
    const auto over = [&](int x, int y) {
        if (x < 0 || y < 0 || x >= columns || y >= rows)
            return -100.0F;
        const auto i = static_cast<std::size_t>(y) * r.columns + static_cast<std::size_t>(x);
        const float d = best[i] - ground[i];
        return d == d ? d : -100.0F;
    };
    for (int y = 0; y < rows; ++y)
        for (int x = 0; x < columns; ++x) {
            const float d = over(x, y);
            if (d <= -100)
                continue;
            seen.at<float>(y, x) = 1;
            const int wide = (over(x - off, y) > not_so_db) + (over(x + off, y) > not_so_db) +
                             (over(x, y - off) > not_so_db) + (over(x, y + off) > not_so_db);
            if (d > louder_db && wide <= 1)
                grain.at<float>(y, x) = 1;
        }
    const int window = 2 * cells_of(window_m / 2, r) + 1;
    cv::boxFilter(grain, grain, CV_32F, {window, window}, {-1, -1}, true, cv::BORDER_CONSTANT);
    cv::boxFilter(seen, seen, CV_32F, {window, window}, {-1, -1}, true, cv::BORDER_CONSTANT);
    for (int y = 0; y < rows; ++y)
        for (int x = 0; x < columns; ++x) {
            auto &g = grain.at<float>(y, x);
            g = seen.at<float>(y, x) > least_seen ? g / seen.at<float>(y, x) : -1;
        }
    return grain;
}

// Cells from the nearest of the places. CV_32F.
cv::Mat away_from(const std::vector<EastNorth> &places, const GroundRaster &r) {
    cv::Mat unmet(static_cast<int>(r.rows), static_cast<int>(r.columns), CV_8U, cv::Scalar(255)), away;
    for (const auto &g : places)
        if (const auto i = r.cell_at(g.east_m, g.north_m))
            unmet.at<std::uint8_t>(static_cast<int>(*i / r.columns), static_cast<int>(*i % r.columns)) = 0;
    cv::distanceTransform(unmet, away, cv::DIST_L2, cv::DIST_MASK_5);
    return away;
}

// Coarse ground has grains of its own: the share that two in three windows abeam of bare ground do not pass.
float usual_share(const cv::Mat &shares, const cv::Mat &away, const cv::Mat &from_bare, float reach) {
    constexpr double as_usual = 2.0 / 3;
    constexpr std::size_t steps = 1000;
    std::array<std::size_t, steps + 1> many{}; // of windows, by share; a sheet has no room for a list of them
    std::size_t all = 0;
    for (int y = 0; y < shares.rows; ++y)
        for (int x = 0; x < shares.cols; ++x) {
            const float s = shares.at<float>(y, x), bare = from_bare.at<float>(y, x);
            if (s < 0 || bare > reach || bare >= away.at<float>(y, x))
                continue;
            ++many[std::min(steps, static_cast<std::size_t>(std::ceil(s * static_cast<float>(steps))))];
            ++all;
        }
    std::size_t until = 0, step = 0;
    for (const auto most = as_usual * static_cast<double>(all); step < steps; ++step)
        if (until += many[step]; static_cast<double>(until) >= most)
            break;
    return static_cast<float>(step) / static_cast<float>(steps);
}

// Pieces of a mask that the beam that looks down met, in them or within the blind strip beside them.
std::vector<std::uint8_t> met_pieces(const cv::Mat &mask, const GroundRaster &r,
                                     const std::vector<EastNorth> &grown) {
    constexpr double least_m2 = 6, strip_m = 2;
    constexpr int least_met = 3;
    cv::Mat label, stats, middles;
    const int n = cv::connectedComponentsWithStats(mask, label, stats, middles, 8, CV_32S);
    std::vector<int> met(static_cast<std::size_t>(n), 0);
    const int strip = cells_of(strip_m, r);
    for (const auto &g : grown) {
        const auto i = r.cell_at(g.east_m, g.north_m);
        if (!i)
            continue;
        const int x = static_cast<int>(*i % r.columns), y = static_cast<int>(*i / r.columns);
        std::set<int> here;
        for (int dy = -strip; dy <= strip; ++dy)
            for (int dx = -strip; dx <= strip; ++dx)
                if (x + dx >= 0 && y + dy >= 0 && x + dx < mask.cols && y + dy < mask.rows)
                    here.insert(label.at<int>(y + dy, x + dx));
        for (const int l : here)
            ++met[static_cast<std::size_t>(l)];
    }
    std::vector<std::uint8_t> kept(r.cells(), 0);
    for (int y = 0; y < mask.rows; ++y)
        for (int x = 0; x < mask.cols; ++x) {
            const int l = label.at<int>(y, x);
            if (l > 0 && met[static_cast<std::size_t>(l)] >= least_met &&
                stats.at<int>(l, cv::CC_STAT_AREA) * r.cell_m * r.cell_m >= least_m2)
                kept[static_cast<std::size_t>(y) * r.columns + static_cast<std::size_t>(x)] = 1;
        }
    return kept;
}

} // namespace

std::vector<std::uint8_t> weeds_of(const GroundRaster &r, const std::vector<float> &best,
                                   const std::vector<float> &ground, const std::vector<float> &rough,
                                   double rock_db, const std::vector<EastNorth> &grown,
                                   const std::vector<EastNorth> &bare) {
    constexpr double slack_m = 0.5;
    if (grown.empty())
        return std::vector<std::uint8_t>(r.cells(), 0);
    const auto shares = grain_shares(r, best, ground), away = away_from(grown, r),
               from_bare = away_from(bare, r);
    const auto reach = static_cast<float>(across_m / r.cell_m),
               slack = static_cast<float>(slack_m / r.cell_m);
    const auto enough = std::max(least_share, usual_share(shares, away, from_bare, reach));
    cv::Mat mask(shares.rows, shares.cols, CV_8U, cv::Scalar(0));
    for (int y = 0; y < mask.rows; ++y)
        for (int x = 0; x < mask.cols; ++x) {
            const auto i = static_cast<std::size_t>(y) * r.columns + static_cast<std::size_t>(x);
            mask.at<std::uint8_t>(y, x) =
                shares.at<float>(y, x) > enough && static_cast<double>(rough[i]) < rock_db;
        }
    // Holes of a stride are closed, tufts are taken off.
    const int close = std::max(1, cells_of(0.6, r));
    const auto disc = [](int radius) {
        return cv::getStructuringElement(cv::MORPH_ELLIPSE, {2 * radius + 1, 2 * radius + 1});
    };
    cv::morphologyEx(mask, mask, cv::MORPH_CLOSE, disc(close));
    cv::morphologyEx(mask, mask, cv::MORPH_OPEN, disc(2 * close));
    // No farther from where growth was met than one sees across a bed, and not abeam of bare ground.
    for (int y = 0; y < mask.rows; ++y)
        for (int x = 0; x < mask.cols; ++x)
            if (away.at<float>(y, x) > reach || away.at<float>(y, x) > from_bare.at<float>(y, x) + slack)
                mask.at<std::uint8_t>(y, x) = 0;
    return met_pieces(mask, r, grown);
}

std::optional<UnderTheBoat> under_the_boat(const Scan &scan, std::size_t row) {
    constexpr double gap_m = 0.3, louder_db = 9, least_m = 0.2, from_face_m = 0.7, behind_m = 0.4,
                     nearer_m = 0.35, weaker_db = 5;
    const auto &bottom = scan.bottom(row);
    const auto &ping = scan.ping(row);
    const Beam *down = nullptr;
    for (const auto &b : ping.beams)
        if (b.side == Side::down && (down == nullptr || b.width_along_deg < down->width_along_deg))
            down = &b;
    if (down == nullptr || !bottom.found || bottom.altitude_m < 2 * from_face_m || down->code.empty())
        return std::nullopt;
    const double c = ping.slant_m(1) - ping.slant_m(0);
    // Mean energy over a decimetre: one cell of noise in ten is as loud as a stalk, and chance would climb
    // on.
    constexpr double mean_over_m = 0.1;
    const auto half = static_cast<std::size_t>(std::max(0.0, std::round(mean_over_m / 2 / c)));
    const auto level = [&](std::size_t k) {
        const auto from = k > half ? k - half : 0, to = std::min(down->code.size(), k + half + 1);
        double sum = 0;
        for (auto i = from; i < to; ++i)
            sum += power_of(down->scale.db(down->code[i]));
        return decibels_of(sum / static_cast<double>(to - from));
    };
    const auto at = [&](double slant) {
        return static_cast<std::size_t>(
            std::clamp((slant - ping.slant_m(0)) / c, 0.0, static_cast<double>(down->code.size() - 1)));
    };
    // The water: the quieter half of what lies between the face and the bottom.
    std::vector<double> water;
    for (auto k = at(from_face_m); k < at(bottom.altitude_m - 0.1); ++k)
        water.push_back(level(k));
    if (water.size() < 8)
        return std::nullopt;
    std::nth_element(water.begin(), water.begin() + std::ssize(water) / 4, water.end());
    const double loud = water[water.size() / 4] + louder_db;
    // Where this beam meets the bottom, rough ground may lie nearer than both sides say: from where it is
    // heard as loud as behind, and goes on so.
    std::vector<double> behind;
    for (auto k = at(bottom.altitude_m); k <= at(bottom.altitude_m + behind_m); ++k)
        behind.push_back(level(k));
    std::nth_element(behind.begin(), behind.begin() + std::ssize(behind) / 2, behind.end());
    const double like_bottom = behind[behind.size() / 2] - weaker_db;
    double met = bottom.altitude_m;
    for (double s = std::max(from_face_m, bottom.altitude_m - nearer_m); s < bottom.altitude_m; s += c)
        if (level(at(s)) >= like_bottom && level(at(s + mean_over_m)) >= like_bottom) {
            met = s;
            break;
        }
    double top = bottom.altitude_m;
    for (double s = bottom.altitude_m; s > from_face_m && top - s < gap_m; s -= c)
        if (level(at(s)) > loud)
            top = s;
    const double stands = bottom.altitude_m - top;
    return UnderTheBoat{stands >= least_m ? stands : 0.0, met - top >= least_m};
}

} // namespace heron
