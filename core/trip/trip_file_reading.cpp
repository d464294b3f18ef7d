// What is read back from a trip.
#include "trip/trip_file.hpp"

#include "trip/nav_codec.hpp"
#include "trip/trip_codec.hpp"

#include <cstring>
#include <nlohmann/json.hpp>

namespace heron {

using namespace trip_codec;
using nlohmann::json;

std::size_t TripFile::rows(StreamId stream) const {
    return static_cast<std::size_t>(
        number_of(db_, "SELECT max(first_row + rows) FROM heron_block WHERE stream = ?1", stream));
}

Installation TripFile::installation(StreamId stream) const {
    const auto text = value(installation_key(stream));
    return text.empty() ? head_.installation : installation_in(text);
}

Result<void> TripFile::set_installation(StreamId stream, const Installation &installation) {
    return set_value(installation_key(stream), text_of(installation));
}

std::vector<std::pair<std::size_t, std::size_t>> TripFile::blocks(StreamId stream) const {
    std::vector<std::pair<std::size_t, std::size_t>> all;
    auto s = db_.prepare(
        "SELECT first_row, first_row + rows FROM heron_block WHERE stream = ?1 ORDER BY first_row");
    if (!s.ready())
        return all;
    s.bind(1, number_of(stream));
    while (s.next())
        all.emplace_back(s.whole(0), s.whole(1));
    return all;
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
    while (s.next()) {
        const auto bytes = unsqueeze(s.blob(1));
        if (!bytes)
            continue;
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
    while (s.next()) {
        const auto bytes = unsqueeze(s.blob(1));
        const auto part = bytes ? unpack_facts(*bytes) : std::nullopt;
        if (!part)
            continue;
        const auto first = static_cast<std::size_t>(s.whole(0));
        if (first > all.size()) {
            RowFacts gap = all.empty() ? RowFacts() : all.back();
            gap.bottom = {};
            all.resize(first, gap);
        }
        all.resize(first);
        all.insert(all.end(), part->begin(), part->end());
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
        all.push_back(read_settings(in));
    }
    return all;
}

NavTrack TripFile::nav() const {
    NavTrack nav;
    auto s = db_.prepare("SELECT payload FROM heron_nav ORDER BY id");
    while (s.next())
        if (const auto bytes = unsqueeze(s.blob(0)))
            unpack_nav(*bytes, nav);
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
        c.row = static_cast<std::size_t>(s.whole(2));
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
        const auto j = json::parse(s.text(0));
        TripConditions c;
        c.wind = j.value("wind", "");
        c.sky = j.value("sky", "");
        c.clarity = j.value("clarity", "");
        c.level = j.value("level", "");
        if (j.contains("temperature_c"))
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
    while (s.next()) {
        const auto bytes = unsqueeze(s.blob(0));
        if (!bytes)
            continue;
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
