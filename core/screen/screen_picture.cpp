#include "screen/screen_picture.hpp"

#include "files/gdal.hpp"
#include "units/number_text.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <cpl_error.h>
#include <cstdlib>
#include <gdal.h>
#include <memory>

namespace heron {
namespace {

// "(51) (30) (12.5)" as GDAL tells EXIF's degrees, minutes, seconds.
std::optional<double> degrees_of(const char *text) {
    if (text == nullptr)
        return std::nullopt;
    std::array<double, 3> part{};
    std::string all = text;
    std::replace_if(
        all.begin(), all.end(), [](char c) { return c == '(' || c == ')'; }, ' ');
    std::string_view left = all;
    for (auto &p : part) {
        const auto told = take_number(left);
        if (!told || !(*told >= 0 && *told < 360))
            return std::nullopt;
        p = *told;
    }
    return part[0] + part[1] / 60 + part[2] / 3600;
}

TakenAt taken_at(GDALDatasetH d) {
    TakenAt t;
    const auto said = [&](const char *key) { return GDALGetMetadataItem(d, key, nullptr); };
    if (const char *time = said("EXIF_DateTimeOriginal");
        time != nullptr && std::string_view(time).size() < 40)
        t.time = time;
    auto latitude = degrees_of(said("EXIF_GPSLatitude")), longitude = degrees_of(said("EXIF_GPSLongitude"));
    const char *north = said("EXIF_GPSLatitudeRef"), *east = said("EXIF_GPSLongitudeRef");
    if (latitude && longitude && *latitude <= 90 && *longitude <= 180 && north != nullptr && east != nullptr)
        t.place =
            GeoPoint{north[0] == 'S' ? -*latitude : *latitude, east[0] == 'W' ? -*longitude : *longitude};
    return t;
}

// EXIF's eight ways to hold a camera.
ScreenPicture turned(ScreenPicture f, int orientation) {
    if (orientation < 2 || orientation > 8)
        return f;
    const bool swaps = orientation >= 5;
    ScreenPicture r;
    r.width = swaps ? f.height : f.width;
    r.height = swaps ? f.width : f.height;
    r.pixels.resize(f.pixels.size());
    for (int y = 0; y < f.height; ++y)
        for (int x = 0; x < f.width; ++x) {
            const int mx = f.width - 1 - x, my = f.height - 1 - y;
            int tx = x, ty = y;
            switch (orientation) {
            case 2:
                tx = mx;
                break;
            case 3:
                tx = mx;
                ty = my;
                break;
            case 4:
                ty = my;
                break;
            case 5:
                tx = y;
                ty = x;
                break;
            case 6:
                tx = my;
                ty = x;
                break;
            case 7:
                tx = my;
                ty = mx;
                break;
            default:
                tx = y;
                ty = mx;
                break;
            }
            r.at(tx, ty) = f.at(x, y);
        }
    return r;
}

} // namespace

Result<OpenedPicture> open_picture(const std::filesystem::path &file) {
    begin_gdal();
    const auto name = file.filename().string();
    if (!std::filesystem::is_regular_file(file))
        return fail(told("{} is no file", name), "", told("name a picture: PNG, JPEG, WebP or TIFF"));
    const char *const drivers[] = {"PNG", "JPEG", "WEBP", "GTiff", nullptr};
    CPLPushErrorHandler(CPLQuietErrorHandler);
    const GdalDataset d(
        GDALOpenEx(file.c_str(), GDAL_OF_READONLY | GDAL_OF_RASTER, drivers, nullptr, nullptr));
    CPLPopErrorHandler();
    if (!d)
        return fail(told("{} is no picture that can be read", name), "",
                    told("PNG, JPEG, WebP and TIFF are; the file may be cut short"));
    const double width = GDALGetRasterXSize(d.get()), height = GDALGetRasterYSize(d.get());
    const int bands = GDALGetRasterCount(d.get());
    if (width * height > most_pixels)
        return fail(told("{} has {:.0f} million pixels; {:.0f} are the most", name, width * height / 1e6,
                         most_pixels / 1e6),
                    told("nothing was read"), told("save it smaller"));
    if (width < 64 || height < 64)
        return fail(told("{} is only {:.0f} by {:.0f} pixels", name, width, height), told("nothing was read"),
                    told("a screen of at least 64 by 64 is needed"));
    for (int b = 1; b <= bands; ++b)
        if (GDALGetRasterDataType(GDALGetRasterBand(d.get(), b)) != GDT_Byte)
            return fail(told("{} has other than eight bits a colour", name), told("nothing was read"),
                        told("save it as an ordinary picture"));
    OpenedPicture r;
    const int by = static_cast<int>(std::ceil(std::sqrt(width * height / most_pixels_kept)));
    r.picture.width = static_cast<int>(width) / std::max(1, by);
    r.picture.height = static_cast<int>(height) / std::max(1, by);
    if (by > 1)
        r.warnings.push_back(told("{} is read at 1/{} of its size", name, by));
    const auto n = static_cast<std::size_t>(r.picture.width) * static_cast<std::size_t>(r.picture.height);
    r.picture.pixels.resize(n);
    std::vector<std::uint8_t> plane(n);
    GDALColorTableH table = bands == 1 ? GDALGetRasterColorTable(GDALGetRasterBand(d.get(), 1)) : nullptr;
    for (int c = 0; c < 3; ++c) {
        const int band = bands >= 3 ? c + 1 : 1;
        CPLErrorReset();
        CPLPushErrorHandler(CPLQuietErrorHandler);
        const auto error = GDALRasterIO(GDALGetRasterBand(d.get(), band), GF_Read, 0, 0,
                                        static_cast<int>(width), static_cast<int>(height), plane.data(),
                                        r.picture.width, r.picture.height, GDT_Byte, 0, 0);
        CPLPopErrorHandler();
        // A file that ends early is a warning to the library, and grey to the eye.
        if (error != CE_None || CPLGetLastErrorType() >= CE_Warning)
            return fail(told("{} is cut short or damaged", name), told("nothing was read"),
                        told("copy it from its source again"));
        for (std::size_t i = 0; i < n; ++i) {
            std::uint8_t v = plane[i];
            if (table != nullptr) {
                const auto *entry = GDALGetColorEntry(table, v);
                const short value = entry == nullptr ? 0
                                    : c == 0         ? entry->c1
                                    : c == 1         ? entry->c2
                                                     : entry->c3;
                v = static_cast<std::uint8_t>(std::clamp<int>(value, 0, 255));
            }
            auto &p = r.picture.pixels[i];
            (c == 0 ? p.red : c == 1 ? p.green : p.blue) = v;
        }
    }
    r.taken = taken_at(d.get());
    if (const char *way = GDALGetMetadataItem(d.get(), "EXIF_Orientation", nullptr); way != nullptr)
        r.picture = turned(std::move(r.picture), std::atoi(way));
    return r;
}

} // namespace heron
