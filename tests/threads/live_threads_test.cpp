// What runs in threads of its own while the boat sounds, at once: the intake, the journal, the reading, and
// the one that draws. Built with the thread sanitizer by `./test --threads`.
#include "ingest/host_clock.hpp"
#include "ingest/live_intake.hpp"
#include "lake.hpp"
#include "picture/row_levels.hpp"
#include "programs.hpp"
#include "reading/reading_worker.hpp"
#include "trip/trip_file.hpp"

#include <atomic>
#include <condition_variable>
#include <gtest/gtest.h>
#include <mutex>
#include <thread>
#include <utility>

using namespace heron;
using namespace heron::app;

namespace {

// Hands one thing after another to another thread.
template <class T>
class Handed {
  public:
    void put(T thing) {
        {
            const std::scoped_lock hold(lock_);
            things_.push_back(std::move(thing));
        }
        there_.notify_one();
    }
    T take() {
        std::unique_lock hold(lock_);
        there_.wait(hold, [this] { return !things_.empty(); });
        return take_first();
    }
    std::optional<T> take_if_there() {
        const std::scoped_lock hold(lock_);
        return things_.empty() ? std::nullopt : std::optional(take_first());
    }

  private:
    T take_first() {
        T first = std::move(things_.front());
        things_.pop_front();
        return first;
    }
    std::mutex lock_;
    std::condition_variable there_;
    std::deque<T> things_;
};

using Batch = std::shared_ptr<ReadingBatch>;
using Answer = std::shared_ptr<ReadingAnswer>;

// The boat runs past a boulder at the pace of the day: intake by the thread that calls it.
void sound_for(IngestQueue &queue, const QString &trips, int rows) {
    LiveIntake intake(queue, 1, {}, trips, QStringLiteral("Ellemoor Water"));
    auto lake = test::basin();
    lake["boat"]["speed_m_s"] = 2.4;
    lake["things"] = {{{"kind", "boulder"}, {"at", {72, 22}}, {"length_m", 1.4}, {"height_m", 0.9}}};
    sim::Sounder sounder(test::scene_of(lake), host_now());
    constexpr int stern = 0, receiver = 1;
    intake.greeted(stern, sounder.hello());
    while (rows > 0) {
        auto e = sounder.next();
        while (host_now() < e.time)
            std::this_thread::sleep_for(std::chrono::milliseconds(2));
        for (const auto &line : e.sentences)
            intake.heard(receiver, line.substr(0, line.size() - 2));
        if (e.ping) {
            intake.sounded(stern, std::move(*e.ping));
            --rows;
        }
    }
}

// Answers each batch until one that is none.
void read_batches(Handed<Batch> &batches, Handed<Answer> &answers) {
    ReadingWorker worker;
    QObject::connect(&worker, &ReadingWorker::found, &worker,
                     [&](const Answer &answer) { answers.put(answer); });
    while (const auto batch = batches.take())
        worker.take(batch);
}

// The drawing thread's: what came, drawn, looked back at and handed on to be read.
class Window {
  public:
    explicit Window(Handed<Batch> &batches) : batches_(batches), scan_(1u << 20) {
        batch_ = std::make_shared<ReadingBatch>();
        batch_->begins = batch_->live = batch_->said_changed = true;
    }
    void take(IngestItem item) {
        if (auto *begins = std::get_if<TripBegins>(&item.content)) {
            journal_ = begins->journal;
            auto trip = TripFile::open_read_only(journal_->path());
            ASSERT_TRUE(trip) << trip.error().line();
            looked_back_ = std::make_unique<TripFile>(std::move(*trip));
            scan_.set_fetch([this](std::size_t first, std::size_t count) {
                const auto kept = std::max(journal_->rows_kept(), first);
                return looked_back_->fetch(first, std::min(count, kept - first));
            });
        } else if (const auto *heard = std::get_if<NavHeard>(&item.content)) {
            for (NavTrack *nav : {&scan_.nav, &batch_->nav}) {
                for (const auto &p : heard->samples.positions())
                    nav->add(p);
                for (const auto &a : heard->samples.attitudes())
                    nav->add(a);
                for (const auto &s : heard->samples.speeds())
                    nav->add_speed(s.time, s.m_s);
            }
        } else if (auto *taken = std::get_if<RowTaken>(&item.content)) {
            EXPECT_EQ(taken->number, scan_.end());
            rows_.push_back(taken->row);
            batch_->rows.push_back(taken->row);
            scan_.push(std::move(taken->row));
        } else if (const auto *hello = std::get_if<HelloTold>(&item.content)) {
            scan_.installation = batch_->installation = hello->hello.installation;
        } else if (const auto *fault = std::get_if<Fault>(&item.content)) {
            ADD_FAILURE() << fault->line();
        }
    }
    // The newest rows, and some that are to be had on the disk only.
    void draw() {
        for (auto n = scan_.end() - std::min<std::size_t>(scan_.end(), 5); n < scan_.end(); ++n)
            drawRow(n);
        if (journal_ && journal_->rows_kept() > 0)
            drawRow(drawn_++ % journal_->rows_kept());
        scan_.trim();
    }
    void handOn(bool ends) {
        const auto first = read_settled_;
        read_settled_ = ends ? scan_.end() : scan_.settled_until();
        auto batch = std::exchange(batch_, std::make_shared<ReadingBatch>());
        batch->scan_number = 1;
        batch->ends = ends;
        batch->live = !ends;
        batch->known_from = first;
        batch->settled = read_settled_;
        for (auto n = first; n < scan_.end(); ++n)
            batch->facts.push_back(scan_.facts(n));
        batch->settings = scan_.all_settings();
        batch_->installation = batch->installation;
        handed_.push_back(batch);
        batches_.put(batch);
    }
    const std::vector<Batch> &handed() const { return handed_; }
    const std::vector<SoundedRow> &rows() const { return rows_; }
    std::shared_ptr<Journal> journal() const { return journal_; }

