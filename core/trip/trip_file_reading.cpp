// What is read back from a trip.
#include "trip/trip_file.hpp"

#include "files/json.hpp"
#include "files/json_in.hpp"
#include "trip/nav_codec.hpp"
#include "trip/trip_codec.hpp"

#include <algorithm>
#include <cmath>
#include <cstring>

namespace heron {

using namespace trip_codec;
using nlohmann::json;

namespace {

constexpr std::size_t most_gap = 100'000; // rows of which nothing was kept, over a whole trip
constexpr std::int64_t most_row = 1 << 30;
constexpr std::size_t few_rows = 64; // that a block may hold, however small
constexpr std::size_t most_block_bytes = 64u << 20, most_fetch_bytes = 256u << 20;

// How far the rows of a list of blocks or of facts reach. Each entry claims so many rows from so many on;
// what the file cannot hold, a byte a row at least, is passed over.
class Reach {
  public:
    explicit Reach(std::size_t end = 0) : end_(end) {}
    bool take(std::int64_t first, std::int64_t rows, std::int64_t bytes) {
        const auto whole = static_cast<std::int64_t>(end_);
        const bool sound = first >= 0 && rows > 0 && rows <= bytes + static_cast<std::int64_t>(few_rows) &&
                           first <= whole + static_cast<std::int64_t>(most_gap - gaps_);
        if (!sound) {
            ++passed_over_;
            return false;
        }
        gaps_ += static_cast<std::size_t>(std::max<std::int64_t>(0, first - whole));
        end_ = std::max(end_, static_cast<std::size_t>(first + rows));
        return true;
    }
    std::size_t end() const { return end_; }
    std::size_t passed_over() const { return passed_over_; }

