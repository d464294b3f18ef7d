#include "exchange/qr_code.hpp"

#include <cstdint>
#include <memory>
#include <qrencode.h>

namespace heron {

QrCode qr_code(const std::string &text) {
    constexpr std::size_t longest = 1600;
    QrCode out;
    if (text.empty() || text.size() > longest)
        return out;
    const std::unique_ptr<QRcode, decltype(&QRcode_free)> code(
        QRcode_encodeString8bit(text.c_str(), 0, QR_ECLEVEL_Q), &QRcode_free);
    if (!code)
        return out;
    out.size = code->width;
    const auto n = static_cast<std::size_t>(code->width) * static_cast<std::size_t>(code->width);
    out.dark.resize(n);
    for (std::size_t i = 0; i < n; ++i)
        out.dark[i] = code->data[i] & 1U;
    return out;
}

} // namespace heron
