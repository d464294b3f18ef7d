#include "sim/circle_screen.hpp"

#include "geo/position.hpp"
#include "recording/nmea_feed.hpp"
#include "sim/sounder.hpp"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace heron::sim {

ScreenPicture circle_screen(std::span<const Ping> rays, const std::vector<Rgb> &colours,
                            const CircleScreen &as) {
    constexpr int directions = 1440; // four a degree
    std::vector<const Beam *> of(directions, nullptr);
    const auto direction = [](double deg) {
        return static_cast<std::size_t>(std::lround(wrap_360(deg) / 360 * directions)) % directions;
    };
    double widest = 0;
    for (std::size_t i = 1; i < rays.size(); ++i)
        widest = std::max(
            widest, std::fabs(wrap_180(rays[i].beams[0].azimuth_deg - rays[i - 1].beams[0].azimuth_deg)));
    for (const auto &ping : rays)
        of[direction(ping.beams[0].azimuth_deg)] = &ping.beams[0];
    // Between the rays the nearest shows.
    const auto reach = static_cast<int>(std::ceil(std::min(widest, 10.0) / 2 / 360 * directions)) + 1;
    auto all = of;
    for (int i = 0; i < directions; ++i)
        for (int d = 1; d <= reach && all[static_cast<std::size_t>(i)] == nullptr; ++d)
            for (const int at : {i - d, i + d})
                if (const auto *beam = of[static_cast<std::size_t>((at + directions) % directions)];
                    beam != nullptr && all[static_cast<std::size_t>(i)] == nullptr)
                    all[static_cast<std::size_t>(i)] = beam;
    ScreenPicture out;
    out.width = out.height = as.size;
    out.pixels.assign(static_cast<std::size_t>(as.size) * static_cast<std::size_t>(as.size), Rgb{24, 26, 28});
    const double middle = as.size / 2.0, radius = middle - as.margin;
    for (int y = 0; y < as.size; ++y)
        for (int x = 0; x < as.size; ++x) {
            const double dx = x + 0.5 - middle, dy = y + 0.5 - middle, r = std::hypot(dx, dy);
            if (r >= radius)
                continue;
            const auto *beam = all[direction(std::atan2(dx, -dy) * degrees_per_radian - as.bow_deg)];
            auto colour = colours.front();
            if (beam != nullptr && !beam->code.empty()) {
                const auto k =
                    std::min(beam->code.size() - 1,
                             static_cast<std::size_t>(r / radius * static_cast<double>(beam->code.size())));
                colour = colours[std::min<std::size_t>(255, beam->code[k]) * (colours.size() - 1) / 255];
            }
            const double quarter = r / radius * 4;
            if (as.rings && (std::fabs(quarter - std::round(quarter)) * radius / 4 < 0.6 || r < 5))
                colour = {220, 220, 210};
            out.at(x, y) = colour;
        }
    if (as.words) {
        cv::Mat m(out.height, out.width, CV_8UC3, out.pixels.data());
        const int low = as.size - 10, right = as.size - 62;
        for (const auto &[word, at] : {std::pair{"18 m", cv::Point(8, 24)},
                                       {"071", cv::Point(right + 14, 24)},
                                       {"16 C", cv::Point(8, low)},
                                       {"3.1", cv::Point(right + 18, low)}})
            cv::putText(m, word, at, cv::FONT_HERSHEY_SIMPLEX, 0.6, cv::Scalar(190, 200, 190), 1,
                        cv::LINE_AA);
    }
    return out;
}

ScreenCalibration calibration_of(const CircleScreen &as, double range_m) {
    ScreenCalibration c;
    c.source = "a circle";
    c.width = c.height = as.size;
    const double a = as.margin, b = as.size - as.margin;
    c.corners = {Pixel{a, a}, {b, a}, {b, b}, {a, b}};
    c.circle_bow_deg = wrap_360(as.bow_deg);
    c.range_m = range_m;
    return c;
}

HeardTurns hear_turns(Scene scene, double range_m, std::size_t rays) {
    Sounder sounder(std::move(scene), 1'800'000'000LL * ns_per_s);
    auto side = sounder.settings();
    side.pinging = false;
    sounder.ask(side);
    auto head = sounder.head_settings();
    head.pinging = true;
    head.range_m = range_m;
    sounder.ask_head(head);
    sounder.put_on_hold();
    HeardTurns heard;
    heard.range_m = sounder.head_settings().range_m;
    heard.installation = sounder.scene().boat.head_installation();
    NmeaFeed feed;
    while (heard.rays.size() < rays) {
        auto e = sounder.next();
        for (auto &line : e.sentences)
            feed.take(line, e.time, heard.nav);
        if (e.ray)
            heard.rays.push_back(std::move(e.ray->ping));
    }
    return heard;
}

std::span<const Ping> HeardTurns::last_turn() const {
    double turned = 0;
    std::size_t first = rays.size() - 1;
    for (; first > 0 && turned < 359; --first)
        turned +=
            std::fabs(wrap_180(rays[first].beams[0].azimuth_deg - rays[first - 1].beams[0].azimuth_deg));
    return std::span(rays).subspan(first);
}

} // namespace heron::sim
