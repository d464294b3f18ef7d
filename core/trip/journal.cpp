#include "trip/journal.hpp"

#include <algorithm>

namespace heron {
namespace {

constexpr auto try_again_after = std::chrono::seconds(3);
constexpr std::size_t most_sentences = 100'000;

std::size_t bytes_of(const SoundedRow &r) {
    std::size_t n = sizeof r;
    for (const auto *p : {&r.ping, r.down ? &*r.down : nullptr})
        if (p != nullptr)
            for (const auto &b : p->beams)
                n += sizeof b + b.code.size() * sizeof(b.code[0]);
    return n;
}

} // namespace

Journal::Journal(TripFile trip, OnFault on_fault)
    : trip_(std::move(trip)), path_(trip_.path()), on_fault_(std::move(on_fault)) {
    rows_first_ = trip_.rows();
    taken_ = kept_ = rows_first_;
    thread_ = std::thread([this] { work(); });
}

Journal::~Journal() {
    {
        const std::scoped_lock hold(mutex_);
        ending_ = true;
    }
    wake_.notify_all();
    thread_.join();
}

std::size_t Journal::sounded(SoundedRow row) {
    const std::scoped_lock hold(mutex_);
    waiting_bytes_ += bytes_of(row);
    rows_.push_back(std::move(row));
    while (waiting_bytes_ > most_waiting && rows_.size() > 1) {
        waiting_bytes_ -= bytes_of(rows_.front());
        rows_.pop_front();
        ++rows_first_;
        ++lost_;
    }
    return taken_++;
}

void Journal::heard(HeardSentence sentence) {
    const std::scoped_lock hold(mutex_);
    if (sentences_.size() < most_sentences)
        sentences_.push_back(std::move(sentence));
}

void Journal::known(TripFile::Knowledge knowledge) {
    ask([k = std::move(knowledge)](TripFile &trip) { return trip.append(k); });
}

void Journal::ask(std::function<Result<void>(TripFile &)> job) {
    const std::scoped_lock hold(mutex_);
    jobs_.push_back(std::move(job));
}

void Journal::flush() {
    std::unique_lock hold(mutex_);
    flushing_ = true;
    wake_.notify_all();
    // The round under way may have begun before what is to be flushed came.
    const auto until = rounds_ + 2;
    idle_.wait(hold, [&] {
        wake_.notify_all();
        return rounds_ >= until || failing_;
    });
    flushing_ = false;
}

// One round: at most a second's worth of rows, the sentences, then what else was asked. True when all is
// written.
bool Journal::write_some(std::unique_lock<std::mutex> &hold) {
    constexpr std::size_t most_rows = 64;
    TripFile::Batch batch;
    batch.first_row = rows_first_;
    std::size_t bytes = 0;
    while (!rows_.empty() && batch.rows.size() < most_rows) {
        bytes += bytes_of(rows_.front());
        batch.rows.push_back(std::move(rows_.front()));
        rows_.pop_front();
        ++rows_first_;
    }
    batch.sentences.swap(sentences_);
    std::deque<std::function<Result<void>(TripFile &)>> jobs;
    if (rows_.empty())
        jobs.swap(jobs_);
    hold.unlock();

    Result<void> done;
    const bool something = !batch.rows.empty() || !batch.sentences.empty();
    if (something)
        done = trip_.append(batch);
    const bool written = done.has_value();
    while (done && !jobs.empty()) {
        done = jobs.front()(trip_);
        if (done)
            jobs.pop_front();
    }

    hold.lock();
    if (written) {
        waiting_bytes_ -= std::min(waiting_bytes_, bytes);
        kept_ = batch.first_row + batch.rows.size();
    } else if (!batch.rows.empty() && rows_first_ == batch.first_row + batch.rows.size()) {
        // Back to the front of the queue, in order, to be tried again.
        rows_first_ = batch.first_row;
        rows_.insert(rows_.begin(), std::make_move_iterator(batch.rows.begin()),
                     std::make_move_iterator(batch.rows.end()));
    } else if (!batch.rows.empty()) {
        lost_ += batch.rows.size(); // the bound has moved past them meanwhile
        waiting_bytes_ -= std::min(waiting_bytes_, bytes);
    }
    if (!done) {
        if (!written && sentences_.size() < most_sentences)
            sentences_.insert(sentences_.begin(), batch.sentences.begin(), batch.sentences.end());
        jobs_.insert(jobs_.begin(), std::make_move_iterator(jobs.begin()),
                     std::make_move_iterator(jobs.end()));
        if (!failing_.exchange(true)) {
            hold.unlock();
            on_fault_(done.error());
            hold.lock();
        }
    } else if (something || !jobs.empty()) {
        failing_ = false;
    }
    return done.has_value() && rows_.empty() && jobs_.empty();
}

void Journal::work() {
    std::unique_lock hold(mutex_);
    while (true) {
        const auto wait = failing_ ? std::chrono::milliseconds(try_again_after) : pause;
        wake_.wait_for(hold, wait, [this] { return ending_ || flushing_; });
        while (!write_some(hold) && !failing_) {
        }
        ++rounds_;
        idle_.notify_all();
        if (ending_)
            return;
    }
}

} // namespace heron
