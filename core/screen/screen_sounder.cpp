#include "screen/screen_sounder.hpp"

#include "recording/nmea.hpp"
#include "screen/rows.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace heron {
namespace {

bool reads(const ScreenCalibration &c, FigureBox::Of of) {
    return std::any_of(c.figures.begin(), c.figures.end(), [&](const FigureBox &b) { return b.of == of; });
}

std::string position(UnixNs time, const GeoPoint &place) {
    constexpr double screen_place_sd_m = 3;
    const auto stamp = print_rfc3339(time, 2); // 2026-05-14T06:12:40.25Z
    const auto clock = stamp.substr(11, 2) + stamp.substr(14, 2) + stamp.substr(17, 5);
    const auto date = stamp.substr(8, 2) + stamp.substr(5, 2) + stamp.substr(2, 2);
    return nmea_sentence(
               fmt::format("GPGST,{},,,,,{:.1f},{:.1f},", clock, screen_place_sd_m, screen_place_sd_m)) +
           nmea_sentence(fmt::format("GPRMC,{},A,{},,,{},,,A", clock, nmea_place(place), date));
}

} // namespace

ScreenSounder::ScreenSounder(ScreenCalibration calibration, UnixNs start)
    : calibration_(std::move(calibration)), start_(start), range_m_(calibration_.range_m) {}

UnixNs ScreenSounder::time(double at_s) const {
    return start_ + static_cast<UnixNs>(at_s * static_cast<double>(ns_per_s));
}

SoundingSettings ScreenSounder::settings_now() const {
    SoundingSettings s;
    s.range_m = range_m_;
    s.frequency_hz = calibration_.frequency_khz * 1000;
    s.gain = 0;
    s.tvg_log = 0;
    s.pinging = true;
    return s;
}

Bytes ScreenSounder::hello() const {
    SounderHello hello;
    hello.name = calibration_.source.empty() ? told("a screen") : calibration_.source.substr(0, 100);
    hello.bands_hz = {calibration_.frequency_khz * 1000};
    hello.shortest_range_m = std::min(range_m_, 2.0);
    hello.longest_range_m = std::max(range_m_, 300.0);
    hello.most_gain = 1;
    hello.takes_requests = false;
    hello.stream = calibration_.circle_bow_deg ? StreamId::around : StreamId::side;
    return encode_frame(FrameType::hello, encode_hello(hello));
}

Bytes ScreenSounder::settings() const {
    return encode_frame(FrameType::settings, encode_settings(settings_now()));
}

Bytes ScreenSounder::ping(const FilmRow &row) {
    Bytes out;
    if (std::fabs(row.range_m - range_m_) > 1e-6) {
        range_m_ = row.range_m;
        out = settings();
    }
    WirePing wire;
    wire.ping = ping_of_row(row, calibration_, std::max(time(row.at_s), last_ + 1'000'000));
    if (wire.ping.beams.empty())
        return {};
    last_ = wire.ping.time;
    wire.number = ++rows_;
    // A clock that is never set: that of the rows themselves.
    wire.monotonic_ns = std::max<std::int64_t>(0, wire.ping.time - start_);
    wire.settings = settings_now();
    const auto frame = encode_frame(FrameType::ping, encode_ping(wire));
    out.insert(out.end(), frame.begin(), frame.end());
    return out;
}

std::string ScreenSounder::sentence(double at_s, const Figure &f) const {
    switch (f.of) {
    case FigureBox::Of::depth:
        return nmea_sentence(fmt::format("SDDPT,{:.2f},,", f.value));
    case FigureBox::Of::speed:
        return vtg_sentence(f.value);
    case FigureBox::Of::heading:
        return nmea_sentence(fmt::format("HEHDT,{:.1f},T", std::min(wrap_360(f.value), 359.9)));
    case FigureBox::Of::position:
        return position(time(at_s), *f.place);
    case FigureBox::Of::range:
        break;
    }
    return {};
}

std::string ScreenSounder::speed_sentence(double at_s) {
    if (calibration_.circle_bow_deg || calibration_.along_m <= 0 || reads(calibration_, FigureBox::Of::speed))
        return {};
    if (!speed_told_s_) {
        speed_told_s_ = at_s;
        rows_at_speed_ = rows_;
        return {};
    }
    const double passed = at_s - *speed_told_s_;
    if (passed < 1)
        return {};
    const double speed = calibration_.along_m * static_cast<double>(rows_ - rows_at_speed_) / passed;
    speed_told_s_ = at_s;
    rows_at_speed_ = rows_;
    return vtg_sentence(speed);
}

} // namespace heron
