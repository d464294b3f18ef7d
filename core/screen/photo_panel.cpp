#include "screen/photo_panel.hpp"

#include "screen/guess.hpp"
#include "screen/straighten.hpp"

#include <algorithm>
#include <cmath>
#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>
#include <random>
#include <vector>

namespace heron {
namespace {

// Sides in the order of the corners they begin at: above, right, below, left.
constexpr std::size_t sides = 4;
constexpr bool lies_level(std::size_t side) {
    return side % 2 == 0;
}

// A side as a line: across = offset + slope · along. `along` runs right on level sides and down on upright
// ones.
struct SideLine {
    double offset = 0, slope = 0;
    double at(double along) const { return offset + slope * along; }
};

struct SidePoint {
    double along, across;
};

// The line that most of them lie on, and then the least squares of those.
std::optional<SideLine> line_of_most(const std::vector<SidePoint> &points, double within,
                                     double least_share) {
    constexpr int tries = 300;
    constexpr double steepest = 0.36; // 20 degrees
    if (points.size() < 8)
        return std::nullopt;
    std::mt19937 random(1);
    std::uniform_int_distribution<std::size_t> any(0, points.size() - 1);
    SideLine best;
    std::size_t most = 0;
    const auto lies_on = [within](const SideLine &l, const SidePoint &p) {
        return std::fabs(p.across - l.at(p.along)) <= within;
    };
    for (int i = 0; i < tries; ++i) {
        const auto &a = points[any(random)], &b = points[any(random)];
        if (std::fabs(a.along - b.along) < 1)
            continue;
        SideLine line;
        line.slope = (b.across - a.across) / (b.along - a.along);
        line.offset = a.across - line.slope * a.along;
        if (std::fabs(line.slope) > steepest)
            continue;
        const auto n = static_cast<std::size_t>(
            std::count_if(points.begin(), points.end(), [&](const auto &p) { return lies_on(line, p); }));
        if (n > most) {
            most = n;
            best = line;
        }
    }
    if (static_cast<double>(most) < least_share * static_cast<double>(points.size()))
        return std::nullopt;
    double n = 0, x = 0, y = 0, xx = 0, xy = 0;
    for (const auto &p : points)
        if (lies_on(best, p)) {
            ++n;
            x += p.along;
            y += p.across;
            xx += p.along * p.along;
            xy += p.along * p.across;
        }
    const double spread = xx - x * x / n;
    if (spread < 1)
        return std::nullopt;
    SideLine line;
    line.slope = (xy - x * y / n) / spread;
    line.offset = (y - line.slope * x) / n;
    return line;
}

Pixel crossing(const SideLine &level, const SideLine &upright) {
    // y = a + b x, x = c + d y
    const double y = (level.offset + level.slope * upright.offset) / (1 - level.slope * upright.slope);
    return {upright.at(y), y};
}

std::array<Pixel, 4> corners_of(const std::array<SideLine, sides> &s) {
    return {crossing(s[0], s[3]), crossing(s[0], s[1]), crossing(s[2], s[1]), crossing(s[2], s[3])};
}

// How uneven each place is, beside what the evenest parts are by grain alone.
cv::Mat unevenness(const cv::Mat &grey, int box) {
    constexpr double evenest = 0.07;
    cv::Mat smooth, mean, square;
    cv::GaussianBlur(grey, smooth, {0, 0}, 1.2);
    cv::blur(smooth, mean, {box, box});
    cv::blur(smooth.mul(smooth), square, {box, box});
    cv::Mat spread = square - mean.mul(mean);
    cv::sqrt(cv::max(spread, 0), spread);
    std::vector<float> all(spread.begin<float>(), spread.end<float>());
    const auto even = all.begin() + static_cast<std::ptrdiff_t>(evenest * static_cast<double>(all.size()));
    std::nth_element(all.begin(), even, all.end());
    return spread / std::max(0.5F, *even);
}

// How places are taken together: too little and the dark water parts the panel, too much and what stands
// about the screen joins it. All are tried.
struct Joining {
    int box, opened, closed;
    double beyond; // times what the evenest parts are
    bool inside;   // without what runs to the picture's edge, as what is seen about a screen does
};
constexpr std::array joinings{Joining{17, 31, 25, 2.2, true}, Joining{17, 31, 25, 2.2, false},
                              Joining{11, 23, 1, 2.2, true},  Joining{11, 23, 41, 2.2, true},
                              Joining{11, 23, 1, 1.6, true},  Joining{11, 23, 1, 2.2, false}};

cv::Mat large_parts(const cv::Mat &grey, const Joining &as) {
    constexpr double least_of_picture = 0.015;
    cv::Mat mask = unevenness(grey, as.box) > as.beyond, labels, stats, centres;
    const auto kernel = [](int n) { return cv::getStructuringElement(cv::MORPH_RECT, {n, n}); };
    cv::morphologyEx(mask, mask, cv::MORPH_OPEN, kernel(as.opened));
    cv::morphologyEx(mask, mask, cv::MORPH_CLOSE, kernel(as.closed));
    cv::Mat out = cv::Mat::zeros(mask.size(), CV_8U);
    const int n = cv::connectedComponentsWithStats(mask, labels, stats, centres);
    for (int i = 1; i < n; ++i) {
        const int left = stats.at<int>(i, cv::CC_STAT_LEFT), top = stats.at<int>(i, cv::CC_STAT_TOP);
        const bool to_edge = left == 0 || top == 0 ||
                             left + stats.at<int>(i, cv::CC_STAT_WIDTH) == mask.cols ||
                             top + stats.at<int>(i, cv::CC_STAT_HEIGHT) == mask.rows;
        if (stats.at<int>(i, cv::CC_STAT_AREA) > least_of_picture * static_cast<double>(mask.total()) &&
            !(as.inside && to_edge))
            out.setTo(255, labels == i);
    }
    return out;
}

// The outermost points of the mask on each line across a side.
std::vector<SidePoint> outermost(const cv::Mat &mask, std::size_t side) {
    const bool level = lies_level(side), from_start = side == 0 || side == 3;
    const int lines = level ? mask.cols : mask.rows, n = level ? mask.rows : mask.cols;
    std::vector<SidePoint> out;
    for (int line = 0; line < lines; line += 4)
        for (int i = 0; i < n; ++i) {
            const int at = from_start ? i : n - 1 - i;
            if ((level ? mask.at<std::uint8_t>(at, line) : mask.at<std::uint8_t>(line, at)) != 0) {
                out.push_back({line + 0.5, at + (from_start ? 0.0 : 1.0)});
                break;
            }
        }
    return out;
}

using Sides = std::array<SideLine, sides>;

std::optional<Sides> sides_about(const cv::Mat &mask) {
    constexpr double off_px = 4, borne_out = 0.35;
    Sides out;
    for (std::size_t side = 0; side < sides; ++side) {
        const auto line = line_of_most(outermost(mask, side), off_px, borne_out);
        if (!line)
            return std::nullopt;
        out[side] = *line;
    }
    return out;
}

// How much neighbours differ by grain alone, one sigma: of the evener ones, for sonar is uneven too.
double grain_of(const cv::Mat &grey) {
    cv::Mat d;
    cv::absdiff(grey.colRange(1, grey.cols), grey.colRange(0, grey.cols - 1), d);
    std::vector<float> all(d.begin<float>(), d.end<float>());
    const auto quarter = all.begin() + static_cast<std::ptrdiff_t>(all.size() / 4);
    std::nth_element(all.begin(), quarter, all.end());
    return static_cast<double>(*quarter) / 0.451; // of the difference of two normal values
}

// One side between its corners, on a picture of floating colours: where an even outside gives way.
class SideSearch {
  public:
    SideSearch(const cv::Mat &picture, double grain, std::size_t side, const std::array<Pixel, 4> &corners)
        : picture_(picture), grain_(grain), level_(lies_level(side)),
          inward_(side == 0 || side == 3 ? 1 : -1) {
        const auto &a = corners[side], &b = corners[(side + 1) % sides];
        from_ = level_ ? a.x : a.y;
        to_ = level_ ? b.x : b.y;
    }

