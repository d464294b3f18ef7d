#include "trip/open_trip.hpp"

#include "recording/nmea_feed.hpp"
#include "trip/bottom_by_hand.hpp"

#include <algorithm>
#include <map>

namespace heron {

Result<void> open_into(TripFile &trip, Scan &scan, Overview &overview, StreamId stream) {
    auto facts = trip.facts(stream);
    if (!facts)
        return tl::unexpected(facts.error());
    const auto rows = trip.rows(stream);
    facts->resize(std::min(facts->size(), rows));
    const auto known = facts->size();
    NavTrack late;
    scan.set_installation(trip.installation(stream));
    scan.set_nav(trip.nav());
    // Sentences that came after the last nav sample was written.
    UnixNs told = 0;
    if (!scan.nav.positions().empty())
        told = scan.nav.positions().back().time;
    if (!scan.nav.attitudes().empty())
        told = std::max(told, scan.nav.attitudes().back().time);
    if (facts->size() < rows) {
        std::map<std::uint8_t, NmeaFeed> feeds;
        NavTrack heard;
        for (const auto &s :
             trip.sentences(told > 0 ? told - 5 * ns_per_s : 0, std::numeric_limits<UnixNs>::max()))
            feeds[s.source].take(s.line, s.time, heard);
        for (const auto &p : heard.positions())
            if (p.time > told) {
                scan.nav.add(p);
                late.add(p);
            }
        for (const auto &a : heard.attitudes())
            if (a.time > told) {
                scan.nav.add(a);
                late.add(a);
            }
        for (const auto &d : heard.depths())
            if (d.time > told) {
                scan.nav.add(d);
                late.add(d);
            }
    }
    auto *source = &trip;
    scan.set_fetch([source, stream](std::size_t first, std::size_t count) {
        return source->fetch(first, count, stream);
    });
    scan.set_all_settings(trip.settings(stream));
    scan.push_known(*facts);
    for (auto n = facts->size(); n < rows;) {
        constexpr std::size_t at_once = 256;
        auto part = trip.fetch(n, std::min(at_once, rows - n), stream);
        part.resize(std::min(at_once, rows - n));
        for (auto &r : part) {
            if (r.ping.beams.empty())
                scan.push_gap();
            else
                scan.push(std::move(r));
        }
        n += part.size();
    }
    if (stream == StreamId::side)
        draw_bottom(scan, strokes_from(trip.value(bottom_by_hand_key)));
    overview.clear();
    auto kept_small = trip.overview(stream);
    kept_small.resize(std::min(kept_small.size(), rows / rows_an_overview_line));
    overview.add_lines(kept_small);
    const auto small = overview.lines(0).size() * rows_an_overview_line;
    for (auto n = small; n < rows; ++n)
        overview.add(scan.ping(n));
    if (trip.writes() && (known < rows || overview.lines(0).size() * rows_an_overview_line > small)) {
        TripFile::Knowledge found;
        found.stream = stream;
        found.first_row = known;
        for (auto n = known; n < rows; ++n)
            found.facts.push_back(scan.facts(n));
        found.settings = scan.all_settings();
        if (stream == StreamId::side)
            found.nav = late; // the boat has one track
        const auto &lines = overview.lines(0);
        found.overview.assign(lines.begin() + static_cast<std::ptrdiff_t>(small / rows_an_overview_line),
                              lines.end());
        // Where it cannot be written it is found again the next time.
        (void)trip.append(found);
    }
    return {};
}

} // namespace heron
