// A QR code (ISO/IEC 18004) of a text, for a phone's camera.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace heron {

struct QrCode {
    int size = 0;                   ///< modules each way; 0: the text is too long
    std::vector<std::uint8_t> dark; ///< row by row, 1 dark
};
/// By libqrencode, a quarter of it readable though spoiled (level Q). Up to 1,600 bytes.
QrCode qr_code(const std::string &text);

} // namespace heron
