#include "screen/figures.hpp"

#include "fault/told.hpp"
#include "units/number_text.hpp"
#include "units/units.hpp"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <regex>
#include <tesseract/baseapi.h>
#include <utility>

namespace heron {
namespace {

using Of = FigureBox::Of;
constexpr std::array<std::string_view, 5> names{"depth", "speed", "heading", "position", "range"};
constexpr int sure_enough = 75;

// By how much a figure may change in a second, and be off besides.
struct Bounds {
    double a_second, besides, least, most;
};
constexpr std::array<Bounds, 5> bounds{
    {{1.2, 0.2, 0.1, 300}, {3, 0.6, 0, 40}, {60, 5, 0, 360}, {15, 10, 0, 0}, {0, 0.01, 1, 500}}};

double off(const Figure &a, const Figure &b) {
    if (a.of == Of::position)
        return leg_between(*a.place, *b.place).distance_m;
    return std::fabs(a.of == Of::heading ? wrap_180(a.value - b.value) : a.value - b.value);
}

bool goes_on(const Figure &from, const Figure &to, double seconds) {
    const auto &b = bounds[static_cast<std::size_t>(from.of)];
    return off(from, to) <= b.a_second * seconds + b.besides;
}

std::optional<GeoPoint> place_of_words(std::string words) {
    // Signs of minutes and seconds are read as many things; between figures all of them part.
    for (auto &c : words)
        if (c == ',' || c == '|' || c == '\n')
            c = ' ';
    // The half of the globe stands before both angles, or behind both.
    static const std::string number =
        R"(([-+]?\d{1,3}(?:\.\d+|(?![.\d])))(?:[^\dNSEW.+-]+(\d{1,2}(?:\.\d+)?)(?![.\d]))?)";
    static const std::regex before(R"(([NSEW])\s*)" + number + "()"),
        behind("()" + number + R"([^\dNSEW.+-]*([NSEW])?)");
    const auto first = words.find_first_not_of(' ');
    const auto &angle =
        first != std::string::npos && std::isalpha(static_cast<unsigned char>(words[first])) != 0 ? before
                                                                                                  : behind;
    std::array<std::optional<double>, 2> told;
    std::size_t next = 0;
    for (std::sregex_iterator i(words.begin(), words.end(), angle), end; i != end && next < 2; ++i) {
        const auto &m = *i;
        const double degrees = number_in_text(m[2].str()).value_or(0);
        double minutes = 0;
        if (m[3].matched) {
            if (m[2].str().find('.') != std::string::npos)
                return std::nullopt; // decimal degrees have no minutes
            minutes = number_in_text(m[3].str()).value_or(0);
        }
        if (minutes >= 60)
            return std::nullopt;
        const auto half = m[1].str() + m[4].str();
        double value = std::copysign(std::fabs(degrees) + minutes / 60, std::signbit(degrees) ? -1.0 : 1.0);
        if (half == "S" || half == "W")
            value = -value;
        if ((half == "N" || half == "S") && next != 0)
            return std::nullopt;
        if ((half == "E" || half == "W") && next != 1)
            return std::nullopt;
        told[next++] = value;
    }
    constexpr double most_latitude = 85;
    if (!told[0] || !told[1] || std::fabs(*told[0]) > most_latitude || std::fabs(*told[1]) > 180)
        return std::nullopt;
    return GeoPoint{*told[0], *told[1]};
}

} // namespace

std::string_view name_of(Of of) {
    return names[static_cast<std::size_t>(of)];
}

std::optional<Of> figure_named(std::string_view name) {
    const auto at = std::find(names.begin(), names.end(), name);
    return at == names.end() ? std::nullopt : std::optional(static_cast<Of>(at - names.begin()));
}

std::optional<double> figure_unit(Of of, std::string_view unit) {
    if (of == Of::depth || of == Of::range)
        return unit == "m"    ? std::optional(1.0)
               : unit == "ft" ? std::optional(metres_per_foot)
                              : std::nullopt;
    if (of != Of::speed)
        return unit.empty() ? std::optional(1.0) : std::nullopt;
    return unit == "m/s"    ? std::optional(1.0)
           : unit == "km/h" ? std::optional(1 / 3.6)
           : unit == "mph"  ? std::optional(metres_per_mile / 3600)
           : unit == "kn"   ? std::optional(m_s_from_knots(1))
                            : std::nullopt;
}

std::optional<Figure> figure_of_words(const std::string &words, const FigureBox &box) {
    constexpr std::size_t longest = 80;
    if (words.size() > longest)
        return std::nullopt;
    Figure f;
    f.of = box.of;
    if (box.of == Of::position) {
        f.place = place_of_words(words);
        return f.place ? std::optional(f) : std::nullopt;
    }
    static const std::regex figure(R"(^[^\d-]*(\d{1,4}(?:[.,]\d{1,2})?)\s*([A-Za-z/]*).*$)");
    std::smatch m;
    if (!std::regex_match(words, m, figure))
        return std::nullopt;
    auto number = m[1].str();
    std::replace(number.begin(), number.end(), ',', '.');
    std::string unit = m[2];
    std::transform(unit.begin(), unit.end(), unit.begin(), [](unsigned char c) { return std::tolower(c); });
    if (unit == "kt" || unit == "kts" || unit == "knots")
        unit = "kn";
    if (unit == "kmh")
        unit = "km/h";
    auto each = figure_unit(box.of, unit);
    if (!each || box.of == Of::heading)
        each = figure_unit(box.of, box.of == Of::heading ? std::string_view() : std::string_view(box.unit));
    if (!each)
        return std::nullopt;
    const auto read = number_in_text(number);
    if (!read)
        return std::nullopt;
    f.value = *read * *each;
    const auto &b = bounds[static_cast<std::size_t>(box.of)];
    if (!(f.value >= b.least && f.value <= b.most))
        return std::nullopt;
    return f;
}

struct FigureReader::State {
    tesseract::TessBaseAPI api;
    std::vector<FigureBox> boxes;
    struct Past {
        std::optional<Figure> told, heard; ///< told; read last, told or not
        double told_s = 0, heard_s = 0;
        cv::Mat looked; ///< the box as it was read last
        FigureWords words;
    };
    std::vector<Past> past;
    ~State() { api.End(); }

