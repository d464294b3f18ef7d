#include "picture/row_facts.hpp"

#include <cmath>

namespace heron {
namespace {
constexpr std::uint8_t form = 1;
}

std::vector<std::uint8_t> pack_facts(std::span<const RowFacts> rows) {
    ByteWriter w;
    w.bytes.reserve(rows.size() * 56 + 5);
    w.put(form);
    w.put(static_cast<std::uint32_t>(rows.size()));
    // Field by field: values that are alike lie together and shrink well.
    for (const auto &r : rows)
        w.put(r.time);
    for (const auto &r : rows)
        w.put(r.along_m);
    for (const auto &r : rows)
        w.put(r.timed);
    for (const auto &r : rows)
        for (const float v : {static_cast<float>(r.bottom.altitude_m),
                              static_cast<float>(r.bottom.altitude_sd_m), static_cast<float>(r.bottom.port_m),
                              static_cast<float>(r.bottom.starboard_m), r.range_m, r.speed_m_s, r.turn_deg_s})
            w.put(v);
    for (const auto &r : rows)
        w.put(r.settings);
    for (const auto &r : rows)
        w.put(static_cast<std::uint8_t>(static_cast<unsigned>(r.bottom.found) | (r.place_unknown ? 2u : 0u) |
                                        static_cast<unsigned>(r.bottom.source) << 2));
    return std::move(w.bytes);
}

std::optional<std::vector<RowFacts>> unpack_facts(std::span<const std::uint8_t> bytes) {
    ByteReader in(bytes);
    if (in.get<std::uint8_t>() != form)
        return std::nullopt;
    const auto n = in.get<std::uint32_t>();
    if (in.too_short() || n > bytes.size() / 40)
        return std::nullopt;
    std::vector<RowFacts> rows(n);
    for (auto &r : rows)
        r.time = in.get<UnixNs>();
    for (auto &r : rows)
        r.along_m = in.get<double>();
    for (auto &r : rows)
        r.timed = in.get<std::uint32_t>();
    for (auto &r : rows) {
        for (double *v :
             {&r.bottom.altitude_m, &r.bottom.altitude_sd_m, &r.bottom.port_m, &r.bottom.starboard_m})
            *v = in.get_float();
        r.range_m = in.get<float>();
        r.speed_m_s = in.get<float>();
        r.turn_deg_s = in.get<float>();
    }
    for (auto &r : rows)
        r.settings = in.get<std::uint16_t>();
    for (auto &r : rows) {
        const auto flags = in.get<std::uint8_t>();
        r.bottom.found = (flags & 1u) != 0;
        r.place_unknown = (flags & 2u) != 0;
        r.bottom.source = static_cast<BottomSource>(std::min(flags >> 2 & 3, 2));
    }
    if (in.too_short())
        return std::nullopt;
    return rows;
}

Strike strike_of(const RowFacts &row, const SteadyLimits &limits) {
    if (std::fabs(row.turn_deg_s) > static_cast<float>(limits.turn_deg_s))
        return Strike::turning;
    if (row.speed_m_s < static_cast<float>(standing_m_s))
        return Strike::stopped;
    if (row.speed_m_s > static_cast<float>(limits.fastest_m_s))
        return Strike::too_fast;
    if (row.speed_m_s < static_cast<float>(limits.slowest_m_s))
        return Strike::too_slow;
    return Strike::none;
}

} // namespace heron
