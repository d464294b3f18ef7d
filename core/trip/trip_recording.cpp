#include "trip/trip_recording.hpp"

#include "files/atomic_file.hpp"
#include "picture/scan.hpp"
#include "trip/open_trip.hpp"

#include <algorithm>
#include <limits>

namespace heron {

Result<std::size_t> recording_from_trip(const std::filesystem::path &trip_path,
                                        const std::filesystem::path &out, const Progress &progress) {
    auto trip = TripFile::look(trip_path);
    if (!trip)
        return tl::unexpected(trip.error());
    Scan scan;
    Overview overview;
    if (auto r = open_into(*trip, scan, overview); !r)
        return tl::unexpected(r.error());
    RecordingHead head;
    head.title = trip->head().water;
    head.sonar_model = trip->head().sounder;
    head.installation = trip->head().installation;
    head.nav = scan.nav;
    for (auto &s : trip->sentences(std::numeric_limits<UnixNs>::min(), std::numeric_limits<UnixNs>::max()))
        head.sentences.emplace_back(s.time, std::move(s.line));
    if (const auto c = trip->conditions())
        head.water_temperature_c = c->temperature_c;
    if (!scan.empty())
        head.sound_speed_m_s = scan.ping(0).sound_speed_m_s;
    auto writer = RecordingWriter::create(out, head);
    if (!writer)
        return tl::unexpected(writer.error());
    std::size_t written = 0;
    for (std::size_t n = 0; n < scan.end(); ++n) {
        const auto &row = scan.row(n);
        if (row.ping.beams.empty())
            continue; // it was not kept, or was thinned out
        auto ping = row.ping;
        ping.time = scan.facts(n).time;
        if (auto r = writer->add(ping); !r)
            return tl::unexpected(r.error());
        if (row.down)
            if (auto r = writer->add(*row.down); !r)
                return tl::unexpected(r.error());
        ++written;
        scan.trim();
        if (n % 500 == 0 && progress && !progress(static_cast<double>(n) / static_cast<double>(scan.end())))
            return fail("converting was stopped", "nothing was written");
    }
    if (written == 0)
        return fail(trip_path.string() + ": the trip holds no pings", "nothing was written");
    if (auto r = writer->finish(); !r)
        return tl::unexpected(r.error());
    return written;
}

Result<std::size_t> trip_from_recording(const std::filesystem::path &in, const std::filesystem::path &out,
                                        std::vector<std::string> &warnings, const Progress &progress) {
    std::error_code ignored;
    if (std::filesystem::exists(out, ignored))
        return fail(out.string() + " stands there already", "it was left as it is", "choose another name");
    auto reader = RecordingReader::open(in);
    if (!reader)
        return tl::unexpected(reader.error());
    warnings = reader->warnings();
    const auto unfinished = unfinished_name(out);
    std::filesystem::remove(unfinished, ignored);
    std::size_t written = 0, damaged = 0;
    const auto give_up = [&](Fault fault) {
        std::filesystem::remove(unfinished, ignored);
        return tl::unexpected<Fault>(std::move(fault));
    };
    {
        const auto &h = reader->head();
        auto trip =
            TripFile::create(unfinished, {h.title, h.sonar_model, reader->time_of(0), h.installation});
        if (!trip)
            return tl::unexpected(trip.error());
        Scan scan;
        scan.nav = h.nav;
        scan.installation = h.installation;
        Overview overview;
        RowAssembler assembler;
        TripFile::Batch batch;
        for (const auto &[time, line] : h.sentences)
            batch.sentences.push_back({time, 0, line});
        TripFile::Knowledge k;
        k.nav = h.nav;
        const auto flush = [&]() -> Result<void> {
            if (auto r = trip->append(batch); !r)
                return r;
            batch.first_row += batch.rows.size();
            batch.rows.clear();
            batch.sentences.clear();
            return {};
        };
        for (std::size_t i = 0; i < reader->size(); ++i) {
            auto ping = reader->ping(i);
            if (!ping) {
                ++damaged;
                continue;
            }
            SoundingSettings settings;
            settings.range_m = ping->range_m();
            settings.frequency_hz = ping->frequency_hz;
            settings.gain = ping->beams.empty() ? 0 : static_cast<int>(ping->beams.front().gain_db);
            auto row = assembler.take(std::move(*ping), settings);
            if (!row)
                continue;
            overview.add(row->ping);
            batch.rows.push_back(*row);
            scan.push(std::move(*row));
            ++written;
            if (batch.rows.size() == 64)
                if (auto r = flush(); !r)
                    return give_up(r.error());
            if (i % 500 == 0 && progress &&
                !progress(static_cast<double>(i) / static_cast<double>(reader->size())))
                return give_up({"converting was stopped", "nothing was written", ""});
        }
        if (auto r = flush(); !r)
            return give_up(r.error());
        for (std::size_t n = 0; n < scan.end(); ++n)
            k.facts.push_back(scan.facts(n));
        k.settings = scan.all_settings();
        k.overview = overview.lines(0);
        if (auto r = trip->append(k); !r)
            return give_up(r.error());
        if (auto r = trip->append(stretches(scan, 0, scan.end())); !r)
            return give_up(r.error());
    }
    if (damaged > 0)
        warnings.push_back(std::to_string(damaged) + " pings are damaged and were left out");
    if (written == 0)
        return give_up({in.string() + ": no ping could be read", "nothing was written", ""});
    if (auto r = move_into_place(unfinished, out); !r)
        return give_up(r.error());
    return written;
}

} // namespace heron
