// The sonar's panel out of a picture: perspective and the bow of the glass taken out, the oldest row first.
#pragma once

#include "screen/calibration.hpp"

namespace heron {

/// Rows in order of time, oldest first; columns across the track from port to starboard.
struct Panel {
    int rows = 0, columns = 0;
    std::vector<Rgb> pixels;
    const Rgb &at(int row, int column) const {
        return pixels[static_cast<std::size_t>(row) * static_cast<std::size_t>(columns) +
                      static_cast<std::size_t>(column)];
    }
    Rgb &at(int row, int column) {
        return pixels[static_cast<std::size_t>(row) * static_cast<std::size_t>(columns) +
                      static_cast<std::size_t>(column)];
    }
};

/// Size of the panel in its own pixels: means of opposite edges on the picture.
struct PanelSize {
    int width = 0, height = 0;
};
PanelSize panel_size(const ScreenCalibration &calibration);

/// The panel as one reads it, upright. A picture of another size than the calibration's is scaled to it.
ScreenPicture upright_panel(const ScreenPicture &picture, const ScreenCalibration &calibration);
/// In a size of its own, which all pictures of a film share however near the camera is held.
ScreenPicture upright_panel(const ScreenPicture &picture, const ScreenCalibration &calibration,
                            PanelSize size);

/// Turned so that time runs down and port comes first: the side that was at the left, or above.
Panel panel_of(const ScreenPicture &upright, NewestAt newest);
Panel straighten(const ScreenPicture &picture, const ScreenCalibration &calibration);
/// `room`: a panel that is not needed any more, whose memory is taken.
Panel straighten(const ScreenPicture &picture, const ScreenCalibration &calibration, PanelSize size,
                 Panel room = {});

/// A projective map of the plane, row by row, the last entry 1.
using Homography = std::array<double, 9>;

/// The plane's projective map that takes four corners into four others, row by row, the last entry 1; solved
/// as the eight linear equations of a homography (Hartley and Zisserman, Multiple View Geometry, chapter 4:
/// from memory).
Homography homography(const std::array<Pixel, 4> &from, const std::array<Pixel, 4> &to);
Pixel mapped(const Homography &h, Pixel p);
/// Where the glass's bow shows a place that would lie at `p` on flat glass.
Pixel bowed(Pixel p, const ScreenCalibration &calibration);

} // namespace heron
