#include "screen/picture_reading.hpp"

#include "reading/reader.hpp"
#include "reading/sweep_reader.hpp"
#include "screen/circle.hpp"

#include <algorithm>
#include <cmath>

namespace heron {

Pixel on_picture(const ScreenCalibration &c, double row, Side side, double slant_m) {
    const auto size = panel_size(c);
    const bool level = c.across_is_level();
    const double columns = level ? size.width : size.height, rows = level ? size.height : size.width;
    const double middle = c.middle * columns, metres = c.range_m / std::max(middle, columns - middle);
    double across = middle + (side == Side::port ? -1 : 1) * slant_m / metres, down = row + 0.5;
    if (c.swap_sides)
        across = columns - across;
    if (c.newest == NewestAt::top || c.newest == NewestAt::left)
        down = rows - down;
    const Pixel upright = level ? Pixel{across, down} : Pixel{down, across};
    const double w = size.width, h = size.height;
    return bowed(mapped(homography({Pixel{0, 0}, {w, 0}, {w, h}, {0, h}}, c.corners), upright), c);
}

Result<PictureReading> read_picture(const ScreenPicture &picture, const ScreenCalibration &c, UnixNs newest,
                                    const std::string &name) {
    const auto rows = rows_of(picture, c, newest, name);
    if (!rows)
        return tl::unexpected(rows.error());
    return read_rows(*rows, c);
}

namespace {

// A pixel more or less, at the echo and at the shadow's end.
void doubt_pixels(Contact &c, double pixel_m) {
    c.ground_m.sd = std::hypot(c.ground_m.sd, pixel_m);
    if (c.height_m && c.shadow_end_m > 0)
        c.height_m->sd = std::hypot(c.height_m->sd, 1.5 * pixel_m * c.bottom.altitude_m / c.shadow_end_m);
}

Scan scan_of(const PictureRows &rows) {
    Scan scan;
    scan.nav = rows.recording.head.nav;
    for (const auto &ping : rows.recording.pings)
        scan.push({ping, std::nullopt, {}});
    return scan;
}

PictureReading read_circle(const PictureRows &rows, const ScreenCalibration &c) {
    PictureReading r;
    r.ramp = rows.ramp;
    r.warnings = rows.recording.warnings;
    const auto scan = scan_of(rows);
    SweepReader reader;
    const auto looks = reader.advance(scan, true);
    for (auto &one : join_sweeps(looks, reader.views(), ReaderSettings().least_confidence)) {
        const double pixel_m =
            c.pixel_sd * c.range_m / (std::min(panel_size(c).width, panel_size(c).height) / 2.0);
        doubt_pixels(one, pixel_m);
        const auto *ray = scan.ping(one.row).beam(Side::around);
        const auto at = on_circle(c, ray != nullptr ? ray->azimuth_deg : 0, one.slant_m);
        r.contacts.push_back({std::move(one), at});
    }
    return r;
}

} // namespace

PictureReading read_rows(const PictureRows &rows, const ScreenCalibration &c) {
    if (c.circle_bow_deg)
        return read_circle(rows, c);
    PictureReading r;
    r.ramp = rows.ramp;
    r.warnings = rows.recording.warnings;
    const auto scan = scan_of(rows);
    for (auto row = scan.first(); row < scan.end(); ++row) {
        const auto &bottom = scan.bottom(row);
        r.first_return_m.push_back(bottom.found ? bottom.altitude_m : 0);
    }
    if (std::count_if(r.first_return_m.begin(), r.first_return_m.end(), [](double m) { return m > 0; }) <
        static_cast<std::ptrdiff_t>(r.first_return_m.size() / 4))
        r.warnings.push_back(
            told("the first return is hardly found: tell the depth, or see where the middle runs"));
    Reader reader;
    for (auto &one : join_contacts(reader.advance(scan, true), ReaderSettings().least_confidence)) {
        const auto size = panel_size(c);
        const double columns = c.across_is_level() ? size.width : size.height, middle = c.middle * columns;
        const double pixel_m = c.pixel_sd * c.range_m / std::max(middle, columns - middle);
        doubt_pixels(one, pixel_m);
        if (c.along_m <= 0) {
            one.length_m.reset();
            one.width_m.reset();
        }
        const auto at = on_picture(c, static_cast<double>(one.row), one.side, one.slant_m);
        r.contacts.push_back({std::move(one), at});
    }
    return r;
}

} // namespace heron
