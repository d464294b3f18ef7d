// `heron read`: contacts of recordings and trips, without a window.
#pragma once

#include <string>

namespace heron::cli {

struct ReadOptions {
    std::string in;     ///< a recording, a trip, or a folder of them
    std::string marks;  ///< GeoJSON to write; with a folder, the folder to write to
    std::string track;  ///< GeoJSON of the track; empty: none
    std::string bottom; ///< a GeoTIFF of the bottom; empty: none
    bool quiet = false;
};

/// 0 read (warnings on stderr, one a line); 2 refused, with one line, and no output left behind. A folder is
/// gone through file by file; what has been read already (its result is newer) is passed over, so that a
/// broken run goes on where it was.
int read(const ReadOptions &options);

} // namespace heron::cli
