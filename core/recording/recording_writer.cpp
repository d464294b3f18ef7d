#include "files/atomic_file.hpp"
#include "recording/netcdf_file.hpp"
#include "recording/recording.hpp"
#include "version/version.hpp"
#include "water/water.hpp"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <fmt/format.h>
#include <netcdf.h>
#include <stdexcept>

namespace heron {
namespace {

constexpr std::size_t rows_at_once = 128;

// Thrown inside this file only, caught at its edge.
struct NcError : std::runtime_error {
    using std::runtime_error::runtime_error;
};
void must(int status) {
    if (status != NC_NOERR)
        throw NcError(nc_strerror(status));
}

std::uint64_t ns_since_1601(UnixNs t) {
    return static_cast<std::uint64_t>(t / ns_per_s + seconds_1601_to_1970 - (t % ns_per_s < 0)) *
               1'000'000'000u +
           static_cast<std::uint64_t>((t % ns_per_s + ns_per_s) % ns_per_s);
}

int group(int parent, const char *name) {
    int id = 0;
    must(nc_def_grp(parent, name, &id));
    return id;
}
int dimension(int g, const char *name, std::size_t length) {
    int id = 0;
    must(nc_def_dim(g, name, length, &id));
    return id;
}
void text(int g, int v, const char *name, const std::string &value) {
    must(nc_put_att_text(g, v, name, value.size(), value.c_str()));
}
int variable(int g, const char *name, nc_type type, std::vector<int> dimensions,
             const char *units = nullptr) {
    int id = 0;
    must(nc_def_var(g, name, type, static_cast<int>(dimensions.size()), dimensions.data(), &id));
    if (units != nullptr)
        text(g, id, "units", units);
    return id;
}
int time_variable(int g, const char *name, int dim) {
    const int id = variable(g, name, NC_UINT64, {dim}, "nanoseconds since 1601-01-01 00:00:00Z");
    text(g, id, "axis", "T");
    text(g, id, "standard_name", "time");
    text(g, id, "calendar", "gregorian");
    return id;
}
void scalar(int g, const char *name, const char *units, double value) {
    const int id = variable(g, name, NC_DOUBLE, {}, units);
    must(nc_put_var_double(g, id, &value));
}
template <class Samples, class Value>
std::vector<double> column(const Samples &samples, Value value) {
    std::vector<double> v;
    v.reserve(samples.size());
    for (const auto &s : samples)
        v.push_back(value(s));
    return v;
}
void put(int g, int v, const std::vector<double> &values) {
    if (!values.empty())
        must(nc_put_var_double(g, v, values.data()));
}
template <class Samples>
void put_times(int g, int v, const Samples &samples) {
    std::vector<unsigned long long> t;
    t.reserve(samples.size());
    for (const auto &s : samples)
        t.push_back(ns_since_1601(s.time));
    if (!t.empty())
        must(nc_put_var_ulonglong(g, v, t.data()));
}
void strings(int g, const char *name, int dim, const std::vector<std::string> &values) {
    const int id = variable(g, name, NC_STRING, {dim});
    std::vector<const char *> pointers;
    pointers.reserve(values.size());
    for (const auto &s : values)
        pointers.push_back(s.c_str());
    if (!pointers.empty())
        must(nc_put_var_string(g, id, pointers.data()));
}
void offsets(int g, const char *stem, int dim, const BodyOffset &o) {
    const std::pair<const char *, double> axes[] = {
        {"x", o.forward_m}, {"y", o.starboard_m}, {"z", o.down_m}};
    for (const auto &[axis, value] : axes) {
        const int id = variable(g, fmt::format("{}_offset_{}", stem, axis).c_str(), NC_DOUBLE, {dim}, "m");
        must(nc_put_var_double(g, id, &value));
    }
}

// Beams that look down are apart: the thin fan and the cone each have a group of their own.
enum class Kind { side_scan, down_fan, down_cone, around };
Kind kind_of(const Beam &b) {
    switch (b.side) {
    case Side::down:
        return b.is_thin() ? Kind::down_fan : Kind::down_cone;
    case Side::around:
        return Kind::around;
    case Side::port:
    case Side::starboard:
        break;
    }
    return Kind::side_scan;
}

} // namespace

struct RecordingWriter::State {
    // The pings of one beam group that wait to be written in one go.
    struct Group {
        Kind kind;
        LevelScale scale;
        int id = 0;
        bool narrow = true;
        std::vector<Side> sides;
        std::size_t written = 0;
        std::vector<Ping> waiting;
    };
    std::filesystem::path path, unfinished;
    RecordingHead head;
    int file = -1;
    int sonar = -1;
    int sample8 = -1, sample16 = -1;
    std::vector<Group> groups;
    std::vector<double> frequencies;
    bool finished = false;

