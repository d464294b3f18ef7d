#include "recording/sample_check.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace heron {

namespace {

// Whether nothing that a beam heard lies below the top of its scale.
bool full(const Beam &b) {
    return std::none_of(b.code.begin(), b.code.end(),
                        [&b](auto c) { return c != missing_code && c < b.scale.clip_high; });
}

// Samples enough that chance does not hear the same again.
bool many_alike(const std::vector<std::vector<std::uint16_t>> &codes) {
    constexpr std::size_t enough = 50;
    return std::any_of(codes.begin(), codes.end(),
                       [](const std::vector<std::uint16_t> &c) { return c.size() >= enough; });
}

} // namespace

void SampleCheck::add(std::size_t number, const Ping &ping) {
    ++looked_at_;
    bool any = false, above_zero = false;
    for (const auto &b : ping.beams) {
        const bool heard =
            std::any_of(b.code.begin(), b.code.end(), [](auto c) { return c != missing_code; });
        any = any || heard;
        // The first value of a scale is what is written where nothing was.
        above_zero = above_zero || std::any_of(b.code.begin(), b.code.end(), [&b](auto c) {
                         return c != missing_code && c > std::max(0, b.scale.clip_low);
                     });
    }
    if (!any) {
        none_.add(number);
        return;
    }
    std::vector<std::vector<std::uint16_t>> codes;
    for (const auto &b : ping.beams) {
        codes.push_back(b.code);
        farthest_m_ = std::max(farthest_m_, ping.slant_m(static_cast<double>(b.code.size())));
    }
    const bool same = many_alike(codes) && codes == before_;
    before_ = std::move(codes);
    if (!above_zero) {
        zero_.add(number);
        return;
    }
    if (std::all_of(ping.beams.begin(), ping.beams.end(), full)) {
        full_.add(number);
        return;
    }
    // Two groups may hold one transmission: what stands still says so more than once.
    alike_ = same ? alike_ + 1 : 0;
    if (alike_ > 1)
        same_.add(number);
    for (const auto &b : ping.beams) {
        auto &side = sides_[b.side];
        if (std::any_of(b.code.begin(), b.code.end(), [](auto c) { return c != missing_code; }))
            ++side.heard;
        else
            side.missing.add(number);
    }
}

std::string SampleCheck::span(const Gap &gap) const {
    return fmt::format("{} of {} pings looked at (ping {} to {})", gap.count, looked_at_, gap.first,
                       gap.last);
}

std::vector<std::string> SampleCheck::warnings() const {
    std::vector<std::string> all;
    if (none_.count > 0)
        all.push_back(fmt::format("samples are missing in {}; there the picture is empty", span(none_)));
    if (zero_.count > 0)
        all.push_back(fmt::format(
            "samples are nothing but zeros in {}; whatever wrote the file may have died", span(zero_)));
    if (full_.count > 0)
        all.push_back(
            fmt::format("samples are nothing but the top of their scale in {}; the gain was too high, or "
                        "whatever wrote the file is broken",
                        span(full_)));
    if (same_.count > 0)
        all.push_back(fmt::format(
            "samples are the same ping after ping in {}; the sonar may have stood still", span(same_)));
    constexpr double shortest_m = 0.5;
    if (looked_at_ > none_.count && farthest_m_ < shortest_m)
        all.push_back(fmt::format("pings reach no farther than {:.2g} m; the sample interval may be wrong",
                                  farthest_m_));
    for (const auto &[side, s] : sides_)
        if (s.missing.count > 0)
            all.push_back(s.heard > 0 ? fmt::format("samples of the {} beam are missing in {}", name_of(side),
                                                    span(s.missing))
                                      : fmt::format("the {} beam has no samples at all", name_of(side)));
    return all;
}

} // namespace heron
