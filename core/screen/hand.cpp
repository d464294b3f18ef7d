#include "screen/hand.hpp"

#include "screen/circle.hpp"
#include "sonar/peak.hpp"

#include <algorithm>
#include <cmath>
#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>
#include <random>
#include <span>

namespace heron {
namespace {

constexpr int widest = 800; // pixels of the picture that marks are looked for on
constexpr int half = 10;    // of a mark's patch
constexpr int most_marks = 40, least_marks = 5;
constexpr int reach = 10, far_reach = 30; // from where a mark should be; the second after it was lost
constexpr double mark_alike = 0.7, within_px = 1.2;

struct Pair {
    cv::Point2d from, to; // on the first picture and on this one, small pixels
};

// Scale, turn and shift: x' = a·x − b·y + c, y' = b·x + a·y + d.
struct Similarity {
    double a = 1, b = 0, c = 0, d = 0;
    cv::Point2d operator()(cv::Point2d p) const { return {a * p.x - b * p.y + c, b * p.x + a * p.y + d}; }
};

Similarity similarity_of(const Pair &p, const Pair &q) {
    const auto from = q.from - p.from, to = q.to - p.to;
    const double square = std::max(1e-9, from.ddot(from));
    Similarity s;
    s.a = from.ddot(to) / square;
    s.b = (from.x * to.y - from.y * to.x) / square;
    s.c = p.to.x - s.a * p.from.x + s.b * p.from.y;
    s.d = p.to.y - s.b * p.from.x - s.a * p.from.y;
    return s;
}

std::vector<Pair> agreeing(std::span<const Pair> all) {
    std::vector<Pair> most;
    std::mt19937 random(1);
    std::uniform_int_distribution<std::size_t> any(0, all.size() - 1);
    constexpr int samples = 80;
    constexpr double far_apart = 40;
    for (int i = 0; i < samples; ++i) {
        const auto &p = all[any(random)], &q = all[any(random)];
        if (cv::norm(p.from - q.from) < far_apart)
            continue;
        const auto s = similarity_of(p, q);
        std::vector<Pair> agree;
        std::copy_if(all.begin(), all.end(), std::back_inserter(agree),
                     [&](const Pair &r) { return cv::norm(s(r.from) - r.to) < 2 * within_px; });
        if (agree.size() > most.size())
            most = std::move(agree);
    }
    return most;
}

// Least squares over all of them: a projective map where they stand about the panel on all sides, else scale,
// turn and shift.
Homography map_of(const std::vector<Pair> &pairs, bool projective) {
    const int n = static_cast<int>(pairs.size()), unknown = projective ? 8 : 4;
    cv::Mat a = cv::Mat::zeros(2 * n, unknown, CV_64F), b(2 * n, 1, CV_64F), x;
    for (int i = 0; i < n; ++i) {
        const auto &[p, q] = pairs[static_cast<std::size_t>(i)];
        const double eight[2][8] = {{p.x, p.y, 1, 0, 0, 0, -q.x * p.x, -q.x * p.y},
                                    {0, 0, 0, p.x, p.y, 1, -q.y * p.x, -q.y * p.y}},
                     four[2][4] = {{p.x, -p.y, 1, 0}, {p.y, p.x, 0, 1}};
        for (int r = 0; r < 2; ++r) {
            for (int k = 0; k < unknown; ++k)
                a.at<double>(2 * i + r, k) = projective ? eight[r][k] : four[r][k];
            b.at<double>(2 * i + r) = r == 0 ? q.x : q.y;
        }
    }
    cv::solve(a, b, x, cv::DECOMP_SVD);
    const auto v = [&](int k) { return x.at<double>(k); };
    if (projective)
        return {v(0), v(1), v(2), v(3), v(4), v(5), v(6), v(7), 1};
    return {v(0), -v(1), v(2), v(1), v(0), v(3), 0, 0, 1};
}

} // namespace

struct HandFollower::State {
    explicit State(ScreenCalibration c) : calibration(std::move(c)) {}
    ScreenCalibration calibration;
    struct Mark {
        cv::Point2d at; // on the first picture, small pixels
        cv::Mat patch;
    };
    std::vector<Mark> marks;
    cv::Size size;
    double of_full = 1;                         // a small pixel, in the calibration's
    Homography last{1, 0, 0, 0, 1, 0, 0, 0, 1}; // between small pixels
    bool lost = false, began = false;

