// Contacts of one picture of a screen.
#pragma once

#include "reading/contact.hpp"
#include "screen/rows.hpp"

namespace heron {

struct PictureContact {
    Contact contact;
    Pixel at; ///< on the original picture: the near edge of its echo
};

struct PictureReading {
    std::vector<PictureContact> contacts;
    std::vector<std::string> warnings;
    ColourRamp ramp;
    std::vector<double> first_return_m; ///< slant range by row, oldest first; 0 where none was found
};

/// Reads a picture as a recording is read. The doubt of the calibration is in every sigma; where the scale
/// along the track is not known lengths are left out.
Result<PictureReading> read_picture(const ScreenPicture &picture, const ScreenCalibration &calibration,
                                    UnixNs newest, const std::string &name);

/// The same of rows that were taken before.
PictureReading read_rows(const PictureRows &rows, const ScreenCalibration &calibration);

/// Where a place on the panel lies on the picture. `row` from the oldest on, `slant_m` to a side.
Pixel on_picture(const ScreenCalibration &calibration, double row, Side side, double slant_m);

} // namespace heron
