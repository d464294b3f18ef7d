#include "trip/trip_recording.hpp"

#include "files/atomic_file.hpp"
#include "picture/scan.hpp"
#include "recording/damaged_pings.hpp"
#include "sonar/stream.hpp"
#include "trip/open_trip.hpp"

#include <algorithm>
#include <array>
#include <limits>
#include <memory>

namespace heron {

namespace {

RecordingHead recording_head(const TripFile &trip, const Scan &scan) {
    RecordingHead head;
    head.title = trip.head().water;
    head.sonar_model = trip.head().sounder;
    head.installation = trip.head().installation;
    head.nav = scan.nav;
    for (auto &s : trip.sentences(std::numeric_limits<UnixNs>::min(), std::numeric_limits<UnixNs>::max()))
        head.sentences.emplace_back(s.time, std::move(s.line));
    if (const auto c = trip.conditions())
        head.water_temperature_c = c->temperature_c;
    return head;
}

/// One stream of a trip on its way into a recording.
struct Outgoing {
    Scan scan;
    Overview overview;
    std::size_t next = 0;
};

/// One stream of a recording on its way into a trip.
class Incoming {
  public:
    Incoming(TripFile &trip, StreamId stream, const RecordingHead &head) : trip_(trip) {
        scan_.nav = head.nav;
        scan_.installation = head.installation;
        batch_.stream = knowledge_.stream = stream;
        if (stream != StreamId::side)
            return; // track and sentences are the boat's: told once
        for (const auto &[time, line] : head.sentences)
            batch_.sentences.push_back({time, 0, line});
        knowledge_.nav = head.nav;
    }
    Result<void> take(Ping ping) {
        SoundingSettings settings;
        settings.range_m = ping.range_m();
        settings.frequency_hz = ping.frequency_hz;
        settings.gain = ping.beams.empty() ? 0 : static_cast<int>(ping.beams.front().gain_db);
        auto row = assembler_.take(std::move(ping), settings);
        if (!row)
            return {};
        overview_.add(row->ping);
        batch_.rows.push_back(*row);
        scan_.push(std::move(*row));
        return batch_.rows.size() == 64 ? flush() : Result<void>();
    }
    Result<void> finish() {
        if (auto r = flush(); !r)
            return r;
        for (std::size_t n = 0; n < scan_.end(); ++n)
            knowledge_.facts.push_back(scan_.facts(n));
        knowledge_.settings = scan_.all_settings();
        knowledge_.overview = overview_.lines(0);
        if (auto r = trip_.append(knowledge_); !r)
            return r;
        return batch_.stream == StreamId::side ? trip_.append(stretches(scan_, 0, scan_.end()))
                                               : Result<void>();
    }
    std::size_t rows() const { return scan_.end(); }

  private:
    Result<void> flush() {
        if (auto r = trip_.append(batch_); !r)
            return r;
        batch_.first_row += batch_.rows.size();
        batch_.rows.clear();
        batch_.sentences.clear();
        return {};
    }
    TripFile &trip_;
    Scan scan_;
    Overview overview_;
    RowAssembler assembler_;
    TripFile::Batch batch_;
    TripFile::Knowledge knowledge_;
};

} // namespace

Result<std::size_t> recording_from_trip(const std::filesystem::path &trip_path,
                                        const std::filesystem::path &out, const Progress &progress) {
    auto trip = TripFile::open_read_only(trip_path);
    if (!trip)
        return tl::unexpected(trip.error());
    std::array<Outgoing, stream_count> streams;
    for (const auto stream : all_streams) {
        auto &s = streams[static_cast<std::size_t>(stream)];
        if (auto r = open_into(*trip, s.scan, s.overview, stream); !r)
            return tl::unexpected(r.error());
    }
    auto head = recording_head(*trip, streams[0].scan);
    const auto rows = streams[0].scan.end() + streams[1].scan.end();
    for (auto &s : streams)
        if (!s.scan.empty() && head.sound_speed_m_s == 0)
            head.sound_speed_m_s = s.scan.ping(0).sound_speed_m_s;
    auto writer = RecordingWriter::create(out, head);
    if (!writer)
        return tl::unexpected(writer.error());
    std::size_t written = 0;
    for (std::size_t n = 0; n < rows; ++n) {
        // Whichever stream's next row is the older one.
        auto *s = &streams[0];
        auto &bow = streams[1];
        if (bow.next < bow.scan.end() &&
            (s->next == s->scan.end() || bow.scan.facts(bow.next).time < s->scan.facts(s->next).time))
            s = &bow;
        const auto at = s->next++;
        const auto &row = s->scan.row(at);
        if (row.ping.beams.empty())
            continue; // it was not kept, or was thinned out
        auto ping = row.ping;
        ping.time = s->scan.facts(at).time;
        if (auto r = writer->add(ping); !r)
            return tl::unexpected(r.error());
        if (row.down)
            if (auto r = writer->add(*row.down); !r)
                return tl::unexpected(r.error());
        ++written;
        s->scan.trim();
        if (n % 500 == 0 && progress && !progress(static_cast<double>(n) / static_cast<double>(rows)))
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
    std::size_t written = 0;
    DamagedPings damaged;
    const auto give_up = [&](Fault fault) {
        std::filesystem::remove(unfinished, ignored);
        return tl::unexpected<Fault>(std::move(fault));
    };
    {
        const auto &h = reader->head();
        auto trip =
            TripFile::create(unfinished, {h.title, h.sonar_model, reader->time_of(0), h.installation, {}});
        if (!trip)
            return tl::unexpected(trip.error());
        std::array streams{Incoming(*trip, StreamId::side, h), Incoming(*trip, StreamId::around, h)};
        for (std::size_t i = 0; i < reader->size(); ++i) {
            auto ping = reader->ping(i);
            if (!ping) {
                damaged.add(std::move(ping.error()));
                continue;
            }
            auto &stream = streams[static_cast<std::size_t>(stream_of(*ping))];
            if (auto r = stream.take(std::move(*ping)); !r)
                return give_up(r.error());
            if (i % 500 == 0 && progress &&
                !progress(static_cast<double>(i) / static_cast<double>(reader->size())))
                return give_up({"converting was stopped", "nothing was written", ""});
        }
        for (auto &s : streams) {
            if (auto r = s.finish(); !r)
                return give_up(r.error());
            written += s.rows();
        }
    }
    damaged.tell(warnings);
    if (written == 0)
        return give_up({in.string() + ": no ping could be read", "nothing was written", ""});
    if (auto r = move_into_place(unfinished, out); !r)
        return give_up(r.error());
    return written;
}

} // namespace heron
