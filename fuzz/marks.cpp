// Marks of other programs and other screens: KML, GeoJSON, tables, words of a broker. The first byte says
// which.
#include "exchange/mark_files.hpp"
#include "fuzz/target.hpp"
#include "marks/mark_json.hpp"
#include "sharing/replica.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t *data, std::size_t size) {
    using namespace heron;
    if (size < 2)
        return 0;
    const std::string_view text(reinterpret_cast<const char *>(data) + 1, size - 1);
    Result<MarksRead> read = tl::unexpected(Fault());
    switch (data[0] % 4) {
    case 0:
        read = marks_from_kml(text, "fuzz");
        break;
    case 1:
        read = marks_from_geojson(text, "fuzz");
        break;
    case 2:
        read = marks_from_csv(text, "fuzz");
        break;
    default:
        if (auto word = shared_mark_of_json(text)) {
            Replica replica("fuzz");
            replica.take(*word, 0);
            must(replica.load(replica.state()) == 0);
        }
        return 0;
    }
    if (!read)
        return 0;
    // What was taken can be written and read again.
    for (auto &m : read->marks)
        hold_to_bounds(m);
    (void)kml_from_marks(read->marks, true);
    (void)geojson_from_marks(read->marks);
    (void)csv_from_marks(read->marks);
    return 0;
}
