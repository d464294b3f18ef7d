// The picture about a candidate, freed of levels and laid straight: the same grid of metres whatever the
// unit's pixels are.
#pragma once

#include "reading/echoes.hpp"

#include <array>
#include <cstdint>

namespace heron::study {

/// Levels over the local background about one place at two scales, the candidate's strongest cell at line
/// `lines`/2 and column `before`. Lines run with the track, columns with the sound, away from the boat.
struct CutOut {
    static constexpr std::size_t lines = 32, columns = 64, scales = 2, before = 16;
    static constexpr std::array<double, scales> line_m{0.15, 0.6}, column_m{0.1, 0.4};
    static constexpr float steps_per_db = 4;
    /// Where nothing was sounded.
    static constexpr std::int8_t nothing = -128;
    /// By scale, line and column: means of decibels over a cell, quarters of a decibel, −16…+26 dB;
    /// `nothing`.
    std::array<std::int8_t, scales * lines * columns> at{};
};

CutOut cut_out(const Swath &swath, const Echo &echo);

} // namespace heron::study
