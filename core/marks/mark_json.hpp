// A mark as JSON and back: what goes over the wire between screens, into GeoJSON, and into the story of a
// mark on the disk.
#pragma once

#include "fault/fault.hpp"
#include "marks/mark.hpp"

#include <nlohmann/json_fwd.hpp>

namespace heron {

/// Fields that say nothing are left out. `chips`: with the pictures, as base64.
nlohmann::json json_of(const Mark &mark, bool chips);
nlohmann::json json_of(const Sighting &sighting, bool chip);
nlohmann::json json_of(const Outcome &outcome);

/// What a mark may lawfully hold, wherever it comes from.
struct MarkBounds {
    static constexpr std::size_t name = 200, note = 20'000, short_text = 400, id = 100, tags = 50, tag = 80,
                                 sightings = 200, outcomes = 2000, reasons = 40, shape = 2000,
                                 chip = 1u << 20;
};

/// Reads a mark of another making: figures out of their range, texts and lists beyond the bounds above, and
/// what is no mark are refused with the field's name; what is not known is passed over. Places are on the
/// globe.
Result<Mark> mark_of_json(const nlohmann::json &j);
Result<Sighting> sighting_of_json(const nlohmann::json &j);
Result<Outcome> outcome_of_json(const nlohmann::json &j);

/// Texts cut to their bounds, figures brought into theirs: for marks that come from files whose writers know
/// no bounds. Control characters go.
void hold_to_bounds(Mark &mark);

std::string base64_of(const std::vector<std::uint8_t> &bytes);
std::optional<std::vector<std::uint8_t>> bytes_of_base64(std::string_view text);

} // namespace heron
