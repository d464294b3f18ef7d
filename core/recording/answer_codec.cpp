#include "recording/answer_codec.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace heron {
namespace {

constexpr std::size_t most_beams_of_a_ping = 64;

void put_text(ByteWriter &out, const std::string &text) {
    out.put(static_cast<std::uint32_t>(text.size()));
    out.bytes.insert(out.bytes.end(), text.begin(), text.end());
}
std::string get_text(ByteReader &in) {
    const auto text = in.take(in.get<std::uint32_t>());
    return {text.begin(), text.end()};
}
void put_number(ByteWriter &out, const std::optional<double> &number) {
    out.put(number.value_or(std::nan("")));
}
std::optional<double> get_number(ByteReader &in) {
    const auto number = in.get<double>();
    return std::isnan(number) ? std::nullopt : std::optional(number);
}

template <class T, class Put>
void put_each(ByteWriter &out, const std::vector<T> &all, const Put &put) {
    out.put(static_cast<std::uint64_t>(all.size()));
    for (const auto &one : all)
        put(one);
}
// As many as there are said to be; where fewer are there, `in` is too short. `get` takes at least a byte.
template <class Get>
void get_each(ByteReader &in, const Get &get) {
    for (auto left = in.get<std::uint64_t>(); left > 0 && !in.too_short(); --left)
        get();
}

void put_fault(ByteWriter &out, const Fault &fault) {
    out.put(std::uint8_t{0});
    for (const auto *part : {&fault.happened, &fault.kept, &fault.to_do})
        put_text(out, *part);
}
Fault get_fault(ByteReader &in) {
    Fault fault;
    for (auto *part : {&fault.happened, &fault.kept, &fault.to_do})
        *part = get_text(in);
    return fault;
}

void put_track(ByteWriter &out, const NavTrack &nav) {
    put_each(out, nav.positions(), [&](const PositionSample &p) {
        out.put(p.time);
        for (const double v : {p.place.latitude_deg, p.place.longitude_deg, p.sd_m, p.speed_m_s})
            out.put(v);
        out.put(static_cast<std::uint8_t>(p.broken_before));
    });
    put_each(out, nav.attitudes(), [&](const AttitudeSample &a) {
        out.put(a.time);
        for (const double v : {a.heading_deg, a.pitch_deg, a.roll_deg})
            out.put(v);
        out.put(static_cast<std::uint8_t>(a.broken_before));
    });
    put_each(out, nav.depths(), [&](const DepthSample &d) {
        out.put(d.time);
        out.put(d.below_transducer_m);
        put_number(out, d.to_waterline_m);
    });
    put_each(out, nav.speeds(), [&](const SpeedSample &s) {
        out.put(s.time);
        out.put(s.m_s);
    });
}
void get_track(ByteReader &in, NavTrack &nav, bool &sane) {
    const auto finite = [&](double v) {
        sane = sane && std::isfinite(v);
        return v;
    };
    get_each(in, [&] {
        PositionSample p;
        p.time = in.get<UnixNs>();
        for (auto *v : {&p.place.latitude_deg, &p.place.longitude_deg, &p.sd_m, &p.speed_m_s})
            *v = finite(in.get<double>());
        p.broken_before = in.get<std::uint8_t>() != 0;
        if (sane)
            nav.add(p);
    });
    get_each(in, [&] {
        AttitudeSample a;
        a.time = in.get<UnixNs>();
        for (auto *v : {&a.heading_deg, &a.pitch_deg, &a.roll_deg})
            *v = finite(in.get<double>());
        a.broken_before = in.get<std::uint8_t>() != 0;
        if (sane)
            nav.add(a);
    });
    get_each(in, [&] {
        DepthSample d;
        d.time = in.get<UnixNs>();
        d.below_transducer_m = finite(in.get<double>());
        d.to_waterline_m = get_number(in);
        if (sane)
            nav.add(d);
    });
    get_each(in, [&] {
        const auto time = in.get<UnixNs>();
        const auto m_s = finite(in.get<double>());
        if (sane)
            nav.add_speed(time, m_s);
    });
}

// The same fields in the same order, to be put or to be set.
template <class Head, class Each>
void each_place(Head &head, const Each &each) {
    for (auto *offset : {&head.installation.transducer, &head.installation.antenna}) {
        each(offset->forward_m);
        each(offset->starboard_m);
        each(offset->down_m);
    }
    each(head.installation.water_level_m);
    each(head.sound_speed_m_s);
}

void put_head(ByteWriter &out, const RecordingHead &head) {
    for (const auto *text : {&head.title, &head.summary, &head.platform_name, &head.sonar_model})
        put_text(out, *text);
    each_place(head, [&](double v) { out.put(v); });
    put_number(out, head.water_temperature_c);
    put_track(out, head.nav);
    put_each(out, head.sentences, [&](const auto &s) {
        out.put(s.first);
        put_text(out, s.second);
    });
}
void get_head(ByteReader &in, RecordingHead &head, bool &sane) {
    for (auto *text : {&head.title, &head.summary, &head.platform_name, &head.sonar_model})
        *text = get_text(in);
    each_place(head, [&](double &v) {
        v = in.get<double>();
        sane = sane && std::isfinite(v);
    });
    head.water_temperature_c = get_number(in);
    get_track(in, head.nav, sane);
    get_each(in, [&] {
        const auto time = in.get<UnixNs>();
        head.sentences.emplace_back(time, get_text(in));
    });
}

// What was asked for, put by `put`, or why it cannot be had.
template <class T, class Put>
std::vector<std::uint8_t> answer_with(const Result<T> &result, const Put &put) {
    ByteWriter out;
    if (result) {
        out.put(std::uint8_t{1});
        put(out, *result);
    } else {
        put_fault(out, result.error());
    }
    return out.bytes;
}
// `get` takes all of it, and says whether it can be so.
template <class T, class Get>
std::optional<Result<T>> read_answer(std::span<const std::uint8_t> bytes, const Get &get) {
    ByteReader in(bytes);
    if (in.get<std::uint8_t>() == 0) {
        auto fault = get_fault(in);
        if (in.too_short() || fault.happened.empty())
            return std::nullopt;
        return tl::unexpected(std::move(fault));
    }
    T value;
    if (!get(in, value) || in.too_short() || !in.at_end())
        return std::nullopt;
    return value;
}

bool get_beam(ByteReader &in, const Ping &ping, Beam &b) {
    const auto side = in.get<std::uint8_t>();
    for (auto *v : {&b.azimuth_deg, &b.depression_deg, &b.width_along_deg, &b.width_across_deg, &b.gain_db,
                    &b.scale.db_at_zero, &b.scale.db_per_code})
        *v = in.get<double>();
    b.scale.clip_low = in.get<int>();
    b.scale.clip_high = in.get<int>();
    const auto count = in.get<std::uint64_t>();
    if (side > static_cast<std::uint8_t>(Side::around) || !std::isfinite(b.scale.db_at_zero) ||
        !std::isfinite(b.scale.db_per_code) || !(ping.slant_m(static_cast<double>(count)) <= most_slant_m))
        return false;
    b.side = static_cast<Side>(side);
    constexpr auto most = std::numeric_limits<std::size_t>::max() / sizeof b.code[0];
    const auto data = in.take(std::min<std::size_t>(count, most) * sizeof b.code[0]);
    b.code.resize(data.size() / sizeof b.code[0]);
    if (!data.empty())
        std::memcpy(b.code.data(), data.data(), data.size());
    return true;
}

} // namespace

