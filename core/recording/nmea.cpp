#include "recording/nmea.hpp"

#include "units/number_text.hpp"
#include "units/units.hpp"

#include <charconv>
#include <cmath>
#include <fmt/format.h>

namespace heron {
namespace {

std::optional<double> number_in(const std::string &text, double low, double high) {
    const auto v = number_in_text(text);
    return v && *v >= low && *v <= high ? v : std::nullopt;
}

// ddmm.mmm or dddmm.mmm and a hemisphere letter.
std::optional<double> angle(const std::string &text, const std::string &letter, char plus, char minus,
                            double most) {
    const auto v = number_in_text(text);
    if (!v || *v < 0 || letter.size() != 1 || (letter[0] != plus && letter[0] != minus))
        return std::nullopt;
    const double degrees = std::floor(*v / 100);
    const double minutes = *v - degrees * 100;
    if (minutes >= 60)
        return std::nullopt;
    const double a = degrees + minutes / 60;
    if (a > most)
        return std::nullopt;
    return letter[0] == minus ? -a : a;
}

std::optional<GeoPoint> place_in(const std::vector<std::string> &f, std::size_t at) {
    const auto lat = angle(f[at], f[at + 1], 'N', 'S', 90);
    const auto lon = angle(f[at + 2], f[at + 3], 'E', 'W', 180);
    if (!lat || !lon)
        return std::nullopt;
    return GeoPoint{*lat, *lon};
}

// A magnitude and E or W, as variation and deviation are told.
std::optional<double> signed_angle(const std::string &value, const std::string &letter) {
    const auto v = number_in(value, 0, 180);
    if (!v || (letter != "E" && letter != "W"))
        return std::nullopt;
    return letter == "W" ? -*v : *v;
}

// User range error of a plain receiver, metres one sigma: with HDOP it gives the error of a fix. Common
// practice.
constexpr double metres_per_hdop = 1.0;

} // namespace

std::uint8_t nmea_checksum(std::string_view between) {
    unsigned sum = 0;
    for (const char c : between)
        sum ^= static_cast<unsigned char>(c);
    return static_cast<std::uint8_t>(sum);
}

std::string nmea_place(const GeoPoint &place) {
    const auto angle = [](double degrees, int wide, char positive, char negative) {
        const auto millionths = std::llround(std::fabs(degrees) * 60e6); // of a minute
        return fmt::format("{:0{}d}{:09.6f},{}", millionths / 60'000'000, wide,
                           static_cast<double>(millionths % 60'000'000) / 1e6,
                           degrees < 0 ? negative : positive);
    };
    return angle(place.latitude_deg, 2, 'N', 'S') + ',' + angle(place.longitude_deg, 3, 'E', 'W');
}

std::string nmea_sentence(std::string_view body) {
    return fmt::format("${}*{:02X}\r\n", body, nmea_checksum(body));
}

std::optional<NmeaSentence> parse_nmea(std::string_view line) {
    while (!line.empty() &&
           (line.back() == '\r' || line.back() == '\n' || line.back() == ' ' || line.back() == '\0'))
        line.remove_suffix(1);
    if (line.size() < 6 || line.front() != '$')
        return std::nullopt;
    line.remove_prefix(1);
    for (const char c : line)
        if (static_cast<unsigned char>(c) < 0x20 || static_cast<unsigned char>(c) > 0x7e)
            return std::nullopt;
    if (const auto star = line.find('*'); star != std::string_view::npos) {
        const auto told = line.substr(star + 1);
        unsigned value = 0;
        const auto [end, error] = std::from_chars(told.data(), told.data() + told.size(), value, 16);
        if (told.size() != 2 || error != std::errc() || end != told.data() + 2)
            return std::nullopt;
        line = line.substr(0, star);
        if (nmea_checksum(line) != value)
            return std::nullopt;
    }
    NmeaSentence s;
    const auto comma = line.find(',');
    const auto address = line.substr(0, comma);
    if (address.size() < 4)
        return std::nullopt;
    if (address.front() == 'P') {
        s.type = address;
    } else {
        s.talker = address.substr(0, address.size() - 3);
        s.type = address.substr(address.size() - 3);
    }
    while (comma != std::string_view::npos && !line.empty()) {
        const auto next = line.find(',');
        if (next == std::string_view::npos)
            break;
        line.remove_prefix(next + 1);
        s.fields.emplace_back(line.substr(0, line.find(',')));
    }
    return s;
}

std::vector<std::string> NmeaLines::push(std::string_view bytes) {
    std::vector<std::string> lines;
    for (const char c : bytes) {
        if (c == '\r' || c == '\n') {
            if (!line_.empty())
                lines.push_back(std::move(line_));
            line_.clear();
        } else if (c == '$' || c == '!') {
            dropped_ += line_.size(); // a sentence that never ended
            line_.assign(1, c);
        } else if (line_.empty() || line_.size() >= longest_line) {
            dropped_ += line_.size() + 1;
            line_.clear();
        } else {
            line_ += c;
        }
    }
    return lines;
}

std::optional<UnixNs> NmeaDecoder::time_of_day(const std::string &text, UnixNs heard) const {
    const auto v = number_in(text, 0, 235960.999);
    if (!v || text.size() < 6)
        return std::nullopt;
    const auto whole = static_cast<std::int64_t>(*v);
    if (whole / 100 % 100 > 59 || whole % 100 > 60)
        return std::nullopt;
    const auto ns = static_cast<std::int64_t>(std::llround((*v - static_cast<double>(whole)) * 1e9));
    const auto in_day = (whole / 10000 * 3600 + whole / 100 % 100 * 60 + whole % 100) * ns_per_s + ns;
    constexpr std::int64_t day = 86400 * ns_per_s;
    if (date_days_ && receiver_time_) {
        // The date of the last RMC; around midnight a GGA may already be in the next day.
        UnixNs t = *date_days_ * day + in_day;
        if (t - *receiver_time_ < -day / 2)
            t += day;
        if (t - *receiver_time_ > day / 2)
            t -= day;
        return t;
    }
    UnixNs t = (heard >= 0 ? heard / day : (heard - day + 1) / day) * day + in_day;
    if (t - heard > day / 2)
        t -= day;
    if (t - heard < -day / 2)
        t += day;
    return t;
}

void NmeaDecoder::take(std::string_view line, UnixNs heard, NavTrack &track) {
    const auto s = parse_nmea(line);
    if (!s)
        ++damaged_;
    else if (take_sentence(*s, heard, track))
        ++understood_;
    else
        ++unknown_;
}

// A sentence of one of the types that are known.
struct NmeaDecoder::Told {
    std::vector<std::string>
        f; ///< its fields; those of older versions, which are shorter, with empty ones behind
    std::string_view type;
    UnixNs heard;
    NavTrack &track;