    // The box in grey, large enough, dark figures on light.
    static cv::Mat cut(const ScreenPicture &p, const FigureBox &box) {
        const int l = std::clamp(static_cast<int>(std::floor(box.from.x)), 0, p.width),
                  t = std::clamp(static_cast<int>(std::floor(box.from.y)), 0, p.height),
                  r = std::clamp(static_cast<int>(std::ceil(box.to.x)), l, p.width),
                  b = std::clamp(static_cast<int>(std::ceil(box.to.y)), t, p.height);
        constexpr int least_px = 6, most_px = 1200;
        if (r - l < least_px || b - t < least_px || r - l > most_px || b - t > most_px)
            return {};
        const cv::Mat whole(p.height, p.width, CV_8UC3, const_cast<Rgb *>(p.pixels.data()));
        cv::Mat grey;
        cv::cvtColor(whole(cv::Rect(l, t, r - l, b - t)), grey, cv::COLOR_RGB2GRAY);
        return grey;
    }
    FigureWords read(const cv::Mat &grey, const FigureBox &box) {
        // Tesseract's own advice: capitals of some thirty pixels and more, dark on light, with a margin.
        constexpr double high = 96;
        cv::Mat big, ink;
        const double times = std::max(1.0, high / grey.rows);
        cv::resize(grey, big, {}, times, times, cv::INTER_CUBIC);
        cv::threshold(big, ink, 0, 255, cv::THRESH_BINARY | cv::THRESH_OTSU);
        if (cv::mean(ink)[0] < 127)
            cv::bitwise_not(ink, ink);
        constexpr int margin = 24;
        cv::copyMakeBorder(ink, ink, margin, margin, margin, margin, cv::BORDER_CONSTANT, cv::Scalar(255));
        api.SetPageSegMode(box.of == Of::position ? tesseract::PSM_SINGLE_BLOCK : tesseract::PSM_SINGLE_LINE);
        api.SetVariable("tessedit_char_whitelist", box.of == Of::position  ? "0123456789.-NSEW'\" "
                                                   : box.of == Of::heading ? "0123456789"
                                                                           : "0123456789.,/ftmknhps ");
        api.SetImage(ink.data, ink.cols, ink.rows, 1, static_cast<int>(ink.step));
        FigureWords w;
        const std::unique_ptr<char[]> text(api.GetUTF8Text());
        w.words = text ? text.get() : "";
        while (!w.words.empty() && std::isspace(static_cast<unsigned char>(w.words.back())) != 0)
            w.words.pop_back();
        w.sureness = api.MeanTextConf();
        w.figure = figure_of_words(w.words, box);
        api.Clear();
        return w;
    }
};

FigureReader::FigureReader() : state_(std::make_unique<State>()) {}
FigureReader::~FigureReader() = default;
FigureReader::FigureReader(FigureReader &&) noexcept = default;
FigureReader &FigureReader::operator=(FigureReader &&) noexcept = default;

Result<FigureReader> FigureReader::create(std::vector<FigureBox> boxes) {
    FigureReader reader;
    if (reader.state_->api.Init(nullptr, "eng", tesseract::OEM_LSTM_ONLY) != 0)
        return fail(told("figures cannot be read: Tesseract's English model is not installed"),
                    told("nothing was read"), told("install the package tesseract-ocr-eng"));
    reader.state_->api.SetVariable("debug_file", "/dev/null");
    reader.state_->past.resize(boxes.size());
    reader.state_->boxes = std::move(boxes);
    return reader;
}

FigureWords FigureReader::words(const ScreenPicture &picture, const FigureBox &box) {
    const auto grey = State::cut(picture, box);
    return grey.empty() ? FigureWords() : state_->read(grey, box);
}

std::vector<Figure> FigureReader::read(const ScreenPicture &picture, double seconds) {
    constexpr double forgotten_s = 5;
    std::vector<Figure> told;
    for (std::size_t i = 0; i < state_->boxes.size(); ++i) {
        const auto &box = state_->boxes[i];
        auto &past = state_->past[i];
        const auto grey = State::cut(picture, box);
        if (grey.empty())
            continue;
        // What has not changed is not read again.
        cv::Mat changed;
        if (past.looked.size() == grey.size())
            cv::absdiff(past.looked, grey, changed);
        constexpr double least_change = 24;
        double most = 255;
        if (!changed.empty())
            cv::minMaxLoc(changed, nullptr, &most);
        if (most > least_change) {
            past.words = state_->read(grey, box);
            grey.copyTo(past.looked);
        }
        const auto &figure = past.words.figure;
        if (!figure || past.words.sureness < sure_enough)
            continue;
        const bool known = past.told && seconds - past.told_s <= forgotten_s,
                   twice = past.heard && goes_on(*past.heard, *figure, seconds - past.heard_s);
        past.heard = figure;
        const double since = seconds - std::exchange(past.heard_s, seconds);
        if (known ? !goes_on(*past.told, *figure, seconds - past.told_s) : !(twice && since <= forgotten_s))
            continue;
        past.told = figure;
        past.told_s = seconds;
        told.push_back(*figure);
    }
    return told;
}

} // namespace heron