  private:
    std::size_t end_, gaps_ = 0, passed_over_ = 0;
};

} // namespace

// What all that a trip unpacks at once may take: known figures shrink to a tenth, hardly ever to a hundredth.
std::size_t TripFile::most_unpacked() const {
    return (64u << 20) + 100 * static_cast<std::size_t>(db_.bytes());
}

TripFile::Extent TripFile::extent(StreamId stream) const {
    Extent extent;
    Reach known;
    auto facts =
        db_.prepare("SELECT first_row, rows, length(payload) FROM heron_facts WHERE stream = ?1 ORDER BY "
                    "first_row");
    if (facts.ready())
        facts.bind(1, number_of(stream));
    while (facts.next())
        known.take(facts.whole(0), facts.whole(1), facts.whole(2));
    // The rows of a block whose samples were thinned out are as many as are known.
    Reach kept;
    auto s = db_.prepare(
        "SELECT b.first_row, b.rows, length(p.payload) FROM heron_block b LEFT JOIN heron_pings p ON "
        "p.block = b.id WHERE b.stream = ?1 ORDER BY b.first_row");
    if (s.ready())
        s.bind(1, number_of(stream));
    std::size_t thinned_past = 0;
    while (s.next()) {
        const auto first = s.whole(0), rows = s.whole(1);
        const auto left = static_cast<std::int64_t>(known.end()) - first;
        if (s.is_null(2) && !(rows > 0 && rows <= left)) {
            ++thinned_past;
            continue;
        }
        if (kept.take(first, rows, s.is_null(2) ? left : s.whole(2)))
            extent.blocks.emplace_back(static_cast<std::size_t>(first),
                                       static_cast<std::size_t>(first + rows));
    }
    extent.rows = kept.end();
    extent.passed_over = known.passed_over() + kept.passed_over() + thinned_past;
    return extent;
}

std::size_t TripFile::rows(StreamId stream) const {
    return extent(stream).rows;
}

Installation TripFile::installation(StreamId stream) const {
    const auto text = value(installation_key(stream));
    return text.empty() ? head_.installation : installation_in(text);
}

Result<void> TripFile::set_installation(StreamId stream, const Installation &installation) {
    return set_value(installation_key(stream), text_of(installation));
}

std::vector<SoundedRow> TripFile::fetch(std::size_t first, std::size_t count, StreamId stream) const {
    std::vector<SoundedRow> rows;
    auto s = db_.prepare(
        "SELECT b.first_row, p.payload FROM heron_block b JOIN heron_pings p ON p.block = b.id WHERE "
        "b.stream = ?3 AND b.first_row < ?2 AND b.first_row >= coalesce((SELECT max(first_row) FROM "
        "heron_block WHERE stream = ?3 AND first_row <= ?1), 0) ORDER BY b.first_row");
    if (!s.ready())
        return rows;
    s.bind(1, first).bind(2, first + count).bind(3, number_of(stream));
    for (std::size_t left = most_fetch_bytes; s.next();) {
        const auto bytes = unsqueeze(s.blob(1), std::min(left, most_block_bytes));
        if (!bytes)
            continue;
        left -= bytes->size();
        ByteReader in(*bytes);
        for (auto n = static_cast<std::size_t>(s.whole(0)); !in.at_end(); ++n) {
            auto row = read_row(in);
            if (!row)
                break;
            if (n < first || n >= first + count)
                continue;
            rows.resize(n - first); // rows that were never kept hold no beams
            rows.push_back(std::move(*row));
        }
    }
    return rows;
}

Result<std::vector<RowFacts>> TripFile::facts(StreamId stream) const {
    std::vector<RowFacts> all;
    auto s = db_.prepare("SELECT first_row, payload FROM heron_facts WHERE stream = ?1 ORDER BY first_row");
    if (!s.ready())
        return db_.fault("read");
    s.bind(1, number_of(stream));
    std::size_t left = most_unpacked(), gaps = 0;
    while (s.next()) {
        const auto bytes = unsqueeze(s.blob(1), left);
        left -= bytes ? bytes->size() : 0;
        const auto part = bytes ? unpack_facts(*bytes) : std::nullopt;
        const auto number = s.whole(0);
        if (!part || number < 0)
            continue;
        const auto first = static_cast<std::size_t>(number);
        if (first > all.size()) {
            if (first - all.size() > most_gap - gaps)
                continue;
            gaps += first - all.size();
            RowFacts gap = all.empty() ? RowFacts() : all.back();
            gap.bottom = {};
            all.resize(first, gap);
        }
        all.resize(first);
        all.insert(all.end(), part->begin(), part->end());
        hold_facts(all, first);
    }
    if (!s.done())
        return db_.fault("read to its end");
    return all;
}

std::vector<SoundingSettings> TripFile::settings(StreamId stream) const {
    std::vector<SoundingSettings> all;
    auto s = db_.prepare("SELECT settings FROM heron_sounding WHERE stream = ?1 ORDER BY id");
    if (!s.ready())
        return all;
    s.bind(1, number_of(stream));
    while (s.next()) {
        ByteReader in(s.blob(0));
        all.push_back(held(read_settings(in)));
    }
    return all;
}

NavTrack TripFile::nav() const {
    NavSamples samples;
    auto s = db_.prepare("SELECT payload FROM heron_nav ORDER BY id");
    for (std::size_t left = most_unpacked(); s.next();)
        if (const auto bytes = unsqueeze(s.blob(0), left)) {
            left -= bytes->size();
            unpack_nav(*bytes, samples);
        }
    NavTrack nav;
    nav.add(samples);
    return nav;
}

std::vector<OverviewLine> TripFile::overview(StreamId stream) const {
    std::vector<OverviewLine> lines;
    auto s = db_.prepare("SELECT payload FROM heron_overview WHERE stream = ?1 ORDER BY id");
    if (!s.ready())
        return lines;
    s.bind(1, number_of(stream));
    while (s.next()) {
        const auto bytes = s.blob(0);
        for (std::size_t at = 0; at + sizeof(OverviewLine) <= bytes.size(); at += sizeof(OverviewLine)) {
            OverviewLine line;
            std::memcpy(line.data(), bytes.data() + at, sizeof line);
            lines.push_back(line);
        }
    }
    return lines;
}

std::vector<SettingChange> TripFile::changes(bool with_pictures) const {
    std::vector<SettingChange> all;
    auto s = db_.prepare(
        with_pictures ? "SELECT id, time, row, by, what, reason, before, after, verdict, picture_before, "
                        "picture_after FROM heron_changes ORDER BY id"
                      : "SELECT id, time, row, by, what, reason, before, after, verdict, NULL, NULL FROM "
                        "heron_changes ORDER BY id");
    while (s.next()) {
        SettingChange c;
        c.id = s.whole(0);
        c.time = s.whole(1);
        c.row = static_cast<std::size_t>(std::clamp<std::int64_t>(s.whole(2), 0, most_row));
        c.by = s.text(3);
        c.what = s.text(4);
        c.reason = s.text(5);
        c.before = s.text(6);
        c.after = s.text(7);
        c.verdict = s.text(8);
        const auto before = s.blob(9);
        c.picture_before.assign(before.begin(), before.end());
        const auto after = s.blob(10);
        c.picture_after.assign(after.begin(), after.end());
        all.push_back(std::move(c));
    }
    return all;
}

std::optional<TripConditions> TripFile::conditions() const {
    auto s = db_.prepare("SELECT what FROM heron_conditions ORDER BY id DESC LIMIT 1");
    if (!s.ready() || !s.next())
        return std::nullopt;
    try {
        const auto j = parse_json(s.text(0));
        TripConditions c;
        c.wind = j.value("wind", "");
        c.sky = j.value("sky", "");
        c.clarity = j.value("clarity", "");
        c.level = j.value("level", "");
        if (j.contains("temperature_c") && std::isfinite(j["temperature_c"].get<double>()))
            c.temperature_c = j["temperature_c"].get<double>();
        return c;
    } catch (const json::exception &) {
        return std::nullopt;
    }
}

std::vector<HeardSentence> TripFile::sentences(UnixNs from, UnixNs to) const {
    std::vector<HeardSentence> all;
    auto s = db_.prepare(
        "SELECT payload FROM heron_sentences WHERE time_last >= ?1 AND time_first <= ?2 ORDER BY id");
    if (!s.ready())
        return all;
    s.bind(1, from).bind(2, to);
    for (std::size_t left = most_unpacked(); s.next();) {
        const auto bytes = unsqueeze(s.blob(0), left);
        if (!bytes)
            continue;
        left -= bytes->size();
        std::string_view text(reinterpret_cast<const char *>(bytes->data()), bytes->size());
        while (!text.empty()) {
            const auto end = std::min(text.find('\n'), text.size());
            const auto line = text.substr(0, end);
            text.remove_prefix(std::min(end + 1, text.size()));
            const auto a = line.find('\t'), b = line.find('\t', a + 1);
            if (a == std::string_view::npos || b == std::string_view::npos)
                continue;
            HeardSentence h;
            h.time = whole_in(std::string(line.substr(0, a)));
            h.source = static_cast<std::uint8_t>(whole_in(std::string(line.substr(a + 1, b - a - 1))));
            h.line = line.substr(b + 1);
            if (h.time >= from && h.time <= to)
                all.push_back(std::move(h));
        }
    }
    return all;
}

} // namespace heron
