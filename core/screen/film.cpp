#include "screen/film.hpp"

#include "screen/circle_film.hpp"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <opencv2/videoio.hpp>

namespace heron {
namespace {

constexpr std::size_t most_warnings = 40;
constexpr double still_told_s = 3;

cv::Mat grey_of(const ScreenPicture &f) {
    cv::Mat grey;
    cv::cvtColor(cv::Mat(f.height, f.width, CV_8UC3, const_cast<Rgb *>(f.pixels.data())), grey,
                 cv::COLOR_RGB2GRAY);
    return grey;
}

Result<void> open_film(const std::filesystem::path &film, cv::VideoCapture &in) {
    const auto name = film.filename().string();
    if (!std::filesystem::exists(film))
        return fail(told("{} is no file", name), told("nothing was written"),
                    told("name a film or a device"));
    try {
        in.open(film.string(), std::filesystem::is_character_file(film) ? cv::CAP_V4L2 : cv::CAP_FFMPEG);
    } catch (const cv::Exception &) {
        // told below
    }
    if (!in.isOpened())
        return fail(told("{} is no film that can be read", name), told("nothing was written"),
                    told("it may hold sound only, or be cut short"));
    const double width = in.get(cv::CAP_PROP_FRAME_WIDTH), height = in.get(cv::CAP_PROP_FRAME_HEIGHT);
    constexpr double most_film_pixels = 4096.0 * 2304;
    if (!(width >= 64 && height >= 64 && width * height <= most_film_pixels))
        return fail(told("{} is {:.0f} by {:.0f} pixels", name, width, height), told("nothing was written"),
                    told("films of 64 by 64 to 4096 by 2304 are read"));
    return {};
}

ScreenPicture picture_of(const cv::Mat &bgr) {
    ScreenPicture picture;
    picture.width = bgr.cols;
    picture.height = bgr.rows;
    picture.pixels.resize(bgr.total());
    cv::Mat rgb(bgr.rows, bgr.cols, CV_8UC3, picture.pixels.data());
    cv::cvtColor(bgr, rgb, cv::COLOR_BGR2RGB);
    return picture;
}

} // namespace

struct FilmTaker::About {
    cv::Mat seen;
};
FilmTaker::FilmTaker(ScreenCalibration calibration, Take take)
    : calibration_(std::move(calibration)), take_(std::move(take)), about_(std::make_unique<About>()) {}
FilmTaker::~FilmTaker() = default;

void FilmTaker::tell(const std::string &what, double seconds) {
    if (facts_.warnings.size() < most_warnings)
        facts_.warnings.push_back(
            told("at {}:{:04.1f}: {}", static_cast<int>(seconds / 60), std::fmod(seconds, 60), what));
    else if (facts_.warnings.size() == most_warnings)
        facts_.warnings.push_back(told("and more of that kind"));
}

// By how far the screen's frame, all about the panel, lies elsewhere than on the first picture.
Pixel FilmTaker::wandered(const ScreenPicture &picture) {
    constexpr int by = 2; // of half the size
    cv::Mat small, now;
    cv::resize(grey_of(picture), small, {picture.width / by, picture.height / by}, 0, 0, cv::INTER_AREA);
    // The panel itself scrolls: it is left out.
    std::vector<cv::Point> inside;
    const double sx = static_cast<double>(picture.width) / calibration_.width / by,
                 sy = static_cast<double>(picture.height) / calibration_.height / by;
    for (const auto &c : calibration_.corners)
        inside.emplace_back(static_cast<int>(c.x * sx), static_cast<int>(c.y * sy));
    small.convertTo(now, CV_32F);
    const double usual = cv::mean(now)[0];
    cv::fillConvexPoly(now, inside, cv::Scalar(usual));
    if (about_->seen.size() != now.size()) {
        about_->seen = now;
        return {};
    }
    double response = 0;
    const auto moved = cv::phaseCorrelate(about_->seen, now, cv::noArray(), &response);
    constexpr double sure = 0.1, farthest = 60;
    if (response < sure || std::hypot(moved.x, moved.y) > farthest)
        return shift_;
    return {moved.x / sx, moved.y / sy};
}

void FilmTaker::add(const ScreenPicture &picture, double seconds, bool follow) {
    if (follow)
        shift_ = wandered(picture);
    const auto panel = straighten(picture, calibration_, shift_);
    if (!level_) {
        ramp_ = calibration_.ramp.empty() ? estimate_ramp(panel) : ramp_of(calibration_.ramp);
        level_ = std::make_unique<LevelOfColour>(ramp_);
        if (!ramp_.rises)
            tell(told("the colours do not grow lighter all the way: levels are guessed"), seconds);
    }
    const auto levels_of = [&](int row, const std::vector<bool> &shown) {
        LevelRow levels(static_cast<std::size_t>(panel.columns));
        for (int k = 0; k < panel.columns; ++k)
            levels[static_cast<std::size_t>(k)] =
                shown[static_cast<std::size_t>(k * ScrollFollower::strips / panel.columns)]
                    ? static_cast<int>((*level_)(panel.at(row, k)))
                    : -1;
        return levels;
    };
    const auto s = follower_.next(panel);
    ++facts_.pictures;
    const double before_s = last_s_;
    facts_.seconds = seconds;
    last_s_ = seconds;
    switch (s.state) {
    case ScrollState::first:
        return;
    case ScrollState::still:
        if (!was_still_)
            still_since_s_ = before_s;
        was_still_ = true;
        return;
    case ScrollState::jumped:
        tell(told("nothing of the picture before is found again: the view, its range or its colours have "
                  "changed, or "
                  "some time is missing"),
             seconds);
        was_still_ = false;
        return;
    case ScrollState::covered:
        if (!was_covered_)
            tell(told("a part of the panel lies under something: nothing is taken there"), seconds);
        was_covered_ = true;
        break;
    case ScrollState::scrolled:
        was_covered_ = false;
        break;
    }
    if (was_still_ && before_s - still_since_s_ > still_told_s)
        tell(told("the picture stood still for {:.0f} s", before_s - still_since_s_), before_s);
    const double from = was_still_ && before_s - still_since_s_ < 1 ? still_since_s_ : before_s;
    was_still_ = false;
    for (int i = 0; i < s.rows; ++i)
        take_(levels_of(panel.rows - s.rows + i, s.shown), from + (seconds - from) * (i + 1) / s.rows);
    facts_.rows += static_cast<std::size_t>(s.rows);
    facts_.most_scroll = std::max(facts_.most_scroll, static_cast<double>(s.rows));
    facts_.rows_a_second = seconds > 0 ? static_cast<double>(facts_.rows) / seconds : 0;
}

Result<ScreenPicture> first_picture(const std::filesystem::path &film) {
    cv::VideoCapture in;
    if (auto opened = open_film(film, in); !opened)
        return tl::unexpected(opened.error());
    try {
        cv::Mat bgr;
        if (in.read(bgr) && bgr.type() == CV_8UC3)
            return picture_of(bgr);
    } catch (const cv::Exception &) {
        // told below
    }
    return fail(told("{} holds no picture", film.filename().string()), told("nothing was read"));
}

Result<FilmFacts> record_film(const std::filesystem::path &film, const FilmOptions &options,
                              const std::filesystem::path &recording,
                              const std::function<bool(double share)> &progress) {
    const auto name = film.filename().string();
    cv::VideoCapture in;
    if (auto opened = open_film(film, in); !opened)
        return tl::unexpected(opened.error());
    const double width = in.get(cv::CAP_PROP_FRAME_WIDTH), height = in.get(cv::CAP_PROP_FRAME_HEIGHT);
    const double pictures = in.get(cv::CAP_PROP_FRAME_COUNT), rate = in.get(cv::CAP_PROP_FPS);
    const double usual_s = rate > 1 && rate < 500 ? 1 / rate : 1.0 / 30;
    // Rows wait until it is known when the last one came: the head stands before all pings.
    struct Taken {
        LevelRow levels;
        double at_s = 0;
        int ray = 0; ///< of a circle
    };
    std::vector<Taken> rows;
    constexpr std::size_t most_rows = 400'000;
    constexpr std::size_t most_bytes = 1500u << 20;
    std::size_t bytes = 0;
    bool full = false;
    const auto keep = [&](const LevelRow &row, double s, int ray) {
        bytes += row.size() * sizeof(int);
        full = full || rows.size() >= most_rows || bytes > most_bytes;
        if (!full)
            rows.push_back({row, s, ray});
    };
    const bool circle = options.calibration.circle_bow_deg.has_value();
    FilmTaker taker(options.calibration, [&](const LevelRow &row, double s) { keep(row, s, 0); });
    CircleTaker turns(options.calibration,
                      [&](int ray, const LevelRow &row, double s) { keep(row, s, ray); });
    FilmFacts facts;
    std::vector<std::string> more;
    cv::Mat bgr;
    ScreenPicture frame;
    double last = -1, first = -1;
    try {
        for (std::size_t i = 0; in.read(bgr) && !full; ++i) {
            if (bgr.type() != CV_8UC3 || bgr.cols != static_cast<int>(width) ||
                bgr.rows != static_cast<int>(height)) {
                more.push_back(told("the film changes its size: the rest was not read"));
                break;
            }
            // The film's own time; where it stands or goes back the usual step.
            double at = in.get(cv::CAP_PROP_POS_MSEC) / 1000;
            if (first < 0)
                first = std::isfinite(at) ? at : 0;
            at -= first;
            if (!std::isfinite(at) || at <= last || at > last + 3600)
                at = last < 0 ? 0 : last + usual_s;
            last = at;
            if (at > options.most_seconds)
                break;
            frame.width = bgr.cols;
            frame.height = bgr.rows;
            frame.pixels.resize(bgr.total());
            cv::Mat rgb(bgr.rows, bgr.cols, CV_8UC3, frame.pixels.data());
            cv::cvtColor(bgr, rgb, cv::COLOR_BGR2RGB);
            if (circle)
                turns.add(frame, at);
            else
                taker.add(frame, at, options.follow);
            if (progress && i % 16 == 0 &&
                !progress(pictures > 0 ? std::min(1.0, static_cast<double>(i) / pictures) : 0))
                return fail(told("stopped"), told("nothing was written"));
        }
    } catch (const cv::Exception &) {
        more.push_back(told("the film broke off: what came before was kept"));
    }
    facts = circle ? turns.facts() : taker.facts();
    if (full)
        more.push_back(told("the film is longer than can be taken at once: the rest was not read"));
    facts.warnings.insert(facts.warnings.end(), more.begin(), more.end());
    if (facts.pictures < 2)
        return fail(told("{} holds no moving picture", name), told("nothing was written"));
    if (rows.size() < 24)
        return fail(circle ? told("hardly anything is swept anew in {}: {} rays", name, rows.size())
                           : told("the panel hardly scrolls in {}: {} rows came new", name, rows.size()),
                    told("nothing was written"),
                    told("see whether the panel's corners and the newest edge are right"));
    auto c = options.calibration;
    const double seconds = rows.back().at_s - rows.front().at_s;
    if (c.rows_a_second <= 0 && seconds > 0)
        c.rows_a_second = static_cast<double>(rows.size() - 1) / seconds;
    const auto time = [&](double s) {
        return options.start + static_cast<UnixNs>(s * static_cast<double>(ns_per_s));
    };
    auto writer =
        RecordingWriter::create(recording, head_of(c, time(rows.front().at_s), time(rows.back().at_s), name));
    if (!writer)
        return tl::unexpected(writer.error());
    UnixNs before = 0;
    for (const auto &[row, s, ray] : rows) {
        const auto at = std::max(time(s), before + 1'000'000);
        auto ping = circle ? ray_of(row, c, ray, at) : ping_of(row, c, at);
        before = ping.time;
        if (ping.beams.empty())
            return fail(told("neither side of the middle is as wide as 24 pixels"),
                        told("nothing was written"));
        if (auto added = writer->add(ping); !added)
            return tl::unexpected(added.error());
    }
    if (auto done = writer->finish(); !done)
        return tl::unexpected(done.error());
    return facts;
}

} // namespace heron
