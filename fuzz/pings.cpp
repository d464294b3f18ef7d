// A ping, a greeting and settings, past the checksum that keeps chance out of them.
#include "fuzz/target.hpp"
#include "link/messages.hpp"
#include "sonar/stream_clock.hpp"
#include "tuning/gear.hpp"

#include <cmath>

using namespace heron;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t *data, std::size_t size) {
    if (size == 0)
        return 0;
    const std::span<const std::uint8_t> payload(data + 1, size - 1);
    static StreamClock clock;
    switch (data[0] % 3) {
    case 0:
        if (const auto p = decode_ping(payload)) {
            for (const auto &b : p->ping.beams) {
                must(std::isfinite(p->ping.slant_m(static_cast<double>(b.code.size()))));
                for (std::size_t k = 0; k < b.code.size(); k += 16)
                    (void)b.level_db(k);
            }
            must(plausible_time(clock.stamp(p->ping.time, p->monotonic_ns, 0).time));
        }
        break;
    case 1:
        if (const auto h = decode_hello(payload))
            (void)gear_from_json(h->gear);
        break;
    default:
        if (const auto s = decode_settings(payload))
            must(s->range_m > 0);
    }
    return 0;
}