    void add_heading(double degrees_true) const {
        AttitudeSample a;
        a.time = heard;
        a.heading_deg = wrap_360(degrees_true);
        track.add(a);
    }
};

bool NmeaDecoder::take_sentence(const NmeaSentence &s, UnixNs heard, NavTrack &track) {
    constexpr std::size_t most_fields = 14;
    static constexpr std::pair<std::string_view, void (NmeaDecoder::*)(const Told &)> known[] = {
        {"GGA", &NmeaDecoder::take_fix},         {"GNS", &NmeaDecoder::take_fix},
        {"GLL", &NmeaDecoder::take_place},       {"RMC", &NmeaDecoder::take_minimum},
        {"GST", &NmeaDecoder::take_doubt},       {"VTG", &NmeaDecoder::take_speed},
        {"HDT", &NmeaDecoder::take_true},        {"THS", &NmeaDecoder::take_true},
        {"HDG", &NmeaDecoder::take_magnetic},    {"HDM", &NmeaDecoder::take_magnetic},
        {"DPT", &NmeaDecoder::take_depth},       {"DBT", &NmeaDecoder::take_depth},
        {"MTW", &NmeaDecoder::take_temperature},
    };
    for (const auto &[type, take_it] : known)
        if (s.type == type) {
            auto fields = s.fields;
            fields.resize(std::max(fields.size(), most_fields));
            (this->*take_it)({std::move(fields), s.type, heard, track});
            return true;
        }
    return false;
}

void NmeaDecoder::add_position(const Told &s, UnixNs time, const GeoPoint &place, double sd_m,
                               double speed_m_s) {
    if (time == last_position_)
        return; // the sentences of one epoch tell the same place
    last_position_ = time;
    PositionSample p;
    p.time = time;
    p.place = place;
    p.sd_m = sd_m;
    p.speed_m_s = speed_m_s;
    s.track.add(p);
}

// GGA tells the quality of its fix in a digit, GNS in a letter for each system of satellites.
void NmeaDecoder::take_fix(const Told &s) {
    const auto time = time_of_day(s.f[0], s.heard);
    if (!time)
        return;
    receiver_time_ = time;
    const auto place = place_in(s.f, 1);
    const auto &quality = s.f[5];
    if (!place || quality.find_first_not_of(s.type == "GNS" ? "N" : "0") == std::string::npos)
        return; // understood: it says that there is no fix
    const auto hdop = number_in(s.f[7], 0, 100);
    add_position(s, *time, *place, told_sd_m_ ? *told_sd_m_ : hdop ? *hdop * metres_per_hdop : 0, -1);
}

void NmeaDecoder::take_place(const Told &s) {
    const auto time = time_of_day(s.f[4], s.heard);
    if (!time)
        return;
    receiver_time_ = time;
    if (const auto place = place_in(s.f, 0); place && s.f[5] == "A" && s.f[6] != "N")
        add_position(s, *time, *place, told_sd_m_.value_or(0), -1);
}

void NmeaDecoder::take_minimum(const Told &s) {
    const auto &f = s.f;
    const auto time = time_of_day(f[0], s.heard);
    const auto date = f[8].size() == 6 ? number_in(f[8], 10100, 311299) : std::nullopt;
    if (date) {
        const auto d = static_cast<int>(*date);
        const int year = d % 100 < 80 ? 2000 + d % 100 : 1900 + d % 100;
        date_days_ =
            days_from_civil(year, static_cast<unsigned>(d / 100 % 100), static_cast<unsigned>(d / 10000));
    }
    if (!time)
        return;
    if (date_days_) {
        receiver_time_.reset();
        receiver_time_ = time_of_day(f[0], *date_days_ * 86400 * ns_per_s + 43200 * ns_per_s);
    }
    if (const auto v = signed_angle(f[9], f[10]))
        variation_ = v;
    if (f[1] != "A")
        return; // a warning: no fix
    const auto place = place_in(f, 2);
    const auto knots = number_in(f[6], 0, 100);
    const UnixNs t = receiver_time_.value_or(*time);
    if (place)
        add_position(s, t, *place, told_sd_m_.value_or(0), knots ? m_s_from_knots(*knots) : -1);
    if (knots)
        s.track.add_speed(t, m_s_from_knots(*knots));
}

void NmeaDecoder::take_doubt(const Told &s) {
    const auto north = number_in(s.f[5], 0, 1000), east = number_in(s.f[6], 0, 1000);
    if (north && east)
        told_sd_m_ = std::sqrt((*north * *north + *east * *east) / 2);
}

void NmeaDecoder::take_speed(const Told &s) {
    if (const auto knots = number_in(s.f[4], 0, 100))
        s.track.add_speed(s.heard, m_s_from_knots(*knots));
    else if (const auto km_h = number_in(s.f[6], 0, 185))
        s.track.add_speed(s.heard, *km_h / 3.6);
}

// THS tells in its mode when it is not to be believed.
void NmeaDecoder::take_true(const Told &s) {
    const bool valid = s.type != "THS" || s.f[1] != "V";
    if (const auto h = number_in(s.f[0], 0, 360); h && valid)
        s.add_heading(*h);
}

// Magnetic: of use only when somebody tells the variation.
void NmeaDecoder::take_magnetic(const Told &s) {
    const auto h = number_in(s.f[0], 0, 360);
    double deviation = 0;
    if (s.type == "HDG") {
        deviation = signed_angle(s.f[1], s.f[2]).value_or(0);
        if (const auto v = signed_angle(s.f[3], s.f[4]))
            variation_ = v;
    }
    if (h && variation_)
        s.add_heading(*h + deviation + *variation_);
}

void NmeaDecoder::take_depth(const Told &s) {
    constexpr double deepest_m = 2000; // deeper than any lake
    const bool dpt = s.type == "DPT";
    const auto metres = number_in(s.f[dpt ? 0 : 2], 0, deepest_m);
    const auto feet = dpt ? std::nullopt : number_in(s.f[0], 0, feet_from_metres(deepest_m));
    if (!metres && !feet)
        return;
    DepthSample d;
    d.time = s.heard;
    d.below_transducer_m = metres ? *metres : metres_from_feet(*feet);
    if (dpt)
        if (const auto offset = number_in(s.f[1], -50, 50); offset && *offset > 0)
            d.to_waterline_m = offset;
    s.track.add(d);
}

void NmeaDecoder::take_temperature(const Told &s) {
    if (const auto t = number_in(s.f[0], -5, 60))
        temperature_ = t;
}

} // namespace heron
