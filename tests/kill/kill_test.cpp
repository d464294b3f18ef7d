// Writers killed at random moments. What was said to be saved must be there; what was half written must not
// show.
#include "exchange/gpx.hpp"
#include "marks/mark_store.hpp"
#include "programs.hpp"
#include "trip/open_trip.hpp"

#include <csignal>
#include <cstdlib>
#include <fstream>
#include <gtest/gtest.h>
#include <random>
#include <set>
#include <thread>
#include <unistd.h>

using namespace heron;

namespace {

// How often each is killed: a few dozen by default, more by HERON_KILLS.
int kills() {
    const char *asked = std::getenv("HERON_KILLS");
    return asked != nullptr ? std::atoi(asked) : 30;
}

// Starts a program with its output in a file and kills it after so many milliseconds.
void run_and_kill(const std::vector<std::string> &command, const std::string &out, int after_ms) {
    const pid_t child = ::fork();
    if (child == 0) {
        if (std::freopen(out.c_str(), "w", stdout) == nullptr)
            ::_exit(126);
        std::vector<char *> arguments;
        for (const auto &c : command)
            arguments.push_back(const_cast<char *>(c.c_str()));
        arguments.push_back(nullptr);
        ::execv(arguments[0], arguments.data());
        ::_exit(127);
    }
    std::this_thread::sleep_for(std::chrono::milliseconds(after_ms));
    ::kill(child, SIGKILL);
    int status = 0;
    ::waitpid(child, &status, 0);
    ASSERT_TRUE(WIFSIGNALED(status)) << "it ended by itself";
}

// When to kill: at random within a span. On a busy machine or a slow disk a writer may be killed each time
// before it has written anything; where the usual number of kills was not enough the span doubles until
// something is at stake.
class Moment {
  public:
    Moment(unsigned seed, int from, int span) : random(seed), from_ms(from), span_ms(span) {}
    int next() { return from_ms + static_cast<int>(random() % static_cast<unsigned>(span_ms)); }
    void nothing_written() { span_ms = std::min(2 * span_ms, 20000); }

  private:
    std::mt19937 random;
    int from_ms, span_ms;
};

} // namespace

TEST(KillMarkStore, NoMarkSaidToBeSavedIsMissing) {
    Moment moment(1, 30, 120);
    const test::Folder folder;
    // A slow disk saves few marks before a kill: on it goes on until enough were at stake.
    std::size_t saved = 0;
    for (int i = 0; i < kills() || (saved <= 50 && i < 20 * kills()); ++i) {
        const auto file = folder.file("m" + std::to_string(i % 3) + ".gpkg");
        run_and_kill({test::program("mark_writer"), file}, folder.file("out"), moment.next());
        const auto before = saved;
        const auto store = MarkStore::open(file);
        ASSERT_TRUE(store) << store.error().line();
        const auto marks = store->load();
        ASSERT_TRUE(marks);
        std::set<std::string> ids;
        for (const auto &m : *marks) {
            ids.insert(m.id);
            EXPECT_EQ(m.chip.look()->level.size(), 124u * 92u);
        }
        std::ifstream out(folder.file("out"));
        std::string line;
        while (std::getline(out, line)) {
            if (line.size() != 36)
                continue; // the last line may be cut
            EXPECT_TRUE(ids.contains(line)) << line;
            ++saved;
        }
        if (saved == before && i >= kills())
            moment.nothing_written();
    }
    EXPECT_GT(saved, 50u);
}

// Sounding and marking at once. The writer says what it takes for kept: rows taken a second and more ago, and
// marks as they are saved.
TEST(KillTrip, OpensWithEveryMarkAndAllButTheLastSecond) {
    Moment moment(4, 150, 2600);
    const test::Folder folder;
    std::size_t rows_checked = 0, marks_checked = 0;
    for (int i = 0; i < kills() || ((rows_checked <= 100 || marks_checked <= 50) && i < 20 * kills()); ++i) {
        const auto file = folder.file("t" + std::to_string(i) + ".trip.gpkg");
        run_and_kill({test::program("trip_writer"), test::lake(), file}, folder.file("out"), moment.next());
        std::size_t rows = 0;
        std::vector<std::string> marked;
        std::ifstream out(folder.file("out"));
        std::string line;
        while (std::getline(out, line)) {
            if (out.eof())
                break; // the last line may be cut
            if (line.starts_with("rows "))
                rows = std::stoul(line.substr(5));
            else
                marked.push_back(line.substr(5));
        }
        if (marked.empty() && i >= kills())
            moment.nothing_written();
        if (!std::filesystem::exists(file)) {
            EXPECT_TRUE(marked.empty());
            continue;
        }
        auto trip = TripFile::open(file);
        if (!trip && marked.empty() && rows == 0)
            continue; // killed while it was made
        ASSERT_TRUE(trip) << trip.error().line();
        Scan scan;
        Overview overview;
        ASSERT_TRUE(open_into(*trip, scan, overview));
        EXPECT_GE(scan.end(), rows) << i;
        for (std::size_t n = 0; n < scan.end(); n += 11)
            EXPECT_EQ(scan.ping(n).beams.size(), 4u);
        const auto store = MarkStore::open(file);
        ASSERT_TRUE(store) << store.error().line();
        const auto loaded = store->load();
        ASSERT_TRUE(loaded);
        std::set<std::string> ids;
        for (const auto &m : *loaded)
            ids.insert(m.id);
        for (const auto &id : marked)
            EXPECT_TRUE(ids.contains(id)) << id;
        rows_checked += rows;
        marks_checked += marked.size();
        for (const char *more : {"", "-wal", "-shm", ".marks", ".marks-wal", ".marks-shm"})
            std::filesystem::remove(file + more);
    }
    EXPECT_GT(rows_checked, 100u);
    EXPECT_GT(marks_checked, 50u);
}

TEST(KillGpx, TheFileIsTheOldOrTheNewButNeverAHalf) {
    Moment moment(2, 20, 80);
    const test::Folder folder;
    const auto file = folder.file("a.gpx");
    for (int i = 0; i < kills() || (!std::filesystem::exists(file) && i < 20 * kills()); ++i) {
        run_and_kill({test::program("mark_writer"), file, "gpx"}, folder.file("out"), moment.next());
        if (!std::filesystem::exists(file)) {
            if (i >= kills())
                moment.nothing_written();
            continue;
        }
        const auto read = read_gpx(file);
        ASSERT_TRUE(read) << read.error().line();
        EXPECT_EQ(read->marks.size(), 400u);
    }
    EXPECT_TRUE(std::filesystem::exists(file));
}

TEST(KillRecording, NoHalfRecordingAppearsUnderItsName) {
    std::mt19937 random(3);
    const test::Folder folder;
    for (int i = 0; i < kills() / 2; ++i) {
        const auto file = folder.file("r" + std::to_string(i) + ".nc");
        const pid_t child = ::fork();
        if (child == 0) {
            const auto quiet = std::freopen("/dev/null", "w", stdout);
            (void)quiet;
            const auto in = test::sample(), heron = test::program("heron");
            ::execl(heron.c_str(), "heron", "convert", in.c_str(), file.c_str(), nullptr);
            ::_exit(127);
        }
        std::this_thread::sleep_for(std::chrono::milliseconds(10 + random() % 200));
        ::kill(child, SIGKILL);
        int status = 0;
        ::waitpid(child, &status, 0);
        if (!std::filesystem::exists(file))
            continue;
        EXPECT_EQ(test::run(test::program("heron") + " info " + file).code, 0);
    }
}