std::vector<std::uint8_t> facts_answer(const Result<RecordingFile> &file) {
    return answer_with(file, [](ByteWriter &out, const RecordingFile &f) {
        put_head(out, f.head);
        put_each(out, f.warnings, [&](const std::string &w) { put_text(out, w); });
        put_each(out, f.groups, [&](const BeamGroup &g) { put_text(out, g.path()); });
        put_each(out, f.order, [&](const RecordingEntry &e) {
            out.put(e.time);
            out.put(e.group);
            out.put(static_cast<std::uint64_t>(e.row));
        });
    });
}

std::optional<Result<RecordingFacts>> read_facts_answer(std::span<const std::uint8_t> bytes) {
    return read_answer<RecordingFacts>(bytes, [](ByteReader &in, RecordingFacts &facts) {
        bool sane = true;
        get_head(in, facts.head, sane);
        get_each(in, [&] { facts.warnings.push_back(get_text(in)); });
        get_each(in, [&] { facts.groups.push_back(get_text(in)); });
        get_each(in, [&] {
            RecordingFacts::At at;
            at.time = in.get<UnixNs>();
            at.group = in.get<std::uint32_t>();
            at.row = in.get<std::uint64_t>();
            sane = sane && at.group < facts.groups.size();
            facts.order.push_back(at);
        });
        return sane && !facts.order.empty();
    });
}

std::vector<std::uint8_t> ping_answer(const Result<Ping> &ping) {
    return answer_with(ping, [](ByteWriter &out, const Ping &p) {
        out.put(p.time);
        for (const double v : {p.sound_speed_m_s, p.sample_interval_s, p.first_sample_s, p.frequency_hz,
                               p.bandwidth_hz, p.pulse_s})
            out.put(v);
        out.put(static_cast<std::uint8_t>(p.place_unknown));
        put_each(out, p.beams, [&](const Beam &b) {
            out.put(static_cast<std::uint8_t>(b.side));
            for (const double v : {b.azimuth_deg, b.depression_deg, b.width_along_deg, b.width_across_deg,
                                   b.gain_db, b.scale.db_at_zero, b.scale.db_per_code})
                out.put(v);
            out.put(b.scale.clip_low);
            out.put(b.scale.clip_high);
            out.put(static_cast<std::uint64_t>(b.code.size()));
            const auto *codes = reinterpret_cast<const std::uint8_t *>(b.code.data());
            out.bytes.insert(out.bytes.end(), codes, codes + b.code.size() * sizeof b.code[0]);
        });
    });
}

std::optional<Result<Ping>> read_ping_answer(std::span<const std::uint8_t> bytes) {
    return read_answer<Ping>(bytes, [](ByteReader &in, Ping &ping) {
        ping.time = in.get<UnixNs>();
        for (auto *v : {&ping.sound_speed_m_s, &ping.sample_interval_s, &ping.first_sample_s,
                        &ping.frequency_hz, &ping.bandwidth_hz, &ping.pulse_s})
            *v = in.get<double>();
        ping.place_unknown = in.get<std::uint8_t>() != 0;
        bool sane = std::isfinite(ping.sound_speed_m_s) && ping.sound_speed_m_s > 0 &&
                    std::isfinite(ping.first_sample_s) && std::isfinite(ping.sample_interval_s);
        get_each(in, [&] {
            Beam b;
            sane = get_beam(in, ping, b) && sane && ping.beams.size() < most_beams_of_a_ping;
            if (sane)
                ping.beams.push_back(std::move(b));
        });
        return sane;
    });
}

} // namespace heron
