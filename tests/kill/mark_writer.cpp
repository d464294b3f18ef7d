// Saves marks one after the other until it is killed, and says which ones are saved. With a second argument
// it writes the same GPX file over and over instead.
#include "exchange/gpx.hpp"
#include "files/identifier.hpp"
#include "marks/mark_book.hpp"

#include <cstdio>

int main(int argc, char **argv) {
    if (argc < 2)
        return 2;
    using namespace heron;
    if (argc > 2) {
        std::vector<Mark> marks(400);
        for (std::size_t i = 0; i < marks.size(); ++i) {
            marks[i].id = new_identifier();
            marks[i].place = GeoPoint{46.5, -21.25};
        }
        while (write_gpx(argv[1], marks)) {
            std::puts("written");
            std::fflush(stdout);
        }
        return 1;
    }
    auto book = MarkBook::open(argv[1]);
    if (!book)
        return 2;
    while (true) {
        Mark m;
        m.id = new_identifier();
        m.place = GeoPoint{46.5, -21.25};
        m.chip = {124, 92, std::vector<std::uint8_t>(124 * 92, 7)};
        if (!book->add(m))
            return 1;
        std::puts(m.id.c_str());
        std::fflush(stdout);
    }
}
