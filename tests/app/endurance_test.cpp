// The window itself: killed while it marks, and run for hours.
#include "stage.hpp"

#include "marks/mark_store.hpp"
#include "trip/open_trip.hpp"

#include <QDir>
#include <QProcessEnvironment>
#include <cstdlib>
#include <gmock/gmock.h>
#include <iostream>
#include <random>
#include <sstream>

using namespace heron;
using namespace heron::app;

namespace {

std::string asked(const char *name, const char *otherwise = "") {
    const char *value = std::getenv(name);
    return value != nullptr ? value : otherwise;
}

// A line of /proc/self/status in kilobytes, and how many files are open.
long kilobytes(const std::string &key) {
    std::ifstream in("/proc/self/status");
    std::string line;
    while (std::getline(in, line))
        if (line.starts_with(key + ":"))
            return std::atol(line.c_str() + key.size() + 1);
    return 0;
}
std::ptrdiff_t open_files() {
    return std::distance(std::filesystem::directory_iterator("/proc/self/fd"),
                         std::filesystem::directory_iterator());
}

// Run by the tests below in a process of its own.
class OnItsOwn : public test::Stage {};

} // namespace

// Marks at the boat as fast as the keys come, and says each mark's id once the window says that it is saved.
TEST_F(OnItsOwn, DISABLED_MarksUntilItIsKilled) {
    session().trip.setFolder(QString::fromStdString(asked("HERON_KILL_FOLDER") + "/trips"));
    marks().open(QString::fromStdString(asked("HERON_KILL_FOLDER") + "/marks.gpkg"));
    const auto before = marks().all().size();
    session().sources.listenTo({test::source(SourceConfig::Kind::sounder,
                                             static_cast<quint16>(std::stoi(asked("HERON_KILL_SOUNDER"))))});
    ASSERT_TRUE(rows(240)); // three seconds of the clock on the wall
    std::cout << "sounding" << std::endl;
    for (std::size_t n = 1;; ++n) {
        key(Qt::Key_C);
        ASSERT_TRUE(test::wait_for([&] { return marks().all().size() == before + n; }));
        std::cout << marks().all().front().id << " " << marks().all().back().id << std::endl;
    }
}

TEST(KillWindow, NoMarkThatItSaidToBeSavedIsMissing) {
    const test::Folder folder;
    std::mt19937 random(11);
    std::size_t saved = 0;
    const int kills = std::stoi(asked("HERON_KILLS", "5"));
    for (int i = 0; i < kills; ++i) {
        SCOPED_TRACE(i);
        const test::SounderProcess sounder({QStringLiteral("--speed-up"), QStringLiteral("4")});
        ASSERT_FALSE(sounder.sources.empty());
        QProcess window;
        auto environment = QProcessEnvironment::systemEnvironment();
        environment.insert(QStringLiteral("HERON_KILL_FOLDER"), QString::fromStdString(folder.file("")));
        environment.insert(QStringLiteral("HERON_KILL_SOUNDER"),
                           QString::number(sounder.sources[0].host_port()->port));
        window.setProcessEnvironment(environment);
        window.start(QCoreApplication::applicationFilePath(),
                     {QStringLiteral("--gtest_also_run_disabled_tests"),
                      QStringLiteral("--gtest_filter=OnItsOwn.DISABLED_MarksUntilItIsKilled")});
        QByteArray said;
        const auto lines = static_cast<qsizetype>(random() % 12 + 2);
        ASSERT_TRUE(test::wait_for(
            [&] {
                said += window.readAllStandardOutput();
                return said.contains("sounding") && said.mid(said.indexOf("sounding")).count('\n') > lines;
            },
            30000))
            << said.toStdString();
        // In the midst of whatever it does.
        QTest::qWait(static_cast<int>(random() % 40));
        window.kill();
        ASSERT_TRUE(window.waitForFinished());
        said += window.readAllStandardOutput();
        const auto store = MarkStore::open(folder.file("marks.gpkg"));
        ASSERT_TRUE(store) << store.error().line();
        const auto kept = store->load();
        ASSERT_TRUE(kept);
        std::set<std::string> ids;
        for (const auto &m : *kept)
            ids.insert(m.id);
        std::istringstream words(said.mid(said.indexOf("sounding")).toStdString());
        for (std::string word; words >> word;)
            if (word.size() == 36) {
                EXPECT_TRUE(ids.contains(word)) << word;
                ++saved;
            }
    }
    EXPECT_GT(saved, static_cast<std::size_t>(kills));
    // Each trip opens, whole but for its last second.
    const QDir trips(QString::fromStdString(folder.file("trips")));
    const auto all = trips.entryList({QStringLiteral("*.trip.gpkg")});
    EXPECT_EQ(all.size(), kills);
    for (const auto &name : all) {
        auto trip = TripFile::open(trips.filePath(name).toStdString());
        ASSERT_TRUE(trip) << trip.error().line();
        Scan scan;
        Overview overview;
        ASSERT_TRUE(open_into(*trip, scan, overview));
        EXPECT_GT(scan.end(), 100u);
        EXPECT_EQ(trip->extent().passed_over, 0u);
    }
}

// scripts/soak: sounding, reading and marking for HERON_SOAK_HOURS of the lake's time; memory and open files
// told.
TEST_F(OnItsOwn, DISABLED_SoundsReadsAndMarksForHours) {
    const double hours = std::stod(asked("HERON_SOAK_HOURS", "8")),
                 speed = std::stod(asked("HERON_SOAK_SPEED", "20"));
    const test::SounderProcess sounder({QStringLiteral("--speed-up"), QString::number(speed)});
    session().sources.listenTo(sounder.sources);
    ASSERT_TRUE(rows(100));
    std::cout << "lake_minutes,rows,contacts,marks,resident_kb,open_files\n";
    QElapsedTimer clock;
    clock.start();
    long after_warming = 0;
    std::ptrdiff_t files_then = 0;
    const Qt::Key places[] = {Qt::Key_3, Qt::Key_6, Qt::Key_2};
    for (int minute = 0; minute < static_cast<int>(hours * 60); ++minute) {
        const auto until = static_cast<qint64>((minute + 1) * 60'000 / speed);
        test::wait_for([&] { return clock.elapsed() >= until; }, 600'000);
        key(Qt::Key_2);
        key(Qt::Key_C);
        key(places[minute % 3]);
        if (minute % 10 != 9)
            continue;
        std::cout << minute + 1 << ',' << scan().end() << ',' << program->reader.contacts().size() << ','
                  << marks().all().size() << ',' << kilobytes("VmRSS") << ',' << open_files() << std::endl;
        if (minute == 59)
            after_warming = kilobytes("VmRSS"), files_then = open_files();
    }
    EXPECT_GT(marks().all().size(), hours * 50);
    if (after_warming > 0) {
        // What is known of each row stays: some 200 bytes a ping.
        EXPECT_LT(kilobytes("VmRSS"), after_warming + 250'000);
        EXPECT_LE(open_files(), files_then + 5);
    }
}
