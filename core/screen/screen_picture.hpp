// A picture of a screen: read from a file with its size known before it is unpacked.
#pragma once

#include "fault/fault.hpp"
#include "geo/position.hpp"
#include "picture/colour_map.hpp"
#include "sonar/instant.hpp"

#include <cstddef>
#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace heron {

/// A place on a picture, pixels from its upper left corner: right, down.
struct Pixel {
    double x = 0, y = 0;
    bool operator==(const Pixel &) const = default;
};

/// Colours row by row from the top.
struct ScreenPicture {
    int width = 0, height = 0;
    std::vector<Rgb> pixels;
    bool empty() const { return pixels.empty(); }
    const Rgb &at(int x, int y) const {
        return pixels[static_cast<std::size_t>(y) * static_cast<std::size_t>(width) +
                      static_cast<std::size_t>(x)];
    }
    Rgb &at(int x, int y) {
        return pixels[static_cast<std::size_t>(y) * static_cast<std::size_t>(width) +
                      static_cast<std::size_t>(x)];
    }
};

/// What a picture's file says of when and where it was taken: of the camera, not of the thing.
struct TakenAt {
    std::string time; ///< as the file has it, the camera's own clock; empty: not told
    std::optional<GeoPoint> place;
};

struct OpenedPicture {
    ScreenPicture picture;
    TakenAt taken;
    std::vector<std::string> warnings;
};

/// Larger pictures are refused, pixels.
inline constexpr double most_pixels = 100e6;
/// And what is larger than this is read at half, a third … of its size.
inline constexpr double most_pixels_kept = 12e6;

/// Reads PNG, JPEG, WebP and TIFF, turned as its EXIF says. Refuses, in words: what is none of these, what is
/// too large, what is cut short.
Result<OpenedPicture> open_picture(const std::filesystem::path &file);

} // namespace heron
