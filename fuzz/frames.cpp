// What comes over the wire from a sounder: frames, and what stands in them.
#include "fuzz/target.hpp"
#include "link/frame.hpp"
#include "link/messages.hpp"

#include <cmath>

using namespace heron;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t *data, std::size_t size) {
    FrameReader reader;
    // As a socket delivers: in pieces.
    const std::size_t piece = size > 0 ? 1 + data[0] * 8u : 1;
    for (std::size_t at = 0; at < size; at += piece) {
        reader.push({data + at, std::min(piece, size - at)});
        while (const auto frame = reader.next()) {
            must(frame->payload.size() <= largest_payload);
            (void)decode_ping(frame->payload);
            (void)decode_hello(frame->payload);
            (void)decode_settings(frame->payload);
        }
    }
    return 0;
}
