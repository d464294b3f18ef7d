// The nav samples of a trip as bytes.
#include "trip/nav_codec.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

using namespace heron;

namespace {

NavTrack a_track() {
    const auto n = [](int low, int high) { return *rc::gen::inRange(low, high); };
    NavTrack nav;
    UnixNs time = 1'800'000'000LL * ns_per_s;
    for (int i = n(0, 40); i-- > 0;) {
        time += static_cast<UnixNs>(n(1, 3000)) * 1'000'000;
        const GeoPoint at{n(-900000, 900000) / 1e4, n(-1800000, 1800000) / 1e4};
        nav.add(PositionSample{time, at, n(0, 50) / 10.0, n(-1, 40) / 10.0, n(0, 10) == 0});
        nav.add(
            AttitudeSample{time, n(0, 3600) / 10.0, n(-100, 100) / 10.0, n(-100, 100) / 10.0, n(0, 10) == 0});
        if (n(0, 2) == 0)
            nav.add(DepthSample{time, n(5, 400) / 10.0,
                                n(0, 2) == 0 ? std::optional(n(0, 20) / 10.0) : std::nullopt});
        nav.add_speed(time, n(0, 60) / 10.0);
    }
    return nav;
}

} // namespace

RC_GTEST_PROP(NavCodec, ThereAndBackIsTheSameTrack, ()) {
    const auto nav = a_track();
    NavTrack back;
    RC_ASSERT(unpack_nav(pack_nav(nav), back));
    RC_ASSERT(back.positions().size() == nav.positions().size());
    for (std::size_t i = 0; i < nav.positions().size(); ++i) {
        const auto &a = nav.positions()[i], &b = back.positions()[i];
        RC_ASSERT(a.time == b.time);
        RC_ASSERT(leg_between(a.place, b.place).distance_m < 0.002);
        RC_ASSERT(std::fabs(a.sd_m - b.sd_m) < 1e-4);
        RC_ASSERT(a.broken_before == b.broken_before);
    }
    RC_ASSERT(back.attitudes().size() == nav.attitudes().size());
    for (std::size_t i = 0; i < nav.attitudes().size(); ++i) {
        const auto &a = nav.attitudes()[i], &b = back.attitudes()[i];
        RC_ASSERT(a.time == b.time);
        RC_ASSERT(std::fabs(wrap_180(a.heading_deg - b.heading_deg)) < 0.01);
        RC_ASSERT(std::fabs(a.roll_deg - b.roll_deg) < 0.01);
        RC_ASSERT(a.broken_before == b.broken_before);
    }
    RC_ASSERT(back.depths().size() == nav.depths().size());
    for (std::size_t i = 0; i < nav.depths().size(); ++i) {
        RC_ASSERT(std::fabs(nav.depths()[i].below_transducer_m - back.depths()[i].below_transducer_m) < 1e-4);
        RC_ASSERT(nav.depths()[i].to_waterline_m.has_value() == back.depths()[i].to_waterline_m.has_value());
    }
    RC_ASSERT(back.speeds().size() == nav.speeds().size());
}

RC_GTEST_PROP(NavCodec, BytesOfAnotherFormAreRefusedOrHarmless, ()) {
    auto bytes = pack_nav(a_track());
    NavTrack into;
    if (!bytes.empty()) {
        const auto cut = *rc::gen::inRange<std::size_t>(0, bytes.size());
        RC_ASSERT(!unpack_nav(std::span(bytes).first(cut), into));
        bytes[*rc::gen::inRange<std::size_t>(0, bytes.size())] ^= *rc::gen::arbitrary<std::uint8_t>();
        NavTrack other;
        unpack_nav(bytes, other); // whatever it says, it ends
    }
    const auto junk = *rc::gen::container<std::vector<std::uint8_t>>(rc::gen::arbitrary<std::uint8_t>());
    NavTrack third;
    unpack_nav(junk, third);
}
