// Trips for tests: a minute on the demo lake, kept as the program keeps it.
#pragma once

#include "trip/journal.hpp"
#include "trip/open_trip.hpp"

#include "programs.hpp"
#include "recording/nmea_feed.hpp"
#include "sim/sounder.hpp"

#include <gtest/gtest.h>

namespace heron::test {

inline constexpr UnixNs start = 1'800'000'000LL * ns_per_s;

// Rows and sentences as a minute on the demo lake brings them.
struct Sounded {
    std::vector<SoundedRow> rows;
    std::vector<HeardSentence> sentences;
    Installation installation;
};
inline const Sounded &minute() {
    static const Sounded all = [] {
        Sounded s;
        sim::Sounder sounder(*sim::read_scene_file(lake()), start);
        s.installation = sounder.scene().boat.installation;
        while (s.rows.size() < 400) {
            auto e = sounder.next();
            for (auto &line : e.sentences)
                s.sentences.push_back({e.time, 0, line.substr(0, line.size() - 2)});
            if (e.ping)
                s.rows.push_back({std::move(e.ping->ping), std::nullopt, e.ping->settings});
        }
        return s;
    }();
    return all;
}

inline TripHead head() {
    return {"Ellemoor Water", "heron-sounder", start, minute().installation};
}

// All of the minute through a journal, as the program does it.
inline void keep(
    const std::string &path, Journal::OnFault on_fault = [](const Fault &) {}) {
    auto trip = TripFile::create(path, head());
    ASSERT_TRUE(trip) << trip.error().line();
    Journal journal(std::move(*trip), std::move(on_fault));
    Scan scan;
    scan.installation = minute().installation;
    NmeaFeed feed;
    std::size_t told = 0;
    auto sentence = minute().sentences.begin();
    for (const auto &row : minute().rows) {
        for (; sentence != minute().sentences.end() && sentence->time <= row.ping.time; ++sentence) {
            journal.heard(*sentence);
            feed.take(sentence->line, sentence->time, scan.nav);
        }
        EXPECT_EQ(journal.sounded(row), scan.end());
        scan.push(row);
        if (scan.end() % 100 == 0 && scan.end() < 400) {
            TripFile::Knowledge k;
            k.first_row = told;
            for (; told < scan.settled_until(); ++told)
                k.facts.push_back(scan.facts(told));
            k.settings = scan.all_settings();
            journal.known(std::move(k));
        }
    }
    journal.flush();
    EXPECT_EQ(journal.rows_kept(), 400u);
}

} // namespace heron::test
