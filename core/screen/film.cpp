#include "screen/film.hpp"

#include "screen/circle_film.hpp"
#include "screen/hand.hpp"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <opencv2/videoio.hpp>

namespace heron {
namespace {

constexpr double still_told_s = 3;

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

FilmTaker::FilmTaker(ScreenCalibration calibration, Take take)
    : calibration_(std::move(calibration)), take_(std::move(take)) {}

void FilmTaker::tell(const std::string &what, double seconds) {
    if (facts_.warnings.size() < most_film_warnings)
        facts_.warnings.push_back(
            told("at {}:{:04.1f}: {}", static_cast<int>(seconds / 60), std::fmod(seconds, 60), what));
    else if (facts_.warnings.size() == most_film_warnings)
        facts_.warnings.push_back(told("and more of that kind"));
}

void FilmTaker::add(const ScreenPicture &picture, double seconds, const std::optional<Homography> &onto) {
    panel_ = straighten(picture, onto ? moved(calibration_, *onto) : calibration_, panel_size(calibration_),
                        std::move(panel_));
    const auto &panel = panel_;
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

namespace {

// What is read of the figures on a film, once a second.
class ScreenFigures {
  public:
    explicit ScreenFigures(FigureReader reader) : reader_(std::move(reader)) {}
    bool due(double seconds) const { return seconds >= next_s_; }
    /// A range where one is told; all else goes to `tell`.
    std::optional<double> look(const ScreenPicture &picture, double seconds,
                               const std::function<void(double, const Figure &)> &tell) {
        constexpr double every_s = 1;
        next_s_ = seconds + every_s - 1e-3;
        std::optional<double> range;
        for (const auto &f : reader_.read(picture, seconds)) {
            ++told_[static_cast<std::size_t>(f.of)];
            if (f.of == FigureBox::Of::range)
                range = f.value;
            else if (tell)
                tell(seconds, f);
        }
        return range;
    }
    const std::array<std::size_t, 5> &told() const { return told_; }

  private:
    FigureReader reader_;
    double next_s_ = -1;
    std::array<std::size_t, 5> told_{};
};

// What stood on the screen as a sounder and a receiver would have told it.
void add_figure(NavSamples &out, UnixNs at, const Figure &f) {
    constexpr double screen_place_sd_m = 3;
    switch (f.of) {
    case FigureBox::Of::depth:
        out.depths.push_back({at, f.value, {}});
        break;
    case FigureBox::Of::speed:
        out.speeds.push_back({at, f.value});
        break;
    case FigureBox::Of::heading: {
        AttitudeSample a;
        a.time = at;
        a.heading_deg = wrap_360(f.value);
        out.attitudes.push_back(a);
        break;
    }
    case FigureBox::Of::position: {
        PositionSample p;
        p.time = at;
        p.place = *f.place;
        p.sd_m = screen_place_sd_m;
        out.positions.push_back(p);
        break;
    }
    case FigureBox::Of::range:
        break;
    }
}

// A little more than the film on either side, so that its ends lie between samples.
NavSamples samples_within(const NavTrack &track, UnixNs begin, UnixNs end) {
    constexpr UnixNs more = 10 * ns_per_s;
    NavSamples out;
    const auto take = [&](const auto &all, auto &some) {
        for (const auto &sample : all)
            if (sample.time >= begin - more && sample.time <= end + more)
                some.push_back(sample);
    };
    take(track.positions(), out.positions);
    take(track.attitudes(), out.attitudes);
    take(track.depths(), out.depths);
    take(track.speeds(), out.speeds);
    return out;
}

// What was heard and what was read stand in place of what the calibration assumed, each sort for itself;
// where both told one, what was heard.
void put_in(RecordingHead &head, const NavSamples &heard, const NavSamples &read) {
    const NavTrack assumed = std::exchange(head.nav, NavTrack());
    NavSamples all;
    const auto choose = [](const auto &first, const auto &second, const auto &otherwise) {
        return !first.empty() ? first : !second.empty() ? second : otherwise;
    };
    const bool placed = !heard.positions.empty() || !read.positions.empty();
    all.positions = choose(heard.positions, read.positions, assumed.positions());
    // A heading that was assumed with a place goes with it.
    all.attitudes =
        choose(heard.attitudes, read.attitudes, placed ? std::vector<AttitudeSample>() : assumed.attitudes());
    all.depths = choose(heard.depths, read.depths, assumed.depths());
    all.speeds = choose(heard.speeds, read.speeds, assumed.speeds());
    head.nav.add(all);
    write_down_depths_and_speeds(head);
    head.summary += placed ? told(" Places are those of a receiver or of the screen's own figures.")
                           : told(" Figures were read from the screen.");
}

} // namespace

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

Result<std::vector<ScreenPicture>> first_pictures(const std::filesystem::path &film, double seconds) {
    cv::VideoCapture in;
    if (auto opened = open_film(film, in); !opened)
        return tl::unexpected(opened.error());
    constexpr double apart_s = 0.1, most_bytes = 128e6;
    constexpr std::size_t most = 20;
    const double rate = in.get(cv::CAP_PROP_FPS), a_second = rate > 1 && rate < 500 ? rate : 30;
    const auto every = static_cast<int>(std::max(1.0, std::round(apart_s * a_second)));
    const auto pictures = static_cast<int>(seconds * a_second);
    std::vector<ScreenPicture> out;
    double bytes = 0;
    try {
        cv::Mat bgr;
        for (int n = 0; n < pictures && out.size() < most && bytes < most_bytes && in.grab(); ++n) {
            if (n % every != 0 || !in.retrieve(bgr) || bgr.type() != CV_8UC3)
                continue;
            bytes += 3.0 * static_cast<double>(bgr.total());
            out.push_back(picture_of(bgr));
        }
    } catch (const cv::Exception &) {
        // what came before it stands
    }
    return out;
}

Result<FilmFacts> look_through(const std::filesystem::path &film, const FilmOptions &options,
                               const FilmWatch &watch) {
    const auto name = film.filename().string();
    cv::VideoCapture in;
    if (auto opened = open_film(film, in); !opened)
        return tl::unexpected(opened.error());
    const double width = in.get(cv::CAP_PROP_FRAME_WIDTH), height = in.get(cv::CAP_PROP_FRAME_HEIGHT);
    const double pictures = in.get(cv::CAP_PROP_FRAME_COUNT), rate = in.get(cv::CAP_PROP_FPS);
    const bool device = std::filesystem::is_character_file(film);
    const auto began = std::chrono::steady_clock::now();
    const auto seconds_since = [](std::chrono::steady_clock::time_point t) {
        return std::chrono::duration<double>(std::chrono::steady_clock::now() - t).count();
    };
    const double usual_s = rate > 1 && rate < 500 ? 1 / rate : 1.0 / 30;
    bool full = false;
    double range_m = options.calibration.range_m;
    const auto take = [&](const LevelRow &row, double s, int ray) {
        full = full || !watch.row({row, s, ray, range_m});
    };
    const bool circle = options.calibration.circle_bow_deg.has_value();
    std::optional<ScreenFigures> figures;
    if (!options.calibration.figures.empty()) {
        auto reader = FigureReader::create(options.calibration.figures);
        if (!reader)
            return tl::unexpected(reader.error());
        figures.emplace(std::move(*reader));
    }
    FilmTaker taker(options.calibration, [&](const LevelRow &row, double s) { take(row, s, 0); });
    CircleTaker turns(options.calibration,
                      [&](int ray, const LevelRow &row, double s) { take(row, s, ray); });
    std::vector<std::string> more;
    HandFollower hand(options.calibration);
    std::optional<Homography> onto;
    std::size_t out_of_hand = 0; // pictures on which the screen was not found again
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
            double at = device ? seconds_since(began) : in.get(cv::CAP_PROP_POS_MSEC) / 1000;
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
            if (options.follow) {
                // Where it is not found again it is where it was.
                if (const auto now = hand.next(frame))
                    onto = now;
                else
                    ++out_of_hand;
            }
            if (figures && figures->due(at))
                if (const auto range = figures->look(
                        onto ? brought_back(frame, options.calibration, *onto) : frame, at, watch.figure);
                    range && std::fabs(*range / range_m - 1) > 0.01) {
                    more.push_back(told(
                        "at {:.1f} s the screen tells a range of {:.1f} m in place of {:.1f} m: taken from "
                        "there on",
                        at, *range, range_m));
                    range_m = *range;
                }
            if (circle)
                turns.add(frame, at, onto);
            else
                taker.add(frame, at, onto);
            if (options.enough && options.enough()) {
                if (!device)
                    more.push_back(told("stopped: what came before was kept"));
                break;
            }
            if (watch.go_on &&
                !watch.go_on(at, pictures > 0 ? std::min(1.0, static_cast<double>(i) / pictures) : 0))
                return fail(told("stopped"), told("nothing was written"));
        }
    } catch (const cv::Exception &) {
        more.push_back(told("the film broke off: what came before was kept"));
    }
    auto facts = circle ? turns.facts() : taker.facts();
    if (out_of_hand > 0)
        more.push_back(
            told("on {} of {} pictures the screen was not found again by what stands about its panel: "
                 "taken where it was before",
                 out_of_hand, facts.pictures));
    if (full)
        more.push_back(told("the film is longer than can be taken at once: the rest was not read"));
    facts.warnings.insert(facts.warnings.end(), more.begin(), more.end());
    if (figures)
        facts.figures = figures->told();
    if (facts.pictures < 2)
        return fail(told("{} holds no moving picture", name), told("nothing was written"));
    return facts;
}

Result<FilmFacts> record_film(const std::filesystem::path &film, const FilmOptions &options,
                              const std::filesystem::path &recording,
                              const std::function<bool(double share)> &progress) {
    const auto name = film.filename().string();
    const bool circle = options.calibration.circle_bow_deg.has_value();
    const auto time = [&](double s) {
        return options.start + static_cast<UnixNs>(s * static_cast<double>(ns_per_s));
    };
    // Rows wait until it is known when the last one came: the head stands before all pings.
    std::vector<FilmRow> rows;
    constexpr std::size_t most_rows = 400'000;
    constexpr std::size_t most_bytes = 1500u << 20;
    std::size_t bytes = 0, pictures = 0;
    NavSamples read;
    FilmWatch watch;
    watch.row = [&](FilmRow row) {
        bytes += row.levels.size() * sizeof(int);
        if (rows.size() >= most_rows || bytes > most_bytes)
            return false;
        rows.push_back(std::move(row));
        return true;
    };
    watch.figure = [&](double s, const Figure &f) { add_figure(read, time(s), f); };
    watch.go_on = [&](double, double share) { return !progress || pictures++ % 16 != 0 || progress(share); };
    auto facts = look_through(film, options, watch);
    if (!facts)
        return facts;
    if (rows.size() < 24)
        return fail(circle ? told("hardly anything is swept anew in {}: {} rays", name, rows.size())
                           : told("the panel hardly scrolls in {}: {} rows came new", name, rows.size()),
                    told("nothing was written"),
                    told("see whether the panel's corners and the newest edge are right"));
    auto c = options.calibration;
    const double seconds = rows.back().at_s - rows.front().at_s;
    if (c.rows_a_second <= 0 && seconds > 0)
        c.rows_a_second = static_cast<double>(rows.size() - 1) / seconds;
    const auto begin = time(rows.front().at_s), end = time(rows.back().at_s);
    auto head = head_of(c, begin, end, name);
    if (options.track || !options.calibration.figures.empty()) {
        const auto heard = options.track ? samples_within(*options.track, begin, end) : NavSamples();
        if (options.track && heard.positions.empty())
            return fail(told("the sentences tell no place while the film runs ({} to {})",
                             print_rfc3339(begin, 0), print_rfc3339(end, 0)),
                        told("nothing was written"), told("say when the film's first picture was taken"));
        put_in(head, heard, read);
    }
    auto writer = RecordingWriter::create(recording, head);
    if (!writer)
        return tl::unexpected(writer.error());
    UnixNs before = 0;
    for (const auto &row : rows) {
        const auto ping = ping_of_row(row, c, std::max(time(row.at_s), before + 1'000'000));
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

Ping ping_of_row(const FilmRow &row, ScreenCalibration calibration, UnixNs time) {
    calibration.range_m = row.range_m;
    return calibration.circle_bow_deg ? ray_of(row.levels, calibration, row.ray, time)
                                      : ping_of(row.levels, calibration, time);
}

} // namespace heron
