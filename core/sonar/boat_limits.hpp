// What no boat does that carries a side-looking sonar and sounds.
#pragma once

namespace heron {

inline constexpr double fastest_boat_m_s = 12;
inline constexpr double fastest_turn_deg_s = 60;
/// A position or heading that has not changed by a bit for so long, while the boat moves or turns, is an old
/// one.
inline constexpr double frozen_after_s = 2;

} // namespace heron
