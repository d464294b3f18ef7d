// What was sounded: pings with their bottom and the boat's track, the newest some hundred megabytes of them.
#pragma once

#include "geo/position.hpp"
#include "picture/bottom_tracker.hpp"
#include "picture/display_window.hpp"
#include "sonar/nav_track.hpp"
#include "sonar/ping.hpp"

#include <deque>
#include <span>

namespace heron {

struct ScanRow {
    Ping ping;
    BottomPick bottom;
    SoundingSettings settings;
};

/// A row is a ping with a side-looking beam; pings that only look down are rows where no other kind was ever
/// heard, and are counted otherwise. Rows are numbered from 0 as they come and keep their number; the oldest
/// are let go when `most_bytes` is reached.
class Scan {
  public:
    explicit Scan(std::size_t most_bytes = 300u << 20) : most_bytes_(most_bytes) {}

    void push(Ping ping, const SoundingSettings &settings = {});
    std::size_t first() const { return first_; }              ///< number of the oldest row still held
    std::size_t end() const { return first_ + rows_.size(); } ///< number of the next row
    bool empty() const { return rows_.empty(); }
    /// `number` in first()…end()−1.
    const ScanRow &row(std::size_t number) const { return rows_[number - first_]; }
    bool holds(std::size_t number) const { return number >= first_ && number < end(); }
    const ScanRow &newest() const { return rows_.back(); }
    /// From this row on, bottoms may have changed with the last push.
    std::size_t provisional_from() const;

    std::size_t down_only() const { return down_only_; }
    const LevelHistogram &levels() const { return levels_; }
    NavTrack nav;
    Installation installation;

  private:
    std::size_t most_bytes_;
    std::size_t bytes_ = 0;
    std::size_t first_ = 0, down_only_ = 0;
    bool side_looking_ = false;
    std::deque<ScanRow> rows_;
    BottomTracker tracker_;
    LevelHistogram levels_;
};

/// Paints one side of a ping into pixels: out[0] is at the transducer, out[n−1] ends at `range_m` (slant). A
/// pixel is the mean of its samples' levels, or the nearest sample where samples are wider; 0 where nothing
/// was heard.
void paint_side(const Ping &ping, const Beam &beam, double range_m, const DisplayWindow &window,
                std::span<std::uint8_t> out);

} // namespace heron
