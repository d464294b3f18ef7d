#include "recording/beam_group.hpp"

#include "geo/position.hpp"
#include "recording/cf_time.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <netcdf.h>

namespace heron {
namespace {

constexpr std::size_t most_shaped_samples = 4'000'000;

// Codes for levels that are not small whole counts: 0.01 dB a step from −300 dB to +355 dB.
constexpr LevelScale fine_scale{-300, 0.01, 0, 65534};

tl::unexpected<Fault> wrong(const NcGroup &g, const std::string &variable, const std::string &what) {
    return fail(what, g.path + "/" + variable);
}

std::string lower(std::string text) {
    for (auto &c : text)
        c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return text;
}

} // namespace

double BeamGroup::Spread::at(std::size_t row, std::size_t beam, double otherwise) const {
    if (values.empty())
        return otherwise;
    const std::size_t i = by_ping ? (by_beam ? row * beams + beam : row) : (by_beam ? beam : 0);
    return std::isfinite(values[i]) ? values[i] : otherwise;
}

std::size_t BeamGroup::Spread::mend(double least, double most, bool zero_is_untold) {
    std::size_t good = 0, false_ones = 0, untold = 0;
    for (auto &v : values) {
        if (v >= least && v <= most) {
            ++good;
            continue;
        }
        if (std::isnan(v) || (zero_is_untold && v == 0))
            ++untold;
        else
            ++false_ones;
        v = std::numeric_limits<double>::quiet_NaN();
    }
    if (good == values.size())
        return 0;
    if (good == 0) {
        values.clear();
        return false_ones;
    }
    const auto step = by_ping && by_beam ? beams : std::size_t{1};
    const auto fill = [&](std::size_t i, std::size_t from) {
        if (std::isnan(values[i]))
            values[i] = values[from];
    };
    for (std::size_t i = step; by_ping && i < values.size(); ++i)
        fill(i, i - step);
    for (std::size_t i = by_ping ? values.size() - std::min(step, values.size()) : 0; by_ping && i-- > 0;)
        fill(i, i + step);
    return false_ones + untold;
}

Result<BeamGroup::Spread> BeamGroup::spread(const NcGroup &g, const char *name, std::size_t pings,
                                            std::size_t beams) {
    Spread s;
    s.beams = beams;
    const auto v = g.variable(name);
    if (!v)
        return s;
    using Shape = std::vector<std::size_t>;
    if (v->shape.empty() || (v->shape == Shape{1} && pings != 1)) {
    } else if (v->shape == Shape{pings}) {
        s.by_ping = true;
    } else if (v->shape == Shape{pings, beams}) {
        s.by_ping = s.by_beam = true;
    } else if (v->shape == Shape{beams}) {
        s.by_beam = true;
    } else {
        return wrong(g, name, "wrong dimensions");
    }
    auto values = v->numbers();
    if (!values)
        return wrong(g, name, "holds no readable numbers");
    s.values = std::move(*values);
    return s;
}

Result<BeamGroup> BeamGroup::open(const NcGroup &g, std::vector<std::string> &warnings) {
    BeamGroup b;
    b.path_ = g.path;
    b.transducer_id_ = g.text_attribute("transducer_id");
    const auto samples = g.variable("backscatter_r");
    if (!samples)
        return wrong(g, "backscatter_r", "is missing");
    const auto axis = g.variable("ping_time");
    if (!axis)
        return wrong(g, "ping_time", "is missing");
    if (axis->shape.size() != 1)
        return wrong(g, "ping_time", "wrong dimensions");
    const std::size_t wanted = samples->variable_length ? 2 : 3;
    const std::size_t pings = axis->shape[0];
    // A group with a single beam may leave out the axis of beams.
    const bool no_beam_axis = samples->shape.size() + 1 == wanted;
    if ((samples->shape.size() != wanted && !no_beam_axis) || samples->shape[0] != pings)
        return wrong(g, "backscatter_r",
                     samples->variable_length ? "wrong dimensions, (ping_time, beam) is asked for"
                                              : "wrong dimensions, (ping_time, beam, sample) is asked for");
    const std::size_t beams = no_beam_axis ? 1 : samples->shape[1];
    if (beams == 0 || beams > 64)
        return wrong(g, "backscatter_r", told("wrong dimensions, {} beams", beams));
    if (!samples->variable_length) {
        if (samples->type == NC_CHAR || samples->type == NC_STRING)
            return wrong(g, "backscatter_r", "holds text where samples are asked for");
        if (samples->shape.back() > most_shaped_samples)
            return wrong(g, "backscatter_r",
                         told("{} samples a ping are more than this program takes", samples->shape.back()));
    }
    b.samples_ = SampleRows(*samples, beams);
    auto times = read_times(*axis);
    if (!times)
        return wrong(g, "ping_time", times.error().happened);
    b.times_ = std::move(*times);

    const auto units = samples->text_attribute("units").value_or("");
    if (units == "count" || units == "counts") {
        b.unit_ = Unit::count;
        const auto zero = samples->number_attribute("db_at_zero"),
                   step = samples->number_attribute("db_per_count");
        constexpr double most_db = 10'000;
        if (!zero || !step || !(std::fabs(*zero) <= most_db) || !(*step > 0 && *step <= most_db))
            return wrong(g, "backscatter_r", "counts without a usable db_at_zero and db_per_count");
        b.db_at_zero_ = *zero;
        b.db_per_count_ = *step;
        b.count_max_ = samples->number_attribute("count_max");
        if (b.count_max_ && !(*b.count_max_ > 0 && *b.count_max_ <= 1e9))
            b.count_max_.reset();
        b.direct_ = samples->base_type == NC_UBYTE || samples->base_type == NC_USHORT;
        if (!b.count_max_ && samples->base_type == NC_UBYTE)
            b.count_max_ = 255;
        if (!b.count_max_ && samples->base_type == NC_USHORT)
            b.count_max_ = 65535;
    } else if (units == "dB") {
        b.unit_ = Unit::decibel;
    } else if (units == "1") {
        b.unit_ = Unit::amplitude;
    } else {
        return wrong(g, "backscatter_r",
                     units.empty() ? "has no units" : fmt::format("unknown units '{}'", units));
    }
    b.stored_ = samples->packing();
    if (!b.stored_.usable())
        return wrong(g, "backscatter_r",
                     "is packed by a scale_factor or an add_offset that is no usable number");
    b.direct_ = b.direct_ && !b.stored_.packed();

    if (auto read = b.read_parts(g, pings, beams, warnings); !read)
        return tl::unexpected(read.error());
    if (auto read = b.read_sides(g, pings, beams, warnings); !read)
        return tl::unexpected(read.error());
    return b;
}

// What is told of each ping beside its samples, each held to what it can be; what is no such number is told
// and the one before it serves. Nothing told at all is as good as a part that is absent.
Result<void> BeamGroup::read_parts(const NcGroup &g, std::size_t pings, std::size_t beams,
                                   std::vector<std::string> &warnings) {
    constexpr double any = std::numeric_limits<double>::infinity();
    struct Part {
        const char *name;
        Spread *into;
        double least, most;
        bool zero_is_untold = false;
    };
    const Part parts[] = {
        {"sample_interval", &interval_, -any, any},
        {"sample_time_offset", &offset_, -1e6, 1e6},
        {"blanking_interval", &blanking_, 0, 1e6},
        {"beam_direction_x", &x_, -1e6, 1e6},
        {"beam_direction_y", &y_, -1e6, 1e6},
        {"beam_direction_z", &z_, -1e6, 1e6},
        {"beamwidth_receive_minor", &along_, 1e-3, 360, true},
        {"beamwidth_transmit_minor", &along_tx_, 1e-3, 360, true},
        {"beamwidth_receive_major", &across_, 1e-3, 360, true},
        {"transducer_gain", &gain_, -1000, 1000},
        {"transmit_frequency_start", &start_, 1, 1e9, true},
        {"transmit_frequency_stop", &stop_, 1, 1e9, true},
        {"transmit_duration_nominal", &pulse_, 1e-9, 1, true},
    };
    for (const auto &[name, into, least, most, zero_is_untold] : parts) {
        auto s = spread(g, name, pings, beams);
        if (!s)
            return tl::unexpected(s.error());
        *into = std::move(*s);
        if (into == &interval_)
            continue;
        const auto mended = into->mend(least, most, zero_is_untold);
        if (mended > 0 && into->told())
            warnings.push_back(
                told("{}/{}: {} of {} values hold no number or cannot be true; the one before serves", g.path,
                     name, mended, into->values.size()));
        else if (mended > 0)
            warnings.push_back(told("{}/{}: cannot be true and is not used", g.path, name));
    }
    if (!interval_.told())
        return wrong(g, "sample_interval", "is missing");
    if (interval_.by_beam)
        return wrong(g, "sample_interval", "wrong dimensions");
    for (const double v : interval_.values)
        if (!(v > 0) || !std::isfinite(v))
            return wrong(g, "sample_interval", told("{} is not positive", v));
    return {};
}

// Which beam looks where: by name, and by direction where the name says nothing.
Result<void> BeamGroup::read_sides(const NcGroup &g, std::size_t pings, std::size_t beams,
                                   std::vector<std::string> &warnings) {
    std::vector<std::string> names;
    if (const auto v = g.variable("beam")) {
        if (auto t = v->texts())
            names = std::move(*t);
        if (!names.empty() && names.size() != beams)
            return wrong(g, "beam", "wrong dimensions");
    }
    names.resize(beams);
    const bool directed = y_.told() || z_.told() || x_.told();
    for (std::size_t i = 0; i < beams; ++i) {
        auto side = side_named(lower(names[i]));
        const double x = x_.at(0, i, 0), y = y_.at(0, i, 0), z = z_.at(0, i, 0);
        if (!side) {
            if (!directed || (pings > 0 && x == 0 && y == 0 && z == 0))
                return wrong(g, "beam",
                             told("the beam '{}' has neither a known name nor a direction", names[i]));
            if (std::fabs(z) > 0.9)
                side = Side::down;
            else if (std::fabs(y) >= std::fabs(x))
                side = y < 0 ? Side::port : Side::starboard;
            else
                side = Side::around;
            warnings.push_back(told("{}: the name of beam '{}' is unknown; by its direction it looks {}",
                                    g.path, names[i], name_of(*side)));
        } else if ((*side == Side::port && y > 0.1) || (*side == Side::starboard && y < -0.1)) {
            warnings.push_back(
                told("{}: beam '{}' points to the other side; its name was believed", g.path, names[i]));
        }
        if (*side != Side::down && std::find(sides_.begin(), sides_.end(), *side) != sides_.end())
            warnings.push_back(
                told("{}: more than one beam looks {}; the first of them is read", g.path, name_of(*side)));
        sides_.push_back(*side);
    }
    return {};
}

Result<std::vector<std::vector<double>>> BeamGroup::raw(std::size_t row) const {
    auto rows = samples_.row(row);
    if (!rows)
        return rows;
    auto &out = *rows;
    // Padding at the end is no water.
    for (auto &v : out) {
        while (!v.empty() && (std::isnan(v.back()) || stored_.is_missing(v.back())))
            v.pop_back();
        // Small counts reach all over their scale, so within them nothing stands for no sample.
        if (!direct_)
            std::transform(v.begin(), v.end(), v.begin(), [&](double s) { return stored_.value(s); });
    }
    return rows;
}

bool BeamGroup::same_samples(std::size_t row_a, std::size_t row_b) const {
    const auto a = raw(row_a), b = raw(row_b);
    return a && b && *a == *b;
}

bool BeamGroup::other_sides_than(const BeamGroup &other) const {
    for (const auto a : sides_) {
        const bool both = std::find(other.sides_.begin(), other.sides_.end(), a) != other.sides_.end();
        // A fan and a cone that both look down are two.
        const bool fan_and_cone =
            a == Side::down && (along_.at(0, 0, along_tx_.at(0, 0, 1)) < 5) !=
                                   (other.along_.at(0, 0, other.along_tx_.at(0, 0, 1)) < 5);
        if (both && !fan_and_cone)
            return false;
    }
    return interval_.values == other.interval_.values && offset_.values == other.offset_.values;
}

Result<Ping> BeamGroup::read(std::size_t row) const {
    auto values = raw(row);
    if (!values)
        return tl::unexpected(values.error());
    Ping p;
    p.sample_interval_s = interval_.at(row, 0, 0);
    p.first_sample_s = offset_.at(row, 0, 0);
    const double f0 = start_.at(row, 0, 0), f1 = stop_.at(row, 0, f0);
    p.frequency_hz = (f0 + f1) / 2;
    p.bandwidth_hz = std::fabs(f1 - f0);
    p.pulse_s = pulse_.at(row, 0, 0);
    const double blanking = blanking_.at(row, 0, 0);
    p.beams.resize(sides_.size());
    for (std::size_t i = 0; i < sides_.size(); ++i) {
        auto &beam = p.beams[i];
        beam.side = sides_[i];
        const double x = x_.at(row, i, 0), y = y_.at(row, i, 0), z = z_.at(row, i, 0);
        const bool directed = x != 0 || y != 0 || z != 0;
        beam.azimuth_deg = nominal_azimuth_deg(beam.side);
        if (directed && std::hypot(x, y) > 0.05)
            beam.azimuth_deg = std::atan2(y, x) * degrees_per_radian;
        // A name that contradicts the direction was believed (and warned about) when the group was opened.
        if ((beam.side == Side::port && beam.azimuth_deg > 0) ||
            (beam.side == Side::starboard && beam.azimuth_deg < 0))
            beam.azimuth_deg = -beam.azimuth_deg;
        beam.depression_deg = directed ? std::atan2(z, std::hypot(x, y)) * degrees_per_radian
                                       : (beam.side == Side::down ? 90 : 30);
        beam.width_along_deg = along_.at(row, i, along_tx_.at(row, i, 1));
        beam.width_across_deg = across_.at(row, i, 50);
        beam.gain_db = gain_.at(row, i, 0);
        beam.scale = direct_ ? LevelScale{db_at_zero_, db_per_count_, 0, 1 << 17} : fine_scale;
        if (unit_ == Unit::count && !direct_) {
            const auto code_of = [](double db) {
                return static_cast<int>(std::lround(
                    std::clamp((db - fine_scale.db_at_zero) / fine_scale.db_per_code, -1e6, 1e6)));
            };
            beam.scale.clip_low = std::max(0, code_of(db_at_zero_));
            if (count_max_)
                beam.scale.clip_high = code_of(db_at_zero_ + db_per_count_ * *count_max_);
        } else if (direct_ && count_max_) {
            beam.scale.clip_high = static_cast<int>(std::min(65534.0, *count_max_));
        }
        const auto &v = (*values)[i];
        beam.code.resize(v.size());
        for (std::size_t k = 0; k < v.size(); ++k) {
            const double t = p.first_sample_s + static_cast<double>(k) * p.sample_interval_s;
            if (!std::isfinite(v[k]) || (blanking > 0 && t < blanking)) {
                beam.code[k] = missing_code;
                continue;
            }
            if (direct_) {
                beam.code[k] = static_cast<std::uint16_t>(std::min(v[k], 65534.0));
                continue;
            }
            const double db = unit_ == Unit::decibel     ? v[k]
                              : unit_ == Unit::amplitude ? 20 * std::log10(std::fabs(v[k]))
                                                         : db_at_zero_ + db_per_count_ * v[k];
            const double code = (db - fine_scale.db_at_zero) / fine_scale.db_per_code;
            beam.code[k] = static_cast<std::uint16_t>(
                std::clamp(std::isnan(code) ? 0.0 : std::round(code), 0.0, 65534.0));
        }
    }
    return p;
}

} // namespace heron