    cv::Mat small_of(const ScreenPicture &p) const {
        cv::Mat grey, small;
        cv::cvtColor(cv::Mat(p.height, p.width, CV_8UC3, const_cast<Rgb *>(p.pixels.data())), grey,
                     cv::COLOR_RGB2GRAY);
        cv::resize(grey, small, size, 0, 0, cv::INTER_AREA);
        return small;
    }

    void begin(const ScreenPicture &picture) {
        began = true;
        const double by = std::min(1.0, static_cast<double>(widest) / calibration.width);
        of_full = 1 / by;
        size = {static_cast<int>(std::lround(calibration.width * by)),
                static_cast<int>(std::lround(calibration.height * by))};
        const auto small = small_of(picture);
        // The panel itself scrolls: nothing is taken there.
        cv::Mat about(size, CV_8U, cv::Scalar(0));
        cv::rectangle(about, {half + 1, half + 1, size.width - 2 * half - 2, size.height - 2 * half - 2},
                      cv::Scalar(255), cv::FILLED);
        std::vector<cv::Point> panel;
        const auto outline = [&](Pixel p) {
            panel.emplace_back(static_cast<int>(p.x * by), static_cast<int>(p.y * by));
        };
        if (calibration.circle_bow_deg)
            for (int deg = 0; deg < 360; deg += 5)
                outline(on_circle(calibration, deg, calibration.range_m));
        else
            std::for_each(calibration.corners.begin(), calibration.corners.end(), outline);
        constexpr int margin = 5;
        cv::fillConvexPoly(about, panel, cv::Scalar(0));
        cv::polylines(about, panel, true, cv::Scalar(0), 2 * margin);
        std::vector<cv::Point2f> corners;
        cv::goodFeaturesToTrack(small, corners, most_marks, 0.01, 1.5 * half, about);
        for (const auto &p : corners) {
            const cv::Rect box(static_cast<int>(p.x) - half, static_cast<int>(p.y) - half, 2 * half + 1,
                               2 * half + 1);
            marks.push_back({cv::Point2d(box.x + half, box.y + half), small(box).clone()});
        }
    }

    cv::Point2d expected(cv::Point2d p) const {
        const auto q = mapped(last, {p.x, p.y});
        return {q.x, q.y};
    }

    std::optional<Pair> found_again(const cv::Mat &small, const Mark &mark) const {
        const auto about = expected(mark.at);
        const int far = lost ? far_reach : reach;
        const cv::Rect window(static_cast<int>(std::lround(about.x)) - half - far,
                              static_cast<int>(std::lround(about.y)) - half - far, 2 * (half + far) + 1,
                              2 * (half + far) + 1);
        if ((window & cv::Rect({}, small.size())) != window)
            return std::nullopt;
        cv::Mat alike;
        cv::matchTemplate(small(window), mark.patch, alike, cv::TM_CCOEFF_NORMED);
        double most = 0;
        cv::Point at;
        cv::minMaxLoc(alike, nullptr, &most, nullptr, &at);
        if (most < mark_alike || at.x < 1 || at.y < 1 || at.x > alike.cols - 2 || at.y > alike.rows - 2)
            return std::nullopt;
        const auto score = [&alike](int y, int x) { return static_cast<double>(alike.at<float>(y, x)); };
        const double dx = peak_between(score(at.y, at.x - 1), most, score(at.y, at.x + 1)),
                     dy = peak_between(score(at.y - 1, at.x), most, score(at.y + 1, at.x));
        return Pair{mark.at, cv::Point2d(window.x + half + at.x + dx, window.y + half + at.y + dy)};
    }

