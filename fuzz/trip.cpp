// What stands in a trip's tables, unpacked: facts, samples of the track, rows, strokes of the bottom,
// settings.
#include "fuzz/target.hpp"
#include "picture/scan.hpp"
#include "trip/bottom_by_hand.hpp"
#include "trip/nav_codec.hpp"
#include "trip/trip_codec.hpp"
#include "trip/trip_file.hpp"

using namespace heron;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t *data, std::size_t size) {
    if (size == 0)
        return 0;
    const std::span<const std::uint8_t> bytes(data + 1, size - 1);
    const std::string text(bytes.begin(), bytes.end());
    switch (data[0] % 6) {
    case 0:
        if (auto facts = unpack_facts(bytes)) {
            hold_facts(*facts);
            Scan scan;
            scan.push_known(*facts);
            double along = 0;
            for (std::size_t n = 0; n < scan.end(); ++n) {
                must(scan.facts(n).along_m >= along);
                along = scan.facts(n).along_m;
                (void)scan.settings(n);
                (void)strike_of(scan.facts(n), {});
            }
        }
        break;
    case 1: {
        NavTrack nav;
        unpack_nav(bytes, nav);
        for (const auto &p : nav.positions()) {
            (void)nav.fix_at(p.time);
            (void)nav.course_at(p.time);
        }
        for (const auto &d : nav.depths())
            (void)nav.depth_at(d.time);
        break;
    }
    case 2: {
        ByteReader in(bytes);
        for (int n = 0; n < 100 && !in.at_end(); ++n) {
            const auto row = trip_codec::read_row(in);
            if (!row)
                break;
            must(row->ping.beams.size() <= 16);
        }
        break;
    }
    case 3:
        for (const auto &s : strokes_from(text))
            must(!s.altitude_m.empty());
        break;
    case 4:
        (void)trip_codec::installation_in(text);
        break;
    default:
        (void)unsqueeze(bytes, 1u << 20);
    }
    return 0;
}
