// Waypoints from other people's programs.
#include "exchange/gpx.hpp"
#include "fuzz/target.hpp"

#include <cmath>

using namespace heron;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t *data, std::size_t size) {
    const auto read = marks_from_gpx({reinterpret_cast<const char *>(data), size}, "fuzz.gpx");
    if (!read)
        return 0;
    for (const auto &m : read->marks)
        must(!m.place || std::fabs(m.place->latitude_deg) <= 90);
    const auto again =
        marks_from_gpx(gpx_from_marks(read->marks, nullptr, read->foreign_metadata), "again.gpx");
    must(again && again->marks.size() == read->marks.size());
    return 0;
}
