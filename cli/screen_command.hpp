// `heron picture` and `heron film`: what a unit's screen showed, read as a recording is.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

namespace heron::cli {

struct PictureOptions {
    std::string in;          ///< a picture, or a folder of them
    std::string calibration; ///< JSON; docs/screens.md
    std::string marks;       ///< GeoJSON to write; of a folder a folder
    std::string recording;   ///< recording to write, none if empty
    std::string guess;       ///< a calibration to begin with: written, and nothing is read
    double range_m = 25;     ///< of that
    bool quiet = false;
};
int picture(const PictureOptions &options);

struct FilmCommandOptions {
    std::string in, calibration, recording;
    std::string start;   ///< time of the first picture, RFC 3339; the file's own if empty
    std::string nmea;    ///< a log of sentences of a receiver beside it
    bool follow = false; ///< it was filmed by hand
    /// Instead of a recording: its rows as they come, as a sounder's, on a port of this machine; 0: any free
    /// one.
    std::optional<std::uint16_t> sounder_port;
    std::uint16_t nmea_port = 0; ///< of what is read off the screen
    double speed_up = 1;         ///< of a film; a device has its own pace
    bool quiet = false;
};
int film(const FilmCommandOptions &options);

} // namespace heron::cli
