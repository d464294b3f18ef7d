#include "recording/sample_check.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace heron {

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
    if (!above_zero) {
        zero_.add(number);
        return;
    }
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
    for (const auto &[side, s] : sides_)
        if (s.missing.count > 0)
            all.push_back(s.heard > 0 ? fmt::format("samples of the {} beam are missing in {}", name_of(side),
                                                    span(s.missing))
                                      : fmt::format("the {} beam has no samples at all", name_of(side)));
    return all;
}

} // namespace heron
