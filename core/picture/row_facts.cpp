#include "picture/row_facts.hpp"

#include "sonar/within.hpp"

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

std::size_t hold_facts(std::vector<RowFacts> &rows, std::size_t first) {
    constexpr double most_m = most_slant_m, fastest_m_s = 100, most_turn_deg_s = 720, most_run_a_row_m = 60;
    constexpr float unknown = std::numeric_limits<float>::quiet_NaN();
    std::size_t mended = 0;
    for (auto n = first; n < rows.size(); ++n) {
        auto &r = rows[n];
        const RowFacts *before = n > 0 ? &rows[n - 1] : nullptr;
        bool sound = true;
        const auto hold = [&sound](bool good, auto &value, auto otherwise) {
            if (good)
                return;
            value = otherwise;
            sound = false;
        };
        if (!plausible_time(r.time)) {
            r.time = before != nullptr ? before->time : 0;
            r.place_unknown = true;
            sound = false;
        }
        auto &b = r.bottom;
        hold(!b.found || (within(b.altitude_m, 0, most_m) && within(b.altitude_sd_m, 0, most_m)), b,
             BottomPick());
        hold(within(b.port_m, 0, most_m), b.port_m, 0.0);
        hold(within(b.starboard_m, 0, most_m), b.starboard_m, 0.0);
        hold(within(static_cast<double>(r.range_m), 0, most_m), r.range_m, 0.0F);
        hold(std::isnan(r.speed_m_s) || within(static_cast<double>(r.speed_m_s), 0, fastest_m_s), r.speed_m_s,
             unknown);
        hold(std::isnan(r.turn_deg_s) ||
                 within(static_cast<double>(r.turn_deg_s), -most_turn_deg_s, most_turn_deg_s),
             r.turn_deg_s, unknown);
        const double run = before != nullptr ? before->along_m : 0;
        hold(within(r.along_m, run, run + most_run_a_row_m), r.along_m, run);
        const auto timed = before != nullptr ? before->timed : 0;
        hold(r.timed >= timed && r.timed - timed <= 1, r.timed, timed);
        mended += sound ? 0 : 1;
    }
    return mended;
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