    // Whether they stand on all sides of the panel: only then do they tell how it is tilted.
    bool all_about(const std::vector<Pair> &pairs) const {
        cv::Point2d middle;
        for (const auto &c : calibration.corners)
            middle += cv::Point2d(c.x, c.y) / (4 * of_full);
        std::array<int, 4> in_quarter{};
        for (const auto &p : pairs)
            ++in_quarter[(p.from.x > middle.x ? 1u : 0u) + (p.from.y > middle.y ? 2u : 0u)];
        constexpr int enough = 3;
        return std::all_of(in_quarter.begin(), in_quarter.end(), [](int n) { return n >= enough; });
    }

    // From small pixels to the calibration's: middles of pixels fall on middles.
    Homography full(const Homography &h) const {
        const double s = of_full, o = 0.5 * s; // full = s·small + o, of pixels counted from their edge
        const cv::Mat up = (cv::Mat_<double>(3, 3) << s, 0, o, 0, s, o, 0, 0, 1),
                      m = up * cv::Mat(3, 3, CV_64F, const_cast<double *>(h.data())) * up.inv();
        Homography out{};
        for (int k = 0; k < 9; ++k)
            out[static_cast<std::size_t>(k)] = m.at<double>(k) / m.at<double>(8);
        return out;
    }
};

HandFollower::HandFollower(const ScreenCalibration &calibration)
    : state_(std::make_unique<State>(calibration)) {}
HandFollower::~HandFollower() = default;

std::optional<Homography> HandFollower::next(const ScreenPicture &picture) {
    auto &s = *state_;
    if (!s.began) {
        s.begin(picture);
        return s.last;
    }
    const auto small = s.small_of(picture);
    std::vector<Pair> pairs;
    for (const auto &mark : s.marks)
        if (const auto pair = s.found_again(small, mark))
            pairs.push_back(*pair);
    const auto agree = pairs.size() >= least_marks ? agreeing(pairs) : std::vector<Pair>();
    s.lost = agree.size() < least_marks || agree.size() * 2 < pairs.size();
    if (s.lost)
        return std::nullopt;
    s.last = map_of(agree, s.all_about(agree));
    return s.full(s.last);
}

ScreenCalibration moved(ScreenCalibration calibration, const Homography &onto) {
    for (auto &c : calibration.corners)
        c = mapped(onto, c);
    return calibration;
}

ScreenPicture brought_back(const ScreenPicture &picture, const ScreenCalibration &c, const Homography &onto) {
    ScreenPicture out;
    out.width = c.width;
    out.height = c.height;
    out.pixels.resize(static_cast<std::size_t>(c.width) * static_cast<std::size_t>(c.height));
    cv::Mat to(out.height, out.width, CV_8UC3, out.pixels.data());
    // From this picture's pixels to the calibration's, and between the middles of pixels.
    const double sx = static_cast<double>(picture.width) / c.width,
                 sy = static_cast<double>(picture.height) / c.height;
    const cv::Mat between = (cv::Mat_<double>(3, 3) << sx, 0, -0.5, 0, sy, -0.5, 0, 0, 1) *
                            cv::Mat(3, 3, CV_64F, const_cast<double *>(onto.data())) *
                            (cv::Mat_<double>(3, 3) << 1, 0, 0.5, 0, 1, 0.5, 0, 0, 1);
    cv::warpPerspective(
        cv::Mat(picture.height, picture.width, CV_8UC3, const_cast<Rgb *>(picture.pixels.data())), to,
        between, to.size(), cv::INTER_LINEAR | cv::WARP_INVERSE_MAP, cv::BORDER_REPLICATE);
    return out;
}

} // namespace heron
