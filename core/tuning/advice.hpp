// Before the trip: which range, band and speed to set, what they buy, and how far that is from the common
// rules.
#pragma once

#include "tuning/budget.hpp"

#include <array>
#include <map>
#include <optional>
#include <string>
#include <tuple>
#include <vector>

namespace heron {

enum class Purpose : std::uint8_t { search_wide, finest_always, wide_then_fine, inspect };
inline constexpr std::array all_purposes{Purpose::search_wide, Purpose::finest_always,
                                         Purpose::wide_then_fine, Purpose::inspect};

/// Who reads the picture: an eye on the unit's screen, in a glance; or the program, sample by sample.
enum class ReadBy : std::uint8_t { eye, program };

/// NOAA's specifications for side-scan search ask for at least three pings on the smallest thing (from
/// memory).
inline constexpr double least_pings = 3;
/// Ground counts as covered where shadows still stand out: three of five samples of one are darker than one
/// of the bottom beside it. Beyond, the picture is washed out and the range an empty promise.
inline constexpr double least_shadow_separation = 0.6;
/// Upper end of the trade's speeds, and of a small electric motor (common practice, no published source).
inline constexpr double fastest_search_m_s = 2.2;

/// What a setting does as a whole, over all distances that it shows.
struct Yield {
    Setting setting;
    double depth_m = 0;
    double nearest_m = 0,
           farthest_m = 0;   ///< over ground: where there are pings enough and the thing tells itself apart
    double edge_m = 0;       ///< over ground, of the range set
    double blind_m = 0;      ///< half of the strip under the boat in which nothing is told apart
    double separation = 0.5; ///< mean over what is covered (see Budget)
    double ground_per_minute_m2 = 0; ///< covered, both sides
    double pings_on_thing = 0;       ///< the least over what is covered
    double cells_on_thing = 0;       ///< the mean
    double shadow_m = 0;             ///< the mean
    double useful_range_m = 0;       ///< see useful_range_m
    double lane_m = 0;               ///< from lane to lane, so that each sees under its neighbour
    /// Ground a minute, both sides, with three pings on the thing; each square metre weighed by how far its
    /// echo is told apart, times how far its shadow is: (2·Sₑ − 1)·(2·Sₛ − 1).
    double worth_m2 = 0;
    /// Ground a minute, both sides, with three pings on the thing; each square metre weighed by the chance
    /// that an eye tells the thing in two seconds on the unit's screen (tuning/eye.hpp).
    double eye_worth_m2 = 0;
    double eye_sees = 0; ///< the mean of that chance from the boat to the edge
    double worth(ReadBy by) const { return by == ReadBy::eye ? eye_worth_m2 : worth_m2; }
};
Yield yield_of(const Gear &gear, const WaterState &water, const SmallestThing &thing, const Setting &setting);
Yield yield_of(const Gear &gear, const WaterState &water, const SmallestThing &thing, const Setting &setting,
               const BySurface &by_surface);

/// Yields of one gear over one water for one thing, each setting's computed once: purposes and readers ask
/// for the same ones again and again. For one thread.
class Yields {
  public:
    Yields(Gear gear, WaterState water, SmallestThing thing);
    /// Stays where it is.
    const Yield &of(const Setting &setting);
    const Gear &gear() const { return gear_; }
    const WaterState &water() const { return water_; }

  private:
    Gear gear_;
    WaterState water_;
    SmallestThing thing_;
    std::vector<BySurface> by_surface_;
    std::map<std::tuple<std::size_t, long long, long long>, Yield> known_;
};

struct Advice {
    Purpose purpose = Purpose::search_wide;
    ReadBy read_by = ReadBy::program;
    Yield yield;
    double slowest_m_s = 0, fastest_m_s = 0; ///< speeds that keep nine tenths of its worth
    int gain = -1;                           ///< the unit's step; −1: only the picture can tell
    int contrast = -1;
    Yield second; ///< wide then fine: what to set over a find
    /// The objective by which it was chosen, in the same unit for all settings tried.
    double objective = 0;
};

/// The best setting for a purpose over the gear's ranges, bands and speeds up to `fastest_m_s`.
/// search wide: `Yield::worth`. Finest always: the same in the finest band alone. Inspect: cells on the
/// thing times (2 × separation − 1), with the thing in the middle of the covered strip, not slower than 0.6
/// m/s. Wide then fine: minutes for a hectare, a second pass over each of five finds included.
Advice advise(const Gear &gear, const WaterState &water, const SmallestThing &thing, Purpose purpose,
              double fastest_m_s = fastest_search_m_s, ReadBy by = ReadBy::program);
/// `only_band`: as if the gear had no other.
Advice advise(Yields &yields, Purpose purpose, double fastest_m_s, ReadBy by,
              std::optional<std::size_t> only_band = {});

/// The altitude over the bottom as a share of the range, in hundredths. Hydrographic practice tows at 8 to 20
/// (NOAA, Field Procedures Manual, and IHO C-13: 10 to 20; from memory): a check beside the answer.
double altitude_of_range_percent(const Gear &gear, const WaterState &water, const Setting &setting);
inline constexpr double least_altitude_percent = 8, most_altitude_percent = 20;

/// What the trade does (common practice, no published source).
struct RulesOfThumb {
    double range_low_m, range_high_m;     ///< three times the depth, over the depths of the water
    std::size_t band;                     ///< the widest to search, the finest to inspect
    double speed_low_m_s, speed_high_m_s; ///< 2 to 4 mph
    double lane_m;                        ///< twice the range less a fifth
};
RulesOfThumb rules_of_thumb(const Gear &gear, const WaterState &water, Purpose purpose);

/// Why the answer is what it is, one line each, in metres or feet.
struct Reasons {
    std::string range, band, speed, lane;
};
Reasons reasons_for(const Advice &advice, const Gear &gear, const WaterState &water,
                    const SmallestThing &thing, bool feet);

/// Minutes to cover a square of `area_m2` in lanes, turns of `turn_s` each included.
double minutes_for(const Yield &yield, double area_m2, double turn_s = 25);
int lanes_for(const Yield &yield, double area_m2);

/// Whether two sounders that ping at once would hear each other: bands that overlap.
bool bands_clash(double frequency_a_hz, double bandwidth_a_hz, double frequency_b_hz, double bandwidth_b_hz);

} // namespace heron
