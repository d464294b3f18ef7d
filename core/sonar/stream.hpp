// Which sonar a ping comes from. A boat may carry one of each; each has its own clock, rows and scan.
#pragma once

#include "sonar/ping.hpp"

#include <array>
#include <cstdint>
#include <string_view>

namespace heron {

/// The side-looking sonar at the stern (with what looks down beside it), or the turning head at the bow.
/// The numbers are those of the `stream` column of a trip (docs/trip-file.md) and never change.
enum class StreamId : std::uint8_t { side = 0, around = 1 };
inline constexpr std::array all_streams{StreamId::side, StreamId::around};
inline constexpr std::size_t stream_count = all_streams.size();

/// "side", "around": the names used on the wire.
constexpr std::string_view name_of(StreamId stream) {
    return stream == StreamId::around ? "around" : "side";
}
constexpr std::optional<StreamId> stream_named(std::string_view name) {
    for (const auto s : all_streams)
        if (name_of(s) == name)
            return s;
    return std::nullopt;
}

/// What a ping itself tells: a beam that turns makes it `around`, all others are `side`.
inline StreamId stream_of(const Ping &ping) {
    for (const auto &b : ping.beams)
        if (b.side == Side::around)
            return StreamId::around;
    return StreamId::side;
}

} // namespace heron