    // Anew, within `reach_px` of where it was thought to be.
    std::optional<SideLine> settled(const SideLine &rough, int reach_px) const {
        constexpr Look usual{5, 0.4}, close{2, 0.6};
        constexpr int border = 70, narrow = 8, borders = 2;
        auto line = near(rough, reach_px, usual);
        // Outside may be the room about the screen and a border within: farther in, then.
        for (int i = 0; line && i < borders && even_within(*line, 4, 9); ++i) {
            const auto next = near(moved_in(*line, border + 3), border, usual);
            if (!next)
                break;
            line = next;
        }
        // A border too narrow to be told by that: another straight edge close within.
        if (line && even_within(*line, 3, 5))
            if (const auto next = near(moved_in(*line, narrow + 3), narrow, close))
                line = next;
        return line;
    }

  private:
    struct Look {
        int known;        // pixels that say what is outside
        double borne_out; // share of the points that lie on one line
    };

    SideLine moved_in(SideLine line, int pixels) const {
        line.offset += inward_ * pixels;
        return line;
    }

    std::optional<SideLine> near(const SideLine &rough, int reach_px, const Look &look) const {
        constexpr int lines = 80;
        constexpr double off_px = 1.5, from_corner = 0.04;
        std::vector<SidePoint> points;
        for (int i = 0; i < lines; ++i) {
            const double along = std::lerp(from_, to_, from_corner + (1 - 2 * from_corner) * i / (lines - 1));
            if (const auto across = gives_way(along, rough.at(along), reach_px, look.known))
                points.push_back({along, *across});
        }
        if (points.size() * 2 < lines)
            return std::nullopt;
        return line_of_most(points, off_px, look.borne_out);
    }

