#include "kit/chip_image.hpp"

#include "kit/theme.hpp"

namespace heron::app {

QImage imageOf(const Chip &chip) {
    if (chip.empty())
        return {};
    QImage image(chip.width, chip.height, QImage::Format_RGB32);
    const auto &map = Theme::instance().map().table();
    for (int y = 0; y < chip.height; ++y) {
        auto *out = reinterpret_cast<QRgb *>(image.scanLine(y));
        for (int x = 0; x < chip.width; ++x)
            out[x] = map[chip.level[static_cast<std::size_t>(y * chip.width + x)]];
    }
    return image;
}

QImage imageOf(const KeptChip &chip) {
    return imageOf(*chip.look());
}

} // namespace heron::app
