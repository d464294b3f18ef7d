// During the trip: what the picture says of itself, measured on the pings as they come.
#pragma once

#include "picture/scan.hpp"
#include "tuning/gear.hpp"

#include <array>
#include <deque>
#include <optional>
#include <string>

namespace heron {

/// Measured over the last hundred rows or so, with older ones fading.
struct PictureHealth {
    std::size_t rows = 0;
    double share_full = 0;                    ///< of the bottom zone: at the upper clip
    double share_black = 0;                   ///< of the bottom zone: at the lower clip
    double median_db = 0;                     ///< of the bottom zone, the device's gain contained
    double high_db = 0;                       ///< 99.5 % of the bottom zone lie under it
    double low_clip_db = 0, full_clip_db = 0; ///< where black and full begin
    double water_noise_db = 0;                ///< median of the water column
    double water_noise_high_db = 0;           ///< 95 % of the water column lie under it
    double gain_db = 0; ///< that the device applied: these levels hold it, those of the display do not
    /// Bottom over dark (5 %) in units of the speckle's spread: above 2 shadows stand out.
    double contrast = 0;
    double useful_range_m = 0;     ///< slant range to which the bottom stands 3 dB over noise; 0: not told
    double streak_share = 0;       ///< rows that carry interference
    double left_over_right_db = 0; ///< of the bottom at equal angles
    double range_m = 0, altitude_m = 0, speed_m_s = 0;
    double pings_on_half_metre = 0; ///< at half of the range; not-a-number without speed
};

class Watcher {
  public:
    /// Each row as it comes. `tvg_log` and the frequency tell how the device raised the far levels.
    void add(const Scan &scan, std::size_t row);
    void clear();
    /// Something changed at the device: what was measured before says nothing of now.
    void forget_levels();
    PictureHealth health() const;

  private:
    static constexpr std::size_t ranges = 48;
    using Histogram = std::array<float, 256>;
    void count(Histogram &h, double db) const;
    double quantile(const Histogram &h, double share) const;
    double useful_range() const;

    std::size_t rows_ = 0;
    double lowest_db_ = 0, step_db_ = 0.5; // of the histograms
    Histogram bottom_{}, water_{};
    double full_ = 0, black_ = 0, bottom_n_ = 0;
    double low_clip_db_ = 0, full_clip_db_ = 0, gain_db_ = 0;
    std::array<double, ranges> level_{}, level_n_{}; // mean level without TVG by slant range
    double noise_raw_ = 0, noise_n_ = 0;
    double dark_ = 0, spread_ = 0, spread_n_ = 0;
    std::deque<bool> streaks_;
    std::array<double, 2> side_sum_{}, side_n_{};
    double range_m_ = 0, altitude_m_ = 0, speed_m_s_ = 0, along_rad_ = 0, period_s_ = 0;
    double water_temperature_c_ = 14;
};

/// One line for the guide, the reason, and what one key does.
struct TuningAdvice {
    std::string
        topic; ///< "streaks", "full", "black", "floor", "range", "speed", "sides"; stable while it holds
    std::string text;                     ///< one line: what to do
    std::string why;                      ///< with the figures that led to it
    std::optional<SoundingSettings> set;  ///< what to ask of the sounder
    std::optional<double> raise_floor_db; ///< of the display window, to this level
    bool reject_streaks = false;          ///< switch the filter on
};

/// What there is to say, the most pressing first; nothing when all is well. `floor_db`: of the display
/// window. Lengths are told in feet or metres. `advised_range_m`: what the advice before the trip, put right
/// by what was seen here, says for the band in use; the range offered is that one where there is one.
std::vector<TuningAdvice> advice_from(const PictureHealth &health, const SoundingSettings &now,
                                      const Gear &gear, double floor_db, bool feet,
                                      std::optional<double> advised_range_m = std::nullopt);

} // namespace heron
