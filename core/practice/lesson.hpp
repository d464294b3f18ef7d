// Made-up water to read on: a lake for the stand-in, what truly lies in it, and questions with answers that
// the figures explain.
#pragma once

#include "around/own_boat.hpp"
#include "geo/position.hpp"
#include "marks/mark.hpp"
#include "reading/kind.hpp"
#include "units/units.hpp"

#include <array>
#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <vector>

namespace heron {

struct PracticeThing {
    Kind kind = Kind::boulder;
    EastNorth at;        ///< from the lake's corner, metres
    double height_m = 0; ///< of its top over the bottom; of a fish its middle
    double length_m = 0;
    bool floats = false;
};

struct PracticeLake {
    std::string scene; ///< JSON, docs/scene.md
    std::vector<PracticeThing> things;
    GeoPoint origin;
    std::string ground; ///< "silt", "sand", "gravel"
    double depth_m = 4;
    double transducer_m = 0.3; ///< under the surface
    double range_m = 18;
    double speed_m_s = 1.4;
    double track_east_m = 50; ///< the boat runs north along it
    double length_m = 90;
    /// Of a sloping lake: how much the bottom rises to the east, to the west negative, and how far west and
    /// east of its one thing the boat passes: north on the west side, back south on the east side.
    double rises_deg = 0, passes_off_m = 0;
    /// How far over the bottom the transducer is on either pass.
    double altitude_on(bool second_pass) const;
    /// How far aside of the track, over ground; to the left negative.
    double aside_m(const PracticeThing &thing) const { return thing.at.east_m - track_east_m; }
    double altitude_m() const { return depth_m - transducer_m; }
};

/// `difficulty` 0 … 2: smooth ground and things apart; coarser ground and a slower eye's settings; things
/// that look alike.
PracticeLake practice_lake(std::uint32_t seed, int difficulty);
/// One thing on a bottom that rises to one side or, one time in three, to none, passed on either side: to ask
/// which look is uphill. The harder, the less it rises.
PracticeLake sloping_lake(std::uint32_t seed, int difficulty);

enum class Skill : std::uint8_t { height, stands, distance, kind, ground, cast, levels, uphill };
inline constexpr std::size_t skill_count = 8;
std::string_view name_of(Skill skill);

/// Something on the circle at the bow, and who shall cast at it.
struct CastRiddle {
    OwnBoat boat;
    std::size_t seat = 0;
    FromHead at;
};

struct PracticeQuestion {
    Skill skill = Skill::kind;
    std::size_t thing = 0;
    std::string asks;
    std::vector<std::string> choices; ///< four, three or two
    std::size_t right = 0;
    std::string explains;             ///< by the ray and the figures
    std::optional<CastRiddle> riddle; ///< of `cast`: there is no picture but the circle
    std::optional<Chip> picture;      ///< of one's own water: there is no lake to drain
    double window_off_db = 0;         ///< of `levels`: by how much the window on the levels is shifted
};
/// Wrong choices are what eyes commonly take it for: the way along the sound for the way over ground, twice
/// the height, the kind that looks alike.
PracticeQuestion practice_question(const PracticeLake &lake, std::size_t thing, Skill skill,
                                   std::uint32_t seed, UnitSystem units);

/// Whether a mark is one to learn from: it was found out what it is, and its picture was kept.
bool teaches(const Mark &mark);
/// What it is, by its picture alone: no place, no name and no date are in it.
PracticeQuestion own_question(const Mark &mark, std::uint32_t seed);

/// Slant ranges of a thing on flat ground, and how long its shadow is along the sound; 0 where it floats
/// clear of the bottom or reaches as high as the transducer.
struct ShadowFigures {
    double top_m = 0, shadow_end_m = 0;
};
ShadowFigures shadow_figures(const PracticeLake &lake, const PracticeThing &thing);

/// What an eye has shown so far, skill by skill: asked, right, and its box. After S. Leitner (1972), "So
/// lernt man lernen": a right answer moves a skill a box on, a wrong one back to the first; box n comes up
/// every 2ⁿ⁻¹ questions.
struct PracticeProgress {
    struct OfSkill {
        std::size_t asked = 0, right = 0;
        int box = 1;
        std::size_t last = 0; ///< number of the question at which it was asked last
    };
    std::array<OfSkill, skill_count> skills;
    std::size_t questions = 0;
    void answer(Skill skill, bool right);
    /// Which to ask next: the most overdue.
    Skill next() const;
    std::string text() const;
    static PracticeProgress of(const std::string &text); ///< what cannot be read counts as nothing shown yet
};

} // namespace heron
