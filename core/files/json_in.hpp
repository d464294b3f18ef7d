// JSON that comes from outside: bounded before it is parsed.
#pragma once

#include <cstdint>
#include <nlohmann/json_fwd.hpp>
#include <string_view>

namespace heron {

/// Parses; throws nlohmann::json::exception for what is no JSON, for more than `most_bytes`, and for values
/// within values deeper than `most_depth` (which would exhaust the stack when they are written or walked).
nlohmann::json parse_json(std::string_view text, std::size_t most_bytes = 64u << 20, int most_depth = 32);

/// A whole number, also one that is written with a point or an exponent; throws nlohmann::json::exception for
/// what is none and for what lies outside `least` … `most`, before it is made an integer.
std::int64_t whole_in(const nlohmann::json &j, std::int64_t least, std::int64_t most);

} // namespace heron
