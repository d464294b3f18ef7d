#include "sim/screens.hpp"

#include "files/gdal.hpp"
#include "recording/nmea_feed.hpp"
#include "sim/sounder.hpp"
#include "units/units.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <gdal.h>
#include <numbers>
#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>
#include <random>

namespace heron::sim {
namespace {

cv::Mat matrix_of(ScreenPicture &f) {
    return cv::Mat(f.height, f.width, CV_8UC3, f.pixels.data());
}
cv::Mat matrix_of(const ScreenPicture &f) {
    return cv::Mat(f.height, f.width, CV_8UC3, const_cast<Rgb *>(f.pixels.data()));
}
cv::Scalar scalar_of(Rgb c) {
    return {static_cast<double>(c.red), static_cast<double>(c.green), static_cast<double>(c.blue)};
}

} // namespace

const std::vector<ScreenLayout> &screen_layouts() {
    static const std::vector<ScreenLayout> all{
        {"tall", 1024, 768, 0, 64, 940, 768, NewestAt::top, 0.5},
        {"wide", 1280, 720, 190, 0, 1280, 650, NewestAt::bottom, 0.5},
        {"sideways", 1200, 640, 40, 90, 1160, 620, NewestAt::right, 0.5},
        {"two thirds", 900, 700, 10, 10, 760, 690, NewestAt::top, 0.36},
        {"small", 800, 480, 0, 40, 800, 450, NewestAt::left, 0.5},
        {"bezel", 1100, 820, 60, 150, 980, 790, NewestAt::bottom, 0.5},
        {"strip", 1360, 500, 20, 30, 1240, 470, NewestAt::right, 0.58},
    };
    return all;
}

std::vector<Rgb> screen_colours(int map, bool night) {
    static const std::vector<std::vector<Rgb>> maps{
        {{12, 6, 0}, {92, 48, 8}, {190, 120, 30}, {250, 214, 120}, {255, 250, 226}},
        {{4, 4, 4}, {70, 70, 72}, {140, 140, 142}, {205, 205, 206}, {252, 252, 252}},
        {{2, 6, 26}, {8, 52, 104}, {28, 122, 170}, {120, 200, 214}, {240, 252, 250}},
        {{4, 16, 8}, {18, 70, 40}, {66, 134, 70}, {160, 204, 110}, {246, 250, 200}},
        {{0, 0, 90}, {0, 170, 200}, {40, 200, 40}, {240, 60, 20}, {120, 0, 60}},
    };
    auto stops = maps.at(static_cast<std::size_t>(map));
    if (night)
        for (auto &c : stops)
            c = {static_cast<std::uint8_t>(c.red * 0.8), static_cast<std::uint8_t>(c.green * 0.62),
                 static_cast<std::uint8_t>(c.blue * 0.55)};
    const ColourMap colours(stops);
    std::vector<Rgb> ramp;
    for (int i = 0; i < 256; i += 5) {
        const auto c = colours[static_cast<std::uint8_t>(i)];
        ramp.push_back({static_cast<std::uint8_t>(c >> 16 & 255u), static_cast<std::uint8_t>(c >> 8 & 255u),
                        static_cast<std::uint8_t>(c & 255u)});
    }
    return ramp;
}

struct HeardRows::State {
    Sounder sounder;
    std::deque<Row> rows; // whose places stand
};
HeardRows::HeardRows(Scene scene, double range, double frequency_hz)
    : state_(new State{Sounder(std::move(scene), 1'780'000'000LL * ns_per_s), {}}) {
    SoundingSettings s;
    s.range_m = range;
    s.frequency_hz = frequency_hz;
    s.gain = 56;
    state_->sounder.ask(s);
    state_->sounder.look_down(false);
}
HeardRows::~HeardRows() = default;

const HeardRows::Row &HeardRows::at(std::size_t row) {
    Row next;
    while (state_->rows.size() <= row) {
        auto e = state_->sounder.next();
        for (const auto &line : e.sentences)
            next.sentences.emplace_back(e.time, line.substr(0, line.size() - 2));
        if (!e.ping)
            continue;
        next.ping = std::move(e.ping->ping);
        state_->rows.push_back(std::exchange(next, {}));
    }
    return state_->rows[row];
}

void HeardRows::set_range(double range) {
    auto settings = state_->sounder.settings();
    settings.range_m = range;
    state_->sounder.ask(settings);
}
double HeardRows::range_m() const {
    return state_->sounder.settings().range_m;
}
double HeardRows::ping_period_s() const {
    return state_->sounder.ping_period_s();
}
const Scene &HeardRows::scene() const {
    return state_->sounder.scene();
}

struct SimulatedScreen::State {
    State(std::shared_ptr<HeardRows> rows_heard, const ScreenOptions &o)
        : options(o), layout(screen_layouts().at(static_cast<std::size_t>(o.layout))),
          ramp(screen_colours(o.map, o.night)), heard(std::move(rows_heard)) {
        calibration.source = layout.name;
        calibration.width = layout.width;
        calibration.height = layout.height;
        const double l = layout.left, r = layout.right, t = layout.top, b = layout.bottom;
        calibration.corners = {Pixel{l, t}, {r, t}, {r, b}, {l, b}};
        calibration.newest = layout.newest;
        calibration.middle = layout.middle;
        calibration.range_m = heard->range_m();
        calibration.frequency_khz = o.frequency_hz / 1000;
        calibration.ramp = ramp;
        calibration.span_db = 255 * Acoustics::db_per_count;
        calibration.along_m = heard->scene().boat.speed_m_s * heard->ping_period_s();
        calibration.rows_a_second = 1 / heard->ping_period_s();
    }
    ScreenOptions options;
    ScreenLayout layout;
    std::vector<Rgb> ramp;
    std::shared_ptr<HeardRows> heard;
    ScreenCalibration calibration;
    std::deque<Ping> pings;
    NavTrack nav;
    NmeaFeed feed;
    bool menu = false;

    // What a unit writes beside its picture.
    std::vector<std::string> figures() const {
        if (!options.live_figures || pings.empty())
            return {"11.4 ft", "3.1 mph", "071", "16 C"};
        const auto at = pings.back().time / ns_per_s * ns_per_s;
        const auto depth = nav.depth_at(at);
        const auto speed = nav.speed_at(at);
        const auto attitude = nav.attitude_at(at);
        const auto place = nav.position_at(at);
        return {depth ? fmt::format("{:.1f} ft", feet_from_metres(depth->below_transducer_m)) : "- ft",
                speed ? fmt::format("{:.1f} mph", *speed / (1609.344 / 3600)) : "- mph",
                attitude ? fmt::format("{:03}", std::lround(attitude->heading_deg) % 360) : "---", "16 C",
                place ? fmt::format("{:.5f}{} {:.5f}{}", std::fabs(place->place.latitude_deg),
                                    place->place.latitude_deg < 0 ? 'S' : 'N',
                                    std::fabs(place->place.longitude_deg),
                                    place->place.longitude_deg < 0 ? 'W' : 'E')
                      : ""};
    }
    bool level() const { return calibration.across_is_level(); }
    int across() const { return level() ? layout.right - layout.left : layout.bottom - layout.top; }
    int rows() const { return level() ? layout.bottom - layout.top : layout.right - layout.left; }
    double middle() const { return layout.middle * across(); }
    double metres_a_column() const { return calibration.range_m / std::max(middle(), across() - middle()); }
    cv::Point on_screen(int back, int column) const {
        switch (layout.newest) {
        case NewestAt::top:
            return {layout.left + column, layout.top + back};
        case NewestAt::bottom:
            return {layout.left + column, layout.bottom - 1 - back};
        case NewestAt::right:
            return {layout.right - 1 - back, layout.top + column};
        case NewestAt::left:
            break;
        }
        return {layout.left + back, layout.top + column};
    }

    // Drawn once: a picture of a film shows nearly all rows of the one before.
    mutable std::deque<std::vector<Rgb>> drawn; // as long as `pings` or shorter; empty where not drawn yet
    const std::vector<Rgb> &drawn_row(std::size_t i) const {
        if (drawn.size() < pings.size())
            drawn.resize(pings.size());
        if (drawn[i].empty())
            drawn[i] = drawn_anew(pings[i]);
        return drawn[i];
    }
    std::vector<Rgb> drawn_anew(const Ping &ping) const {
        const int columns = across();
        std::vector<Rgb> row(static_cast<std::size_t>(columns), ramp.front());
        const double metres = metres_a_column();
        for (int k = 0; k < columns; ++k) {
            const double off = k + 0.5 - middle();
            const auto *beam = ping.beam(off < 0 ? Side::port : Side::starboard);
            if (beam == nullptr || beam->code.empty())
                continue;
            // The mean of all samples within the pixel.
            const auto sample = [&](double columns_off) {
                return static_cast<std::size_t>(std::clamp(ping.sample_at(columns_off * metres), 0.0, 1e6));
            };
            double sum = 0, n = 0;
            for (auto i = sample(std::fabs(off) - 0.5);
                 i <= sample(std::fabs(off) + 0.5) && i < beam->code.size(); ++i) {
                sum += beam->code[i];
                n += 1;
            }
            const double level = n > 0 ? sum / n : 0;
            row[static_cast<std::size_t>(k)] =
                ramp[std::min(ramp.size() - 1, static_cast<std::size_t>(level / 5))];
        }
        return row;
    }
};

SimulatedScreen::SimulatedScreen(Scene scene, const ScreenOptions &options)
    : SimulatedScreen(std::make_shared<HeardRows>(std::move(scene), options.range_m, options.frequency_hz),
                      options) {}
SimulatedScreen::SimulatedScreen(std::shared_ptr<HeardRows> heard, const ScreenOptions &options)
    : state_(std::make_unique<State>(std::move(heard), options)) {}
SimulatedScreen::~SimulatedScreen() = default;

void SimulatedScreen::advance(int rows) {
    auto &s = *state_;
    for (int n = 0; n < rows; ++n) {
        const auto &row = s.heard->at(s.pings.size());
        for (const auto &[time, line] : row.sentences)
            s.feed.take(line, time, s.nav);
        s.pings.push_back(row.ping);
    }
}

ScreenPicture SimulatedScreen::shown() const {
    const auto &s = *state_;
    ScreenPicture f;
    f.width = s.layout.width;
    f.height = s.layout.height;
    const Rgb ground = s.options.night ? Rgb{16, 18, 20} : Rgb{206, 210, 212};
    f.pixels.assign(static_cast<std::size_t>(f.width) * static_cast<std::size_t>(f.height), ground);
    const int across = s.across(), rows = s.rows();
    const double middle = s.middle(), metres = s.metres_a_column();
    const std::vector<Rgb> nothing(static_cast<std::size_t>(across), s.ramp.front());
    for (int back = 0; back < rows; ++back) {
        const auto &row = back < static_cast<int>(s.pings.size())
                              ? s.drawn_row(s.pings.size() - 1 - static_cast<std::size_t>(back))
                              : nothing;
        for (int k = 0; k < across; ++k) {
            const auto at = s.on_screen(back, k);
            f.at(at.x, at.y) = row[static_cast<std::size_t>(k)];
        }
    }
    auto m = matrix_of(f);
    const auto ink = scalar_of(s.options.night ? Rgb{150, 160, 150} : Rgb{30, 34, 38});
    if (s.options.rulers) {
        // Short strokes at the newest edge every quarter of the range, and the boat's line as dots.
        for (int q = -3; q <= 3; ++q) {
            const double k = middle + q * s.calibration.range_m / 4 / metres;
            if (k < 2 || k > across - 2)
                continue;
            const int column = static_cast<int>(k);
            cv::line(m, s.on_screen(rows - 12, column), s.on_screen(rows - 1, column), ink, 1);
        }
    }
    if (s.options.figures) {
        const bool room_above = s.layout.top >= 40, room_left = s.layout.left >= 150;
        const int x = room_left    ? 12
                      : room_above ? 16
                                   : std::min(s.layout.right + 10, f.width - 120),
                  y = room_above ? s.layout.top - 14 : f.height - 20;
        const auto words = s.figures();
        for (std::size_t i = 0; i < words.size(); ++i)
            cv::putText(m, words[i],
                        room_above ? cv::Point(x + 150 * static_cast<int>(i), y)
                                   : cv::Point(x, 40 + 50 * static_cast<int>(i)),
                        cv::FONT_HERSHEY_SIMPLEX, 0.7, ink, 1, cv::LINE_AA);
    }
    if (s.menu) {
        const cv::Rect box(s.layout.left + (s.layout.right - s.layout.left) / 8, s.layout.top,
                           (s.layout.right - s.layout.left) / 4, s.layout.bottom - s.layout.top);
        cv::rectangle(m, box, cv::Scalar(70, 90, 110), cv::FILLED);
        for (int i = 1; i < 6; ++i)
            cv::putText(m, "entry", {box.x + 16, box.y + box.height * i / 6}, cv::FONT_HERSHEY_SIMPLEX, 0.8,
                        cv::Scalar(230, 230, 230), 1, cv::LINE_AA);
    }
    return f;
}

void SimulatedScreen::open_menu(bool open) {
    state_->menu = open;
}

void SimulatedScreen::set_range(double range_m) {
    state_->heard->set_range(range_m);
    state_->calibration.range_m = state_->heard->range_m();
    state_->drawn.clear();
}

const ScreenCalibration &SimulatedScreen::calibration() const {
    return state_->calibration;
}
const std::deque<Ping> &SimulatedScreen::pings() const {
    return state_->pings;
}
const NavTrack &SimulatedScreen::nav() const {
    return state_->nav;
}
const Installation &SimulatedScreen::installation() const {
    return state_->heard->scene().boat.installation;
}

namespace {

// How a hand holds a camera at a time: shakes of some frequencies, away from where it was at first.
struct Held {
    double x = 0, y = 0, roll = 0, nearer = 0, keystone = 0; // shares of the width; radians
};
class Hand {
  public:
    explicit Hand(unsigned seed) : random_(seed) {
        for (auto &of : shakes_)
            for (auto &wave : of)
                wave = {std::uniform_real_distribution<double>(0.3, 3.5)(random_),
                        std::uniform_real_distribution<double>(0, 2 * std::numbers::pi)(random_)};
    }
    Held at(double seconds) const {
        const auto swing = [&](std::size_t of, double most) {
            double sum = 0;
            for (const auto &[hertz, phase] : shakes_[of])
                sum += (std::sin(2 * std::numbers::pi * hertz * seconds + phase) - std::sin(phase)) / hertz;
            return most * sum / waves;
        };
        return {swing(0, 0.008), swing(1, 0.008), swing(2, 0.008), swing(3, 0.01), swing(4, 0.004)};
    }

  private:
    static constexpr std::size_t waves = 4;
    std::mt19937 random_;
    std::array<std::array<std::pair<double, double>, waves>, 5> shakes_{};
};

cv::Mat seen_from(const Held &h, double w, double height) {
    const double middle_x = w / 2, middle_y = height / 2, by = 1 + h.nearer;
    const double c = by * std::cos(h.roll), s = by * std::sin(h.roll);
    const cv::Mat to_middle = (cv::Mat_<double>(3, 3) << 1, 0, -middle_x, 0, 1, -middle_y, 0, 0, 1),
                  turn = (cv::Mat_<double>(3, 3) << c, -s, h.x * w, s, c, h.y * w, h.keystone / w, 0, 1),
                  back = (cv::Mat_<double>(3, 3) << 1, 0, middle_x, 0, 1, middle_y, 0, 0, 1);
    return back * turn * to_middle;
}

} // namespace

ScreenPicture photographed(const ScreenPicture &screen, std::array<Pixel, 4> &corners, unsigned seed,
                           double strength) {
    return filmed_by_hand(screen, corners, seed, 0, strength);
}

ScreenPicture filmed_by_hand(const ScreenPicture &screen, std::array<Pixel, 4> &corners, unsigned seed,
                             double seconds, double strength) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> any(-1, 1);
    const auto w = static_cast<float>(screen.width), h = static_cast<float>(screen.height);
    // The screen within a somewhat larger photograph, its corners pulled about.
    const float pad = 0.06F;
    const cv::Size size(static_cast<int>(w * (1 + 2 * pad)), static_cast<int>(h * (1 + 2 * pad)));
    std::vector<cv::Point2f> from{{0, 0}, {w, 0}, {w, h}, {0, h}}, to;
    for (const auto &p : from)
        to.emplace_back(p.x + pad * w + static_cast<float>(any(random) * strength) * 0.05F * w,
                        p.y + pad * h + static_cast<float>(any(random) * strength) * 0.05F * h);
    cv::Mat map = cv::getPerspectiveTransform(from, to);
    if (seconds > 0) {
        // While a rolling shutter reads down, the hand goes on: the picture shears.
        constexpr double read_out_s = 0.02;
        const Hand hand(seed + 1000);
        auto now = hand.at(seconds), then = hand.at(seconds + read_out_s);
        for (auto *held : {&now, &then})
            for (auto *of : {&held->x, &held->y, &held->roll, &held->nearer, &held->keystone})
                *of *= strength;
        const double dx = (then.x - now.x) * size.width / size.height,
                     dy = (then.y - now.y) * size.width / size.height;
        const cv::Mat shear = (cv::Mat_<double>(3, 3) << 1, dx, 0, 0, 1 + dy, 0, 0, 0, 1);
        map = shear * seen_from(now, size.width, size.height) * map;
    }
    ScreenPicture out;
    out.width = size.width;
    out.height = size.height;
    out.pixels.resize(static_cast<std::size_t>(size.area()));
    auto m = matrix_of(out);
    cv::warpPerspective(matrix_of(screen), m, map, size, cv::INTER_LINEAR, cv::BORDER_CONSTANT,
                        cv::Scalar(30, 30, 32));
    std::vector<cv::Point2f> old, now;
    for (const auto &c : corners)
        old.emplace_back(static_cast<float>(c.x), static_cast<float>(c.y));
    cv::perspectiveTransform(old, now, map);
    for (std::size_t i = 0; i < 4; ++i)
        corners[i] = {static_cast<double>(now[i].x), static_cast<double>(now[i].y)};
    cv::GaussianBlur(m, m, {0, 0}, 0.4 + 0.5 * strength);
    const double gx = size.width * (0.5 + 0.4 * any(random)), gy = size.height * (0.5 + 0.4 * any(random));
    // Glare and moiré are products of what is across and what is down.
    const auto along = [&](int n, double middle, double waves, auto &&take) {
        for (int i = 0; i < n; ++i)
            take(std::exp(-std::pow(i - middle, 2) / (0.04 * size.area())), std::sin(waves * i));
    };
    std::vector<std::pair<float, float>> columns;
    along(out.width, gx, 0.9, [&](double glare, double wave) {
        columns.emplace_back(static_cast<float>(34 * strength * glare),
                             static_cast<float>(3 * strength * wave));
    });
    std::vector<std::pair<float, float>> rows;
    along(out.height, gy, 0.83, [&](double glare, double wave) {
        rows.emplace_back(static_cast<float>(glare), static_cast<float>(wave));
    });
    if (seconds > 0)
        random.seed(seed + static_cast<unsigned>(std::lround(seconds * 1000)));
    // Grain: four bytes summed are as good as normal, one sigma 147.8.
    const auto grain = [&random, by = static_cast<float>(3 * strength / 147.8)] {
        const auto bits = random();
        return by *
               (static_cast<float>((bits & 255u) + (bits >> 8 & 255u) + (bits >> 16 & 255u) + (bits >> 24)) -
                510.0F);
    };
    for (int y = 0; y < out.height; ++y) {
        const auto [glare_y, wave_y] = rows[static_cast<std::size_t>(y)];
        for (int x = 0; x < out.width; ++x) {
            const auto [glare_x, wave_x] = columns[static_cast<std::size_t>(x)];
            const float more = glare_x * glare_y + wave_x * wave_y;
            auto &p = out.at(x, y);
            for (auto *c : {&p.red, &p.green, &p.blue})
                *c = static_cast<std::uint8_t>(
                    std::clamp(static_cast<float>(*c) + more + grain(), 0.0F, 255.0F));
        }
    }
    return out;
}

ScreenPicture scaled(const ScreenPicture &screen, ScreenCalibration &calibration, double scale) {
    ScreenPicture out;
    out.width = static_cast<int>(std::lround(screen.width * scale));
    out.height = static_cast<int>(std::lround(screen.height * scale));
    out.pixels.resize(static_cast<std::size_t>(out.width) * static_cast<std::size_t>(out.height));
    auto to = matrix_of(out);
    cv::resize(matrix_of(screen), to, to.size(), 0, 0, scale < 1 ? cv::INTER_AREA : cv::INTER_LINEAR);
    calibration.width = out.width;
    calibration.height = out.height;
    for (auto &corner : calibration.corners)
        corner = {corner.x * out.width / screen.width, corner.y * out.height / screen.height};
    return out;
}

Result<void> write_picture(const ScreenPicture &frame, const std::filesystem::path &file, int quality) {
    begin_gdal();
    const auto driver = [](const char *name) { return GDALGetDriverByName(name); };
    const GdalDataset memory(GDALCreate(driver("MEM"), "", frame.width, frame.height, 3, GDT_Byte, nullptr));
    std::vector<std::uint8_t> plane(frame.pixels.size());
    for (int c = 0; c < 3; ++c) {
        std::transform(frame.pixels.begin(), frame.pixels.end(), plane.begin(), [c](Rgb p) {
            return c == 0 ? p.red : c == 1 ? p.green : p.blue;
        });
        if (GDALRasterIO(GDALGetRasterBand(memory.get(), c + 1), GF_Write, 0, 0, frame.width, frame.height,
                         plane.data(), frame.width, frame.height, GDT_Byte, 0, 0) != CE_None)
            return fail("the picture cannot be put together");
    }
    const bool jpeg = file.extension() == ".jpg" || file.extension() == ".jpeg";
    const auto said = "QUALITY=" + std::to_string(quality);
    const char *options[] = {jpeg ? said.c_str() : nullptr, nullptr};
    const GdalDataset written(GDALCreateCopy(driver(jpeg ? "JPEG" : "PNG"), file.c_str(), memory.get(), 0,
                                             const_cast<char **>(options), nullptr, nullptr));
    if (!written)
        return fail(file.string() + ": cannot be written");
    return {};
}

} // namespace heron::sim
