// Sounds the demo lake into a trip and marks it, as the program does, until it is killed. It says which marks
// are saved, and how many rows had been taken a second and more ago.
#include "files/identifier.hpp"
#include "marks/mark_book.hpp"
#include "marks/mark_store.hpp"
#include "recording/nmea_feed.hpp"
#include "sim/sounder.hpp"
#include "trip/journal.hpp"

#include <chrono>
#include <cstdio>
#include <deque>

int main(int argc, char **argv) {
    using namespace heron;
    if (argc < 3)
        return 2;
    auto scene = sim::read_scene_file(argv[1]);
    if (!scene)
        return 2;
    sim::Sounder sounder(std::move(*scene), 1'800'000'000LL * ns_per_s);
    auto trip = TripFile::create(argv[2], {"Ellemoor Water", "heron-sounder", 1'800'000'000LL * ns_per_s,
                                           sounder.scene().boat.installation});
    auto marks = MarkBook::open(std::string(argv[2]) + ".marks");
    if (!trip || !marks)
        return 2;
    auto layer = MarkStore::open(argv[2]);
    if (!layer)
        return 2;
    Journal journal(std::move(*trip), [](const Fault &f) { std::fprintf(stderr, "%s\n", f.line().c_str()); });
    marks->follow([&layer](const MarkWrites &writes) {
        if (!layer->write(writes))
            std::exit(1);
    });
    using Clock = std::chrono::steady_clock;
    std::deque<std::pair<Clock::time_point, std::size_t>> taken;
    for (std::size_t n = 0; true; ++n) {
        auto e = sounder.next();
        for (const auto &line : e.sentences)
            journal.heard({e.time, 0, line});
        if (!e.ping)
            continue;
        taken.emplace_back(Clock::now(), journal.sounded({e.ping->ping, std::nullopt, e.ping->settings}) + 1);
        std::size_t old = 0;
        for (; !taken.empty() && Clock::now() - taken.front().first > std::chrono::seconds(1);
             taken.pop_front())
            old = taken.front().second;
        if (old > 0)
            std::printf("rows %zu\n", old);
        if (n % 7 == 0) {
            Mark m;
            m.id = new_identifier();
            m.place = GeoPoint{46.5, -21.25};
            if (!marks->add(m))
                return 1;
            std::printf("mark %s\n", m.id.c_str());
        }
        std::fflush(stdout);
    }
}
