// What was sounded: a row a ping, numbered from 0. What is small is held for every row; samples are held for
// the newest and for those looked at lately, and fetched where they are kept when asked for.
#pragma once

#include "geo/position.hpp"
#include "picture/row_facts.hpp"
#include "sonar/nav_track.hpp"
#include "sonar/sounded_row.hpp"

#include <deque>
#include <functional>
#include <memory>
#include <unordered_map>

namespace heron {

class Scan {
  public:
    /// Fetches up to `count` rows from `first` on; fewer where they cannot be had.
    using Fetch = std::function<std::vector<SoundedRow>(std::size_t first, std::size_t count)>;

    explicit Scan(std::size_t most_bytes = 120u << 20) : most_bytes_(most_bytes) {}

    /// Where rows that are no longer held can be had; without it the oldest rows are let go for good.
    void set_fetch(Fetch fetch) { fetch_ = std::move(fetch); }

    /// Adds the next row, follows the bottom, and computes what the boat did.
    void push(SoundedRow row);
    /// Adds rows that never came through here: what is known of them is told, samples are fetched when asked
    /// for.
    void push_known(std::span<const RowFacts> facts);
    /// Puts in what became known since of rows from `first` on; rows that are not there yet are passed over.
    void amend(std::size_t first, std::span<const RowFacts> facts);
    /// Adds a row of which nothing is known but that it was kept.
    void push_gap();

    std::size_t first() const { return fetch_ ? 0 : live_first_; } ///< oldest row that can be had
    std::size_t end() const { return facts_.size(); }              ///< number of the next row
    bool empty() const { return end() == first(); }
    bool holds(std::size_t n) const { return n >= first() && n < end(); }

    const RowFacts &facts(std::size_t n) const { return facts_[n]; }
    const RowFacts &newest() const { return facts_.back(); }
    const BottomPick &bottom(std::size_t n) const { return facts_[n].bottom; }
    /// Those under which a row was sounded; what is not known is all zeros.
    const SoundingSettings &settings(std::size_t n) const;
    /// The samples of a row; a ping without beams where they cannot be had. Valid until `trim` or `push`.
    const Ping &ping(std::size_t n) const { return row(n).ping; }
    const SoundedRow &row(std::size_t n) const;
    /// From this row on, bottoms and turns may have changed with the last push.
    std::size_t provisional_from() const;
    /// Rows whose facts will not change any more, those of the guide's hand excepted.
    std::size_t settled_until() const { return provisional_from(); }

    /// The guide's word on where the bottom is under the boat. Stays until the tracker is asked again.
    void correct_bottom(std::size_t first, std::span<const BottomPick> picks);

    /// Takes such a word back: the picks as they were.
    void restore_bottom(std::size_t first, std::span<const BottomPick> picks);

    const std::vector<SoundingSettings> &all_settings() const { return settings_; }
    void set_all_settings(std::vector<SoundingSettings> settings) { settings_ = std::move(settings); }

    /// The last row at or before a time; `first()` where there is none.
    std::size_t row_at(UnixNs time) const;
    /// Lets go of samples that were fetched long ago, down to the bound.
    void trim();
    std::size_t bytes_held() const { return live_bytes_ + fetched_bytes_; }

    NavTrack nav;
    Installation installation;
    /// How the devices are mounted, and how late positions are told.
    void set_installation(const Installation &told) {
        installation = told;
        nav.positions_late_s = told.positions_late_s;
    }
    /// The boat's way; how late positions are told stays as it was.
    void set_nav(NavTrack track) {
        nav = std::move(track);
        nav.positions_late_s = installation.positions_late_s;
    }

  private:
    static constexpr std::size_t rows_a_fetch = 64;
    static constexpr std::uint64_t ask_again_after = 20'000; // rows that were looked at
    struct Part {
        std::vector<std::shared_ptr<const SoundedRow>> rows; // as many as a fetch brings; null: not there
        std::size_t bytes = 0, asked_at = 0; // how many rows the scan had when it was asked for
        std::uint64_t used = 0, asked_use = 0;
    };
    void fetch_part(std::size_t number, Part &part) const;
    void add_facts(const SoundedRow &row);
    void settle_turns();
    void use_sounder(BottomPick &pick, UnixNs time) const;

    std::size_t most_bytes_;
    Fetch fetch_;
    std::deque<RowFacts> facts_;
    std::vector<SoundingSettings> settings_;
    std::deque<SoundedRow> live_; // the newest rows
    std::size_t live_first_ = 0, live_bytes_ = 0;
    mutable std::unordered_map<std::size_t, Part> fetched_;
    mutable std::size_t fetched_bytes_ = 0;
    mutable std::uint64_t uses_ = 0;
    BottomTracker tracker_;
    std::size_t tracked_from_ = 0; // first row that went through the tracker in one run
    std::size_t turns_until_ = 0;
};

} // namespace heron
