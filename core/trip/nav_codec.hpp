// Nav samples as bytes, for the trip file.
#pragma once

#include "sonar/nav_track.hpp"

#include <cstdint>
#include <span>
#include <vector>

namespace heron {

std::vector<std::uint8_t> pack_nav(const NavTrack &nav);
/// Adds what the bytes hold to a track; false for bytes of another form.
/// Samples that no receiver can tell (not-a-number, off the globe, a time in another century) are left out.
bool unpack_nav(std::span<const std::uint8_t> bytes, NavTrack &into);
bool unpack_nav(std::span<const std::uint8_t> bytes, NavSamples &into);

} // namespace heron