  private:
    void drawRow(std::size_t n) {
        const auto &ping = scan_.ping(n);
        std::array<std::uint8_t, 400> pixels{};
        for (const auto &beam : ping.beams) {
            row_levels(ping, beam, scan_.bottom(n), {}, angles_, nullptr, nullptr, 0.2, levels_);
            paint_levels(ping, levels_, scan_.bottom(n).altitude_m, Across::ground, 20, {}, pixels);
            angles_.add(ping, scan_.bottom(n));
        }
    }
    Handed<Batch> &batches_;
    Scan scan_;
    AngleLevels angles_;
    std::vector<float> levels_;
    std::vector<SoundedRow> rows_;
    std::vector<Batch> handed_;
    Batch batch_;
    std::shared_ptr<Journal> journal_;
    std::unique_ptr<TripFile> looked_back_;
    std::size_t read_settled_ = 0, drawn_ = 0;
};

} // namespace

TEST(LiveThreads, WhatComesInIsKeptReadAndDrawnAtOnce) {
    const test::Folder folder;
    IngestQueue queue;
    Handed<Batch> batches;
    Handed<Answer> answers;
    std::atomic<bool> all_sounded = false;
    constexpr int rows = 260;
    std::thread intake([&] {
        sound_for(queue, QString::fromStdString(folder.file("trips")), rows);
        all_sounded = true;
    });
    std::thread reading([&] { read_batches(batches, answers); });
    Window window(batches);
    std::vector<Answer> told;
    bool reads = false;
    for (bool last = false; !last;) {
        last = all_sounded;
        while (auto item = queue.pop())
            window.take(std::move(*item));
        window.draw();
        if (auto answer = answers.take_if_there()) {
            told.push_back(*answer);
            reads = false;
        }
        if (!reads && window.rows().size() > 40 && !last) {
            window.handOn(false);
            reads = true;
        }
        std::this_thread::sleep_for(std::chrono::milliseconds(20));
    }
    window.handOn(true);
    while (told.size() < window.handed().size())
        told.push_back(answers.take());
    batches.put(nullptr);
    intake.join();
    reading.join();

    EXPECT_EQ(queue.dropped(), 0u);
    ASSERT_EQ(window.rows().size(), std::size_t{rows});
    EXPECT_GT(told.size(), 2u) << "read while it sounded";
    // What was read in its own thread is what the same thread would have read.
    Handed<Answer> again;
    Handed<Batch> same;
    for (const auto &batch : window.handed())
        same.put(batch);
    same.put(nullptr);
    read_batches(same, again);
    for (const auto &answer : told) {
        const auto other = again.take();
        ASSERT_FALSE(answer->fault) << answer->fault->line();
        ASSERT_EQ(answer->contacts.size(), other->contacts.size());
        for (std::size_t i = 0; i < other->contacts.size(); ++i)
            EXPECT_EQ(answer->contacts[i].row, other->contacts[i].row);
    }
    EXPECT_FALSE(told.back()->contacts.empty()) << "the boulder";
    // And what was kept is what came.
    const auto journal = window.journal();
    ASSERT_TRUE(journal);
    journal->flush();
    EXPECT_EQ(journal->rows_kept(), std::size_t{rows});
    const auto trip = TripFile::open_read_only(journal->path());
    ASSERT_TRUE(trip) << trip.error().line();
    const auto kept = trip->fetch(0, rows);
    ASSERT_EQ(kept.size(), std::size_t{rows});
    for (std::size_t n = 0; n < kept.size(); ++n) {
        EXPECT_EQ(kept[n].ping.time, window.rows()[n].ping.time);
        ASSERT_EQ(kept[n].ping.beams.size(), window.rows()[n].ping.beams.size());
        for (std::size_t b = 0; b < kept[n].ping.beams.size(); ++b)
            EXPECT_EQ(kept[n].ping.beams[b].code, window.rows()[n].ping.beams[b].code);
    }
}