    bool on_picture(int x, int y) const { return x >= 0 && y >= 0 && x < picture_.cols && y < picture_.rows; }

    // Colours on a line across the side, from outside, each the mean of five; those off the picture missing.
    std::vector<cv::Vec3f> across(double along, double about, int reach_px) const {
        constexpr int aside = 2;
        std::vector<cv::Vec3f> line;
        for (int k = -reach_px; k <= reach_px; ++k) {
            const double at = about + inward_ * k;
            cv::Vec3f sum(0, 0, 0);
            int n = 0;
            for (int d = -aside; d <= aside; ++d) {
                const int x = static_cast<int>(std::floor(level_ ? along + d : at)),
                          y = static_cast<int>(std::floor(level_ ? at : along + d));
                if (on_picture(x, y)) {
                    sum += picture_.at<cv::Vec3f>(y, x);
                    ++n;
                }
            }
            if (n > 0)
                line.push_back(sum / n);
            else if (!line.empty())
                return {};
        }
        return line;
    }

    // Where what is outside gives way to something else, across.
    std::optional<double> gives_way(double along, double about, int reach_px, int known) const {
        constexpr int lasts = 3;
        constexpr float follows = 0.15F;
        const auto line = across(along, about, reach_px);
        const int count = static_cast<int>(line.size()), missing = 2 * reach_px + 1 - count;
        if (count < std::max(reach_px, known + lasts))
            return std::nullopt;
        const double least = std::max(10.0, 4 * grain_);
        // What lies outside changes slowly: it is followed inward.
        cv::Vec3f outside(0, 0, 0);
        for (int i = 0; i < known; ++i)
            outside += line[static_cast<std::size_t>(i)] / static_cast<float>(known);
        const auto off = [&](int i) { return cv::norm(line[static_cast<std::size_t>(i)] - outside); };
        for (int i = known; i + lasts <= count; ++i) {
            bool gone = true;
            for (int j = 0; j < lasts; ++j)
                gone = gone && off(i + j) > least;
            if (!gone) {
                outside = outside * (1 - follows) + line[static_cast<std::size_t>(i)] * follows;
                continue;
            }
            // Half-way to what it becomes.
            double becomes = 0;
            for (int j = 1; j <= lasts && i + j < count; ++j)
                becomes = std::max(becomes, off(i + j));
            int at = std::max(1, i - lasts);
            while (at < count - 1 && off(at) < becomes / 2)
                ++at;
            const double before = off(at - 1), now = off(at);
            const double share =
                now > before ? std::clamp((becomes / 2 - before) / (now - before), 0.0, 1.0) : 1.0;
            return about + inward_ * (missing - reach_px + at - 1 + share) + 0.5;
        }
        return std::nullopt;
    }

    // Whether what lies so many pixels within is even for most of its length: a border, not the panel.
    bool even_within(const SideLine &line, int first, int last) const {
        constexpr int stretches = 30, samples = 8;
        constexpr double mostly = 0.7, from_corner = 0.05;
        const double most = std::max(2.5, 1.5 * grain_);
        int even = 0;
        for (int s = 0; s < stretches; ++s) {
            double sum = 0, squares = 0, n = 0;
            for (int i = 0; i < samples; ++i)
                for (int k = first; k < last; ++k) {
                    const double share = (s + (i + 0.5) / samples) / stretches,
                                 along = std::lerp(from_, to_, from_corner + (1 - 2 * from_corner) * share),
                                 at = line.at(along) + inward_ * k;
                    const int x = static_cast<int>(level_ ? along : at),
                              y = static_cast<int>(level_ ? at : along);
                    if (!on_picture(x, y))
                        continue;
                    const auto &p = picture_.at<cv::Vec3f>(y, x);
                    const double v = static_cast<double>(p[0] + p[1] + p[2]) / 3;
                    sum += v;
                    squares += v * v;
                    ++n;
                }
            even += n > 0 && std::sqrt(std::max(0.0, squares / n - sum / n * sum / n)) < most;
        }
        return even >= mostly * stretches;
    }

