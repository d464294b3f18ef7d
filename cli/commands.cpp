#include "commands.hpp"

#include "refuse.hpp"

#include "exchange/mark_files.hpp"
#include "files/atomic_file.hpp"
#include "files/json.hpp"
#include "marks/joining.hpp"
#include "marks/mark_store.hpp"
#include "marks/pack.hpp"
#include "picture/scan.hpp"
#include "recording/damaged_pings.hpp"
#include "recording/recording.hpp"
#include "trip/thin_trip.hpp"
#include "trip/trip_recording.hpp"
#include "units/units.hpp"

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fmt/format.h>
#include <map>
#include <set>
#include <sys/wait.h>
#include <unistd.h>

namespace heron::cli {
namespace {

void warn(const std::vector<std::string> &warnings) {
    for (const auto &w : warnings)
        fmt::print(stderr, "warning: {}\n", w);
}

// What a walk over all pings tells.
struct Summary {
    std::size_t pings = 0, placed = 0;
    DamagedPings damaged;
    UnixNs first = 0, last = 0;
    std::map<std::string, std::size_t> beams;
    std::set<double> frequencies, ranges;
    double shallowest = 0, deepest = 0, distance_m = 0;
};

Summary walk(const RecordingReader &reader) {
    Summary s;
    BottomTracker tracker;
    std::vector<double> altitudes;
    for (std::size_t i = 0; i < reader.size(); ++i) {
        auto ping = reader.ping(i);
        if (!ping) {
            s.damaged.add(std::move(ping.error()));
            continue;
        }
        if (s.pings++ == 0)
            s.first = s.last = ping->time;
        s.first = std::min(s.first, ping->time);
        s.last = std::max(s.last, ping->time);
        for (const auto &b : ping->beams)
            ++s.beams[std::string(name_of(b.side))];
        s.frequencies.insert(std::round(ping->frequency_hz / 1000));
        s.ranges.insert(std::round(ping->range_m() * 10) / 10);
        if (!ping->place_unknown && reader.head().nav.fix_at(ping->time))
            ++s.placed;
        const auto &picks = tracker.push(*ping);
        if (picks.size() > BottomTracker::lag && picks.front().found)
            altitudes.push_back(picks.front().altitude_m);
    }
    if (!altitudes.empty()) {
        const auto [low, high] = std::minmax_element(altitudes.begin(), altitudes.end());
        s.shallowest = *low + reader.head().installation.draught_m();
        s.deepest = *high + reader.head().installation.draught_m();
    }
    const auto &positions = reader.head().nav.positions();
    for (std::size_t i = 1; i < positions.size(); ++i)
        if (!positions[i].broken_before)
            s.distance_m += leg_between(positions[i - 1].place, positions[i].place).distance_m;
    return s;
}

template <class Set>
std::string listed(const Set &values, std::size_t most = 6) {
    std::string text;
    std::size_t n = 0;
    for (const auto &v : values) {
        if (n++ == most)
            return text + ", …";
        text += (text.empty() ? "" : ", ") + fmt::format("{}", v);
    }
    return text;
}

// A recording written anew, with what could be read of it.
Result<std::size_t> rewrite(const std::string &in, const std::string &out,
                            std::vector<std::string> &warnings) {
    const auto reader = RecordingReader::open(in);
    if (!reader)
        return tl::unexpected(reader.error());
    auto writer = RecordingWriter::create(out, reader->head());
    if (!writer)
        return tl::unexpected(writer.error());
    warnings = reader->warnings();
    std::size_t written = 0;
    DamagedPings damaged;
    for (std::size_t i = 0; i < reader->size(); ++i) {
        auto ping = reader->ping(i);
        if (!ping) {
            damaged.add(std::move(ping.error()));
            continue;
        }
        if (auto r = writer->add(*ping); !r)
            return tl::unexpected(r.error());
        ++written;
    }
    if (written == 0)
        return tl::unexpected(damaged.as_refusal());
    if (auto r = writer->finish(); !r)
        return tl::unexpected(r.error());
    damaged.tell(warnings);
    return written;
}

} // namespace

int info(const std::string &path, bool json) {
    const auto reader = RecordingReader::open(path);
    if (!reader)
        return refuse(reader.error());
    const auto s = walk(*reader);
    if (s.pings == 0)
        return refuse(s.damaged.as_refusal());
    auto warnings = reader->warnings();
    s.damaged.tell(warnings);
    warn(warnings);
    const auto &head = reader->head();
    if (json) {
        nlohmann::json j{{"title", head.title},
                         {"pings", s.pings},
                         {"pings_with_place", s.placed},
                         {"from", print_rfc3339(s.first)},
                         {"to", print_rfc3339(s.last)},
                         {"beams", s.beams},
                         {"frequencies_khz", s.frequencies},
                         {"ranges_m", s.ranges},
                         {"sound_speed_m_s", head.sound_speed_m_s},
                         {"positions", head.nav.positions().size()},
                         {"headings", head.nav.attitudes().size()},
                         {"depth_sentences", head.nav.depths().size()},
                         {"track_m", s.distance_m},
                         {"warnings", warnings}};
        if (s.deepest > 0)
            j["water_depth_m"] = {s.shallowest, s.deepest};
        fmt::print("{}\n", j.dump(2, ' ', false, nlohmann::json::error_handler_t::replace));
        return 0;
    }
    const auto line = [](const char *label, const std::string &text) {
        fmt::print("{:<14}{}\n", label, text);
    };
    if (!head.title.empty())
        line("title", head.title);
    line("pings", fmt::format("{} over {:.1f} s, from {} to {}", s.pings, seconds_between(s.first, s.last),
                              print_rfc3339(s.first, 1), print_rfc3339(s.last, 1)));
    std::vector<std::string> beams;
    for (const auto &[name, count] : s.beams)
        beams.push_back(fmt::format("{} ({})", name, count));
    line("beams", listed(beams));
    line("frequency", listed(s.frequencies) + " kHz");
    line("range", listed(s.ranges) + " m each side");
    line("sound speed", fmt::format("{:.1f} m/s", head.sound_speed_m_s));
    if (head.water_temperature_c)
        line("water", fmt::format("{:.1f} °C", *head.water_temperature_c));
    if (s.deepest > 0)
        line("depth",
             fmt::format("{:.1f} to {:.1f} m (from the first bottom return)", s.shallowest, s.deepest));
    line("track", fmt::format("{} positions, {} headings, {:.0f} m", head.nav.positions().size(),
                              head.nav.attitudes().size(), s.distance_m));
    line("places", fmt::format("{} of {} pings have one", s.placed, s.pings));
    return 0;
}

int simulate(const SimulateOptions &options) {
    std::error_code error;
    const auto self = std::filesystem::read_symlink("/proc/self/exe", error);
    const auto sounder = (self.parent_path() / "heron-sounder").string();
    if (error || !std::filesystem::exists(sounder))
        return refuse({"heron-sounder does not stand beside this program", "", "install it again"});
    std::vector<std::string> words{sounder,     options.scene, "--record",
                                   options.out, "--seconds",   fmt::format("{}", options.seconds)};
    if (!options.start.empty())
        words.insert(words.end(), {"--start", options.start});
    for (const auto &[name, value] : {std::pair{"--range", options.range_m},
                                      {"--band", options.band_khz},
                                      {"--gain", options.gain},
                                      {"--tvg", options.tvg_log}})
        if (value)
            words.insert(words.end(), {name, fmt::format("{}", *value)});
    std::vector<char *> arguments;
    for (auto &w : words)
        arguments.push_back(w.data());
    arguments.push_back(nullptr);
    const pid_t child = ::fork();
    if (child < 0)
        return refuse({fmt::format("heron-sounder could not be started: {}", std::strerror(errno)), "", ""});
    if (child == 0) {
        ::execv(sounder.c_str(), arguments.data());
        ::_exit(127);
    }
    int status = 0;
    ::waitpid(child, &status, 0);
    return WIFEXITED(status) ? WEXITSTATUS(status) : 2;
}

int convert(const std::string &in, const std::string &out) {
    const bool from_trip = in.ends_with(TripFile::suffix), to_trip = out.ends_with(TripFile::suffix);
    if (from_trip && to_trip)
        return refuse({"both are trips; use 'heron trip copy'", "nothing was written", ""});
    std::vector<std::string> warnings;
    Result<std::size_t> written;
    if (from_trip)
        written = recording_from_trip(in, out);
    else if (to_trip)
        written = trip_from_recording(in, out, warnings);
    else
        written = rewrite(in, out, warnings);
    if (!written)
        return refuse(written.error());
    warn(warnings);
    fmt::print("{} pings written to {}\n", *written, out);
    return 0;
}

int trip_info(const std::string &path) {
    const auto trip = TripFile::open_read_only(path);
    if (!trip)
        return refuse(trip.error());
    const auto line = [](const char *label, const std::string &text) {
        fmt::print("{:<14}{}\n", label, text);
    };
    const auto &db = trip->database();
    line("water", trip->head().water.empty() ? "not said" : trip->head().water);
    line("sounder", trip->head().sounder);
    line("started", print_rfc3339(trip->head().started, 0));
    const auto first = db.number("SELECT min(time_first) FROM heron_block").value_or(0),
               last = db.number("SELECT max(time_last) FROM heron_block").value_or(0);
    std::size_t passed_over = 0;
    for (const auto stream : all_streams)
        passed_over += trip->extent(stream).passed_over;
    if (passed_over > 0)
        warn({told("{} parts of the trip claim more than the file can hold and were passed over",
                   passed_over)});
    line("rows", fmt::format("{} over {:.0f} s", trip->rows(), seconds_between(first, last)));
    line("pings kept",
         fmt::format("{}",
                     db.number("SELECT coalesce(sum(b.rows), 0) FROM heron_block b JOIN heron_pings p ON "
                               "p.block = b.id")
                         .value_or(0)));
    if (db.has_table("marks"))
        line("marks", fmt::format("{}", db.number("SELECT count(*) FROM marks").value_or(0)));
    line("changes",
         fmt::format("{}, {} judged", db.number("SELECT count(*) FROM heron_changes").value_or(0),
                     db.number("SELECT count(*) FROM heron_changes WHERE verdict <> ''").value_or(0)));
    if (const auto c = trip->conditions()) {
        std::string text;
        for (const auto *w : {&c->wind, &c->sky, &c->clarity, &c->level})
            if (!w->empty())
                text += (text.empty() ? "" : ", ") + *w;
        line("conditions", text);
    }
    if (const auto thinned = trip->value("thinned"); !thinned.empty())
        line("thinned", thinned);
    return 0;
}

int trip_note(const std::string &path, const std::string &text) {
    auto trip = TripFile::open(path);
    if (!trip)
        return refuse(trip.error());
    const auto rows = trip->rows();
    const auto last = trip->database().number("SELECT max(time_last) FROM heron_block").value_or(0);
    if (auto r = trip->note(last, rows > 0 ? rows - 1 : 0, text); !r)
        return refuse(r.error());
    return 0;
}

int trip_copy(const std::string &in, const std::string &out) {
    std::error_code ignored;
    if (std::filesystem::exists(out, ignored))
        return refuse({out + " stands there already", "it was left as it is", "choose another name"});
    const auto trip = TripFile::open_read_only(in);
    if (!trip)
        return refuse(trip.error());
    const auto unfinished = unfinished_name(out);
    if (auto r = trip->database().back_up(unfinished); !r) {
        std::filesystem::remove(unfinished, ignored);
        return refuse(r.error());
    }
    if (auto copy = Database::open(unfinished, Database::Mode::write))
        copy->run("PRAGMA journal_mode = DELETE");
    if (auto r = move_into_place(unfinished, out); !r)
        return refuse(r.error());
    return 0;
}

int trip_thin(const std::string &path, double around_marks_s, const std::vector<std::string> &keep,
              bool do_it) {
    ThinPlan plan;
    plan.around_marks_s = around_marks_s;
    for (const auto &k : keep) {
        unsigned long first = 0, end = 0;
        if (std::sscanf(k.c_str(), "%lu-%lu", &first, &end) != 2 || end < first)
            return refuse(
                {fmt::format("'{}' is no stretch of rows, such as 1000-2500", k), "nothing was done", ""});
        plan.stretches.emplace_back(first, end + 1);
    }
    Result<ThinSaving> saving;
    if (do_it) {
        saving = thin_trip(path, plan, [](double share) {
            fmt::print(stderr, "\r{:3.0f} %", 100 * share);
            return true;
        });
        fmt::print(stderr, "\n");
    } else if (const auto trip = TripFile::open_read_only(path)) {
        saving = plan_thinning(*trip, plan);
    } else {
        return refuse(trip.error());
    }
    if (!saving)
        return refuse(saving.error());
    fmt::print("{} of {} rows stay, {:.1f} of {:.1f} MB {}\n", saving->rows_kept, saving->rows_before,
               static_cast<double>(saving->bytes_gone) / 1e6, static_cast<double>(saving->bytes_before) / 1e6,
               do_it ? "were freed; a mosaic of the bottom was kept" : "would be freed (add --do to do it)");
    return 0;
}

namespace {

void list_marks(const std::vector<Mark> &all) {
    for (const auto &m : all) {
        fmt::print("{:<28}{:<11}{:<11}{}", plain_name(m), name_of(m.family),
                   m.kind == Kind::none ? "–" : name_of(m.kind),
                   m.place ? print_position(m.place->latitude_deg, m.place->longitude_deg) : "place unknown");
        if (m.height_m)
            fmt::print("  {} m tall ± {}", print_number(m.height_m->value, 2),
                       print_number(m.height_m->sd, 2));
        fmt::print("\n");
    }
    fmt::print("{} marks\n", all.size());
}

} // namespace

int marks(const MarksOptions &o) {
    PackSettings pack;
    pack.receiver = Level::me;
    if (!o.level.empty()) {
        const auto level = level_named(o.level);
        if (!level)
            return refuse({told("'{}' is no level", o.level), told("nothing was written"),
                           told("me, crew, client and anyone are")});
        pack.receiver = *level;
    }
    if (o.coarsen_m > 0)
        pack.coarsen_m = o.coarsen_m;
    const bool packs = !o.level.empty() || o.coarsen_m > 0 || !o.tags.empty() || !o.kinds.empty();
    for (const auto &k : o.kinds) {
        if (const auto kind = kind_named(k))
            pack.kinds.insert(*kind);
        else if (const auto family = family_named(k))
            pack.families.insert(*family);
        else
            return refuse({told("'{}' is no kind", k), told("nothing was written"),
                           told("stump, boulder, fish … are")});
    }
    pack.tags = o.tags;
    auto read = read_mark_file(o.in);
    if (!read)
        return refuse(read.error());
    warn(read->warnings);
    auto all = std::move(read->marks);
    if (packs) {
        for (const auto &line : told_of_pack(all, pack))
            fmt::print("{}\n", line);
        all = packed(all, pack);
    }
    if (o.join) {
        std::size_t n = 0;
        for (auto proposals = propose_joins(all, o.join_from); !proposals.empty();
             proposals = propose_joins(all, o.join_from))
            for (const auto &p : proposals) {
                const auto at = [&](const std::string &id) {
                    return std::find_if(all.begin(), all.end(), [&](const Mark &m) { return m.id == id; });
                };
                const auto b = *at(p.b);
                *at(p.a) = joined(*at(p.a), b);
                all.erase(at(p.b));
                ++n;
            }
        fmt::print("{} joined\n", n);
    }
    if (o.out.empty()) {
        list_marks(all);
        return 0;
    }
    warn(lost_in(o.out, all));
    if (!packs && o.out.ends_with(".gpkg") && std::filesystem::exists(o.out)) {
        auto store = MarkStore::open(o.out);
        if (!store)
            return refuse(store.error());
        if (auto r = store->write({all, {}}); !r)
            return refuse(r.error());
        fmt::print("{} marks written to {}\n", all.size(), o.out);
        return 0;
    }
    const auto written = write_mark_file(o.out, all, {o.name_letters, o.plain_names});
    if (!written)
        return refuse(written.error());
    fmt::print("{} marks written to {}\n", written->written, o.out);
    return 0;
}

} // namespace heron::cli
