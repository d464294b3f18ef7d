// Sentences as a receiver sends them, cut out of whatever stands between.
#include "fuzz/target.hpp"
#include "recording/nmea_feed.hpp"

#include <cmath>

using namespace heron;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t *data, std::size_t size) {
    NmeaLines lines;
    NmeaFeed feed;
    NavTrack nav;
    UnixNs now = 1'700'000'000 * ns_per_s;
    for (const auto &line : lines.push({reinterpret_cast<const char *>(data), size}))
        feed.take(line, now += 100'000'000, nav);
    for (const auto &p : nav.positions())
        must(std::fabs(p.place.latitude_deg) <= 90 && std::fabs(p.place.longitude_deg) <= 180);
    if (!nav.positions().empty())
        (void)nav.fix_at(nav.positions().back().time);
    return 0;
}