    const cv::Mat &picture_;
    double grain_;
    bool level_;
    double inward_, from_ = 0, to_ = 0;
};

std::optional<Sides> settled(const cv::Mat &picture, Sides now, double grain) {
    constexpr std::array reaches{28, 12};
    for (const int reach_px : reaches) {
        const auto corners = corners_of(now);
        for (std::size_t side = 0; side < sides; ++side) {
            const auto line = SideSearch(picture, grain, side, corners).settled(now[side], reach_px);
            if (!line)
                return std::nullopt;
            now[side] = *line;
        }
    }
    return now;
}

double area_within(const std::array<Pixel, 4> &corners) {
    double twice = 0;
    for (std::size_t i = 0; i < corners.size(); ++i) {
        const auto &a = corners[i], &b = corners[(i + 1) % corners.size()];
        twice += a.x * b.y - a.y * b.x;
    }
    return twice / 2;
}

// Whether it could be a panel: large enough, on the picture, and not what is seen all about a screen.
bool may_be_panel(const std::array<Pixel, 4> &corners, const ScreenPicture &picture) {
    constexpr double least_share = 0.06, at_edge = 0.03, beyond = 0.005;
    const double w = picture.width, h = picture.height;
    const auto lies_off = [&](const Pixel &p) {
        return p.x < -beyond * w || p.y < -beyond * h || p.x > w + beyond * w || p.y > h + beyond * h;
    };
    if (area_within(corners) < least_share * w * h || std::any_of(corners.begin(), corners.end(), lies_off))
        return false;
    const auto &k = corners;
    const int at_edges = (std::max(k[0].y, k[1].y) < at_edge * h) + (std::max(k[0].x, k[3].x) < at_edge * w) +
                         (std::min(k[2].y, k[3].y) > h - at_edge * h) +
                         (std::min(k[1].x, k[2].x) > w - at_edge * w);
    return at_edges <= 2;
}

// How alike both sides of some line are: −1…1.
double likeness(const ScreenPicture &picture, const std::array<Pixel, 4> &corners) {
    constexpr PanelSize size{400, 300};
    ScreenCalibration c;
    c.width = picture.width;
    c.height = picture.height;
    c.corners = corners;
    const auto upright = upright_panel(picture, c, size);
    return std::max(guess_middle(upright, true).symmetry, guess_middle(upright, false).symmetry);
}

} // namespace

std::optional<std::array<Pixel, 4>> panel_on_photograph(const ScreenPicture &picture) {
    constexpr int working_width = 1000, least_width = 200, least_height = 150;
    constexpr double least_alike = 0.7, for_its_size = 0.2;
    if (picture.width < least_width || picture.height < least_height)
        return std::nullopt;
    const cv::Mat whole(picture.height, picture.width, CV_8UC3, const_cast<Rgb *>(picture.pixels.data()));
    const double scale =
        std::min(1.0, static_cast<double>(working_width) / std::max(picture.width, picture.height));
    cv::Mat small, grey, colours;
    cv::resize(whole, small, {}, scale, scale, cv::INTER_AREA);
    small.convertTo(colours, CV_32F);
    cv::cvtColor(colours, grey, cv::COLOR_RGB2GRAY);
    const double grain = grain_of(grey);
    std::optional<std::array<Pixel, 4>> best;
    double most_worth = 0;
    for (const auto &as : joinings) {
        const auto rough = sides_about(large_parts(grey, as));
        const auto lines = rough ? settled(colours, *rough, grain) : rough;
        if (!lines)
            continue;
        auto corners = corners_of(*lines);
        for (auto &p : corners)
            p = {p.x / scale, p.y / scale};
        if (!may_be_panel(corners, picture))
            continue;
        // A panel is alike on both sides of the boat's line, and half of one may be too: the larger then.
        const double alike = likeness(picture, corners),
                     worth = alike * std::pow(area_within(corners), for_its_size);
        if (alike > least_alike && worth > most_worth) {
            most_worth = worth;
            best = corners;
        }
    }
    return best;
}

} // namespace heron
