#include "files/identifier.hpp"

#include <array>
#include <cstdint>
#include <fmt/format.h>
#include <random>

namespace heron {

std::string new_identifier() {
    std::random_device random; // an identifier must differ between runs; nothing else here is unseeded
    std::array<std::uint32_t, 4> w{};
    for (auto &x : w)
        x = random();
    w[1] = (w[1] & 0xFFFF0FFFu) | 0x00004000u;
    w[2] = (w[2] & 0x3FFFFFFFu) | 0x80000000u;
    return fmt::format("{:08x}-{:04x}-{:04x}-{:04x}-{:04x}{:08x}", w[0], w[1] >> 16, w[1] & 0xFFFFu,
                       w[2] >> 16, w[2] & 0xFFFFu, w[3]);
}

} // namespace heron
