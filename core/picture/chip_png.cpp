#include "picture/chip_png.hpp"

#include <cstring>
#include <png.h>

namespace heron {

std::string png_of_chip(const Chip &chip) {
    png_image image;
    std::memset(&image, 0, sizeof image);
    image.version = PNG_IMAGE_VERSION;
    image.width = static_cast<png_uint_32>(chip.width);
    image.height = static_cast<png_uint_32>(chip.height);
    image.format = PNG_FORMAT_GRAY;
    png_alloc_size_t size = 0;
    if (chip.empty() || !png_image_write_to_memory(&image, nullptr, &size, 0, chip.level.data(), 0, nullptr))
        return {};
    std::string out(size, '\0');
    if (!png_image_write_to_memory(&image, out.data(), &size, 0, chip.level.data(), 0, nullptr))
        return {};
    out.resize(size);
    return out;
}

std::optional<Chip> chip_from_png(std::string_view bytes) {
    constexpr png_uint_32 most = 4096;
    png_image image;
    std::memset(&image, 0, sizeof image);
    image.version = PNG_IMAGE_VERSION;
    if (!png_image_begin_read_from_memory(&image, bytes.data(), bytes.size()))
        return std::nullopt;
    if (image.width == 0 || image.height == 0 || image.width > most || image.height > most) {
        png_image_free(&image);
        return std::nullopt;
    }
    image.format = PNG_FORMAT_GRAY;
    Chip chip{static_cast<int>(image.width), static_cast<int>(image.height), {}};
    chip.level.resize(PNG_IMAGE_SIZE(image));
    if (!png_image_finish_read(&image, nullptr, chip.level.data(), 0, nullptr)) {
        png_image_free(&image);
        return std::nullopt;
    }
    return chip;
}

} // namespace heron