    ~State() {
        const std::scoped_lock hold(netcdf_lock());
        if (file >= 0)
            nc_close(file);
        std::error_code ignored;
        if (!finished)
            std::filesystem::remove(unfinished, ignored);
    }
    tl::unexpected<Fault> fault(const std::string &why) const {
        return fail(told("{} could not be written: {}", path.string(), why),
                    "what was there before is untouched",
                    "check the folder and the space on the disk, then try again");
    }
    void define_head();
    Group &group_for(Kind kind, const LevelScale &scale);
    void define_group(Group &g);
    void write_waiting(Group &g);
};

void RecordingWriter::State::define_head() {
    const auto now = std::chrono::duration_cast<std::chrono::nanoseconds>(
                         std::chrono::system_clock::now().time_since_epoch())
                         .count();
    text(file, NC_GLOBAL, "Conventions", "CF-1.7, SONAR-netCDF4-1.0, ACDD-1.3");
    text(file, NC_GLOBAL, "title", head.title);
    text(file, NC_GLOBAL, "summary", head.summary);
    text(file, NC_GLOBAL, "date_created", print_rfc3339(now, 0));
    text(file, NC_GLOBAL, "keywords", "side scan sonar");
    text(file, NC_GLOBAL, "license", "");
    text(file, NC_GLOBAL, "rights", "");
    text(file, NC_GLOBAL, "sonar_convention_authority", "ICES");
    text(file, NC_GLOBAL, "sonar_convention_name", "SONAR-netCDF4");
    text(file, NC_GLOBAL, "sonar_convention_version", "1.0");

    const int provenance = group(file, "Provenance");
    text(provenance, NC_GLOBAL, "conversion_software_name", "Young Heron");
    text(provenance, NC_GLOBAL, "conversion_software_version", version);
    text(provenance, NC_GLOBAL, "conversion_time", print_rfc3339(now, 0));

    const int platform = group(file, "Platform");
    text(platform, NC_GLOBAL, "platform_name", head.platform_name);
    text(platform, NC_GLOBAL, "platform_type", "small boat");
    const auto &positions = head.nav.positions();
    const auto &attitudes = head.nav.attitudes();
    if (!positions.empty()) {
        const int t1 = dimension(platform, "time1", positions.size());
        put_times(platform, time_variable(platform, "time1", t1), positions);
        put(platform, variable(platform, "latitude", NC_DOUBLE, {t1}, "degrees_north"),
            column(positions, [](const auto &p) { return p.place.latitude_deg; }));
        put(platform, variable(platform, "longitude", NC_DOUBLE, {t1}, "degrees_east"),
            column(positions, [](const auto &p) { return p.place.longitude_deg; }));
        const int speed = variable(platform, "speed_ground", NC_FLOAT, {t1}, "m s-1");
        put(platform, speed, column(positions, [&](const PositionSample &p) {
                if (p.speed_m_s >= 0)
                    return p.speed_m_s;
                return head.nav.speed_at(p.time).value_or(std::nan(""));
            }));
    }
    if (!attitudes.empty()) {
        const int t2 = dimension(platform, "time2", attitudes.size());
        put_times(platform, time_variable(platform, "time2", t2), attitudes);
        put(platform, variable(platform, "heading", NC_DOUBLE, {t2}, "degrees_north"),
            column(attitudes, [](const auto &a) { return a.heading_deg; }));
        put(platform, variable(platform, "pitch", NC_FLOAT, {t2}, "arc_degree"),
            column(attitudes, [](const auto &a) { return a.pitch_deg; }));
        put(platform, variable(platform, "roll", NC_FLOAT, {t2}, "arc_degree"),
            column(attitudes, [](const auto &a) { return a.roll_deg; }));
    }
    scalar(platform, "water_level", "m", head.installation.water_level_m);
    const int transducer = dimension(platform, "transducer", 1),
              position = dimension(platform, "position", 1);
    strings(platform, "transducer_ids", transducer, {"transducer"});
    strings(platform, "position_ids", position, {"antenna"});
    offsets(platform, "transducer", transducer, head.installation.transducer);
    offsets(platform, "position", position, head.installation.antenna);
    if (!head.sentences.empty()) {
        const int nmea = group(platform, "NMEA");
        const int dim = dimension(nmea, "time", head.sentences.size());
        std::vector<std::string> lines;
        std::vector<unsigned long long> times;
        for (const auto &[time, line] : head.sentences) {
            times.push_back(ns_since_1601(time));
            lines.push_back(line);
        }
        must(nc_put_var_ulonglong(nmea, time_variable(nmea, "time", dim), times.data()));
        strings(nmea, "NMEA_datagram", dim, lines);
    }
    sonar = group(file, "Sonar");
    text(sonar, NC_GLOBAL, "sonar_manufacturer", "");
    text(sonar, NC_GLOBAL, "sonar_model", head.sonar_model);
    text(sonar, NC_GLOBAL, "sonar_type", "side scan");
    must(nc_def_vlen(sonar, "sample_t", NC_UBYTE, &sample8));
    must(nc_def_vlen(sonar, "sample16_t", NC_USHORT, &sample16));
}

RecordingWriter::State::Group &RecordingWriter::State::group_for(Kind kind, const LevelScale &scale) {
    for (auto &g : groups)
        if (g.kind == kind && g.scale == scale)
            return g;
    Group g{kind, scale, 0, scale.clip_high <= 255, {}, 0, {}};
    if (kind == Kind::side_scan)
        g.sides = {Side::port, Side::starboard};
    else
        g.sides = {kind == Kind::around ? Side::around : Side::down};
    groups.push_back(std::move(g));
    define_group(groups.back());
    return groups.back();
}

void RecordingWriter::State::define_group(Group &g) {
    const auto name = fmt::format("Beam_group{}", groups.size());
    g.id = group(sonar, name.c_str());
    text(g.id, NC_GLOBAL, "transducer_id", "transducer");
    const int ping = dimension(g.id, "ping_time", NC_UNLIMITED);
    const int beam = dimension(g.id, "beam", g.sides.size());
    std::vector<std::string> names;
    for (const auto s : g.sides)
        names.emplace_back(name_of(s));
    strings(g.id, "beam", beam, names);
    const auto chunked = [&](int v) {
        const std::size_t chunks[2] = {rows_at_once, g.sides.size()};
        must(nc_def_var_chunking(g.id, v, NC_CHUNKED, chunks));
        return v;
    };
    chunked(time_variable(g.id, "ping_time", ping));
    const int samples =
        chunked(variable(g.id, "backscatter_r", g.narrow ? sample8 : sample16, {ping, beam}, "count"));
    text(g.id, samples, "long_name", "Raw backscatter measurements (display level)");
    const double zero = g.scale.db_at_zero, step = g.scale.db_per_code;
    must(nc_put_att_double(g.id, samples, "db_at_zero", NC_DOUBLE, 1, &zero));
    must(nc_put_att_double(g.id, samples, "db_per_count", NC_DOUBLE, 1, &step));
    const int most = std::min(g.scale.clip_high, 65534);
    must(nc_put_att_int(g.id, samples, "count_max", NC_INT, 1, &most));
    const std::pair<const char *, const char *> by_ping[] = {
        {"sample_interval", "s"},          {"sample_time_offset", "s"},
        {"blanking_interval", "s"},        {"transmit_frequency_start", "Hz"},
        {"transmit_frequency_stop", "Hz"}, {"transmit_duration_nominal", "s"}};
    for (const auto &[n, units] : by_ping)
        chunked(variable(g.id, n, NC_DOUBLE, {ping}, units));
    const std::pair<const char *, const char *> by_beam[] = {{"beam_direction_x", "1"},
                                                             {"beam_direction_y", "1"},
                                                             {"beam_direction_z", "1"},
                                                             {"beamwidth_receive_major", "arc_degree"},
                                                             {"beamwidth_receive_minor", "arc_degree"},
                                                             {"beamwidth_transmit_major", "arc_degree"},
                                                             {"beamwidth_transmit_minor", "arc_degree"},
                                                             {"transducer_gain", "dB"}};
    for (const auto &[n, units] : by_beam)
        chunked(variable(g.id, n, NC_DOUBLE, {ping, beam}, units));
}

void RecordingWriter::State::write_waiting(Group &g) {
    const std::size_t n = g.waiting.size(), beams = g.sides.size();
    if (n == 0)
        return;
    const std::size_t start[2] = {g.written, 0}, count[2] = {n, beams};
    const auto id_of = [&](const char *name) {
        int id = 0;
        must(nc_inq_varid(g.id, name, &id));
        return id;
    };
    std::vector<unsigned long long> times;
    for (const auto &p : g.waiting)
        times.push_back(ns_since_1601(p.time));
    must(nc_put_vara_ulonglong(g.id, id_of("ping_time"), start, count, times.data()));
    const auto by_ping = [&](const char *name, auto value) {
        std::vector<double> v;
        for (const auto &p : g.waiting)
            v.push_back(value(p));
        must(nc_put_vara_double(g.id, id_of(name), start, count, v.data()));
    };
    by_ping("sample_interval", [](const Ping &p) { return p.sample_interval_s; });
    by_ping("sample_time_offset", [](const Ping &p) { return p.first_sample_s; });
    by_ping("blanking_interval", [](const Ping &p) {
        // The samples that hold nothing at the beginning of every beam.
        std::size_t silent = std::numeric_limits<std::size_t>::max();
        for (const auto &b : p.beams) {
            const auto first =
                std::find_if(b.code.begin(), b.code.end(), [](auto c) { return c != missing_code; });
            silent = std::min(silent, static_cast<std::size_t>(first - b.code.begin()));
        }
        if (p.beams.empty() || silent == 0)
            return 0.0;
        return p.first_sample_s + (static_cast<double>(silent) - 0.5) * p.sample_interval_s;
    });
    by_ping("transmit_frequency_start", [](const Ping &p) { return p.frequency_hz - p.bandwidth_hz / 2; });
    by_ping("transmit_frequency_stop", [](const Ping &p) { return p.frequency_hz + p.bandwidth_hz / 2; });
    by_ping("transmit_duration_nominal", [](const Ping &p) { return p.pulse_s; });
    static const Beam silent_beam;
    const auto beam_of = [&](const Ping &p, Side side) -> const Beam & {
        const auto *b = p.beam(side);
        return b != nullptr ? *b : silent_beam;
    };
    const auto by_beam = [&](const char *name, auto value) {
        std::vector<double> v;
        for (const auto &p : g.waiting)
            for (const auto side : g.sides)
                v.push_back(value(beam_of(p, side), side));
        must(nc_put_vara_double(g.id, id_of(name), start, count, v.data()));
    };
    const auto azimuth = [](const Beam &b, Side side) {
        return (b.side == side ? b.azimuth_deg : nominal_azimuth_deg(side)) / degrees_per_radian;
    };
    by_beam("beam_direction_x", [&](const Beam &b, Side s) {
        return std::cos(b.depression_deg / degrees_per_radian) * std::cos(azimuth(b, s));
    });
    by_beam("beam_direction_y", [&](const Beam &b, Side s) {
        return std::cos(b.depression_deg / degrees_per_radian) * std::sin(azimuth(b, s));
    });
    by_beam("beam_direction_z",
            [](const Beam &b, Side) { return std::sin(b.depression_deg / degrees_per_radian); });
    by_beam("beamwidth_receive_major", [](const Beam &b, Side) { return b.width_across_deg; });
    by_beam("beamwidth_receive_minor", [](const Beam &b, Side) { return b.width_along_deg; });
    by_beam("beamwidth_transmit_major", [](const Beam &b, Side) { return b.width_across_deg; });
    by_beam("beamwidth_transmit_minor", [](const Beam &b, Side) { return b.width_along_deg; });
    by_beam("transducer_gain", [](const Beam &b, Side) { return b.gain_db; });

    std::vector<std::vector<std::uint8_t>> narrow(n * beams);
    std::vector<std::vector<std::uint16_t>> wide(n * beams);
    std::vector<nc_vlen_t> cells(n * beams);
    for (std::size_t i = 0; i < n * beams; ++i) {
        const auto &b = beam_of(g.waiting[i / beams], g.sides[i % beams]);
        if (g.narrow)
            for (const auto c : b.code)
                narrow[i].push_back(static_cast<std::uint8_t>(c == missing_code ? 0 : std::min<int>(c, 255)));
        else
            for (const auto c : b.code)
                wide[i].push_back(c == missing_code ? std::uint16_t{0} : c);
        cells[i] = g.narrow ? nc_vlen_t{narrow[i].size(), narrow[i].data()}
                            : nc_vlen_t{wide[i].size(), wide[i].data()};
    }
    must(nc_put_vara(g.id, id_of("backscatter_r"), start, count, cells.data()));
    g.written += n;
    g.waiting.clear();
}

RecordingWriter::RecordingWriter(std::unique_ptr<State> state) : state_(std::move(state)) {}
RecordingWriter::RecordingWriter(RecordingWriter &&) noexcept = default;
RecordingWriter &RecordingWriter::operator=(RecordingWriter &&) noexcept = default;
RecordingWriter::~RecordingWriter() = default;

Result<RecordingWriter> RecordingWriter::create(const std::filesystem::path &path,
                                                const RecordingHead &head) {
    const std::scoped_lock hold(netcdf_lock());
    auto state = std::make_unique<State>();
    state->path = path;
    state->unfinished = unfinished_name(path);
    state->head = head;
    try {
        quiet_netcdf();
        must(nc_create(state->unfinished.c_str(), NC_NETCDF4 | NC_CLOBBER, &state->file));
        state->define_head();
    } catch (const NcError &error) {
        return state->fault(error.what());
    }
    return RecordingWriter(std::move(state));
}

Result<void> RecordingWriter::add(const Ping &ping) {
    const std::scoped_lock hold(netcdf_lock());
    auto &s = *state_;
    try {
        if (ping.frequency_hz > 0 &&
            std::find(s.frequencies.begin(), s.frequencies.end(), ping.frequency_hz) == s.frequencies.end())
            s.frequencies.push_back(ping.frequency_hz);
        for (const auto kind : {Kind::side_scan, Kind::down_fan, Kind::down_cone, Kind::around}) {
            Ping part = ping;
            std::erase_if(part.beams, [&](const Beam &b) { return kind_of(b) != kind; });
            if (part.beams.empty())
                continue;
            auto &g = s.group_for(kind, part.beams.front().scale);
            g.waiting.push_back(std::move(part));
            if (g.waiting.size() == rows_at_once)
                s.write_waiting(g);
        }
    } catch (const NcError &error) {
        return s.fault(error.what());
    }
    return {};
}

Result<void> RecordingWriter::finish() {
    const std::scoped_lock hold(netcdf_lock());
    auto &s = *state_;
    try {
        for (auto &g : s.groups)
            s.write_waiting(g);
        const int environment = group(s.file, "Environment");
        std::sort(s.frequencies.begin(), s.frequencies.end());
        if (!s.frequencies.empty()) {
            const int dim = dimension(environment, "frequency", s.frequencies.size());
            put(environment, variable(environment, "frequency", NC_DOUBLE, {dim}, "Hz"), s.frequencies);
            std::vector<double> absorption;
            for (const double f : s.frequencies)
                absorption.push_back(absorption_fresh_db_per_m(f, s.head.water_temperature_c.value_or(15)));
            put(environment, variable(environment, "absorption_indicative", NC_DOUBLE, {dim}, "dB m-1"),
                absorption);
        }
        scalar(environment, "sound_speed_indicative", "m s-1", s.head.sound_speed_m_s);
        if (s.head.water_temperature_c)
            scalar(environment, "water_temperature", "degree_C", *s.head.water_temperature_c);
        const int file = std::exchange(s.file, -1);
        must(nc_close(file));
    } catch (const NcError &error) {
        return s.fault(error.what());
    }
    if (auto moved = move_into_place(s.unfinished, s.path); !moved)
        return moved;
    s.finished = true;
    return {};
}

} // namespace heron
