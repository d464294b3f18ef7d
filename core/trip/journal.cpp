#include "trip/journal.hpp"

#include "fault/barrier.hpp"

#include <algorithm>

namespace heron {
namespace {

constexpr auto try_again_after = std::chrono::seconds(3);
constexpr std::size_t most_sentences = 100'000;
constexpr std::size_t most_rows_a_batch = 64;
constexpr int most_tries = 3; // of a job that fails for another reason than the disk

std::size_t bytes_of(const std::vector<SoundedRow> &rows) {
    std::size_t n = 0;
    for (const auto &r : rows)
        n += heron::bytes_of(r);
    return n;
}

} // namespace

Journal::Journal(TripFile trip, OnFault on_fault)
    : trip_(std::move(trip)), path_(trip_.path()), on_fault_(std::move(on_fault)) {
    for (const auto stream : all_streams)
        of(stream).first = of(stream).taken = of(stream).kept = trip_.rows(stream);
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

std::size_t Journal::sounded(SoundedRow row, StreamId stream) {
    const std::scoped_lock hold(mutex_);
    auto &s = of(stream);
    waiting_bytes_ += heron::bytes_of(row);
    s.rows.push_back(std::move(row));
    while (waiting_bytes_ > most_waiting) {
        // The stream that holds most lets go of its oldest.
        auto &most =
            *std::max_element(streams_.begin(), streams_.end(),
                              [](const Stream &a, const Stream &b) { return a.rows.size() < b.rows.size(); });
        if (most.rows.size() < 2)
            break;
        waiting_bytes_ -= heron::bytes_of(most.rows.front());
        most.rows.pop_front();
        ++most.first;
        ++lost_;
    }
    return s.taken++;
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
    jobs_.push_back({std::move(job)});
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

// At most a second's worth of rows of each stream; the sentences go with the first.
std::vector<TripFile::Batch> Journal::take_batches() {
    std::vector<TripFile::Batch> batches;
    for (const auto stream : all_streams) {
        auto &s = of(stream);
        TripFile::Batch batch;
        batch.stream = stream;
        batch.first_row = s.first;
        while (!s.rows.empty() && batch.rows.size() < most_rows_a_batch) {
            batch.rows.push_back(std::move(s.rows.front()));
            s.rows.pop_front();
            ++s.first;
        }
        if (batches.empty())
            batch.sentences.swap(sentences_);
        if (!batch.rows.empty() || !batch.sentences.empty())
            batches.push_back(std::move(batch));
    }
    return batches;
}

// Back to the front of the queue, in order, to be tried again.
void Journal::give_back(TripFile::Batch &batch) {
    auto &s = of(batch.stream);
    if (s.first == batch.first_row + batch.rows.size()) {
        s.first = batch.first_row;
        s.rows.insert(s.rows.begin(), std::make_move_iterator(batch.rows.begin()),
                      std::make_move_iterator(batch.rows.end()));
    } else {
        lost_ += batch.rows.size(); // the bound has moved past them meanwhile
        waiting_bytes_ -= bytes_of(batch.rows);
    }
    if (sentences_.size() < most_sentences)
        sentences_.insert(sentences_.begin(), batch.sentences.begin(), batch.sentences.end());
}

// What fails because of the disk stays to be tried again; what fails for another reason goes to the end, and
// away after a few tries.
Result<void> Journal::run_jobs(std::deque<Job> &jobs) {
    Result<void> first_fault;
    for (auto left = jobs.size(); left > 0; --left) {
        auto job = std::move(jobs.front());
        jobs.pop_front();
        auto done = guarded_result("writing to the trip", [&] { return job.work(trip_); });
        if (done)
            continue;
        if (done.error().of_disk) {
            jobs.push_front(std::move(job));
            return done;
        }
        if (++job.failed < most_tries) {
            jobs.push_back(std::move(job));
        } else {
            ++jobs_dropped_;
            if (first_fault)
                first_fault = done;
        }
    }
    return first_fault;
}

void Journal::tell(std::unique_lock<std::mutex> &hold, const Fault &fault) {
    hold.unlock();
    on_fault_(fault);
    hold.lock();
}

// One round: rows and sentences, then what else was asked. True when all is written.
bool Journal::write_some(std::unique_lock<std::mutex> &hold) {
    auto batches = take_batches();
    std::deque<Job> jobs;
    const bool all_rows =
        std::all_of(streams_.begin(), streams_.end(), [](const Stream &s) { return s.rows.empty(); });
    if (all_rows)
        jobs.swap(jobs_);
    hold.unlock();

    Result<void> done;
    std::size_t written = 0;
    while (done && written < batches.size()) {
        done = guarded_result("writing to the trip", [&] { return trip_.append(batches[written]); });
        written += done.has_value() ? 1 : 0;
    }
    const bool rows_written = done.has_value();
    const bool something = !batches.empty() || !jobs.empty();
    if (rows_written)
        done = run_jobs(jobs);
    const bool disk_fails = !done && (!rows_written || done.error().of_disk);

    hold.lock();
    for (std::size_t i = 0; i < written; ++i) {
        waiting_bytes_ -= bytes_of(batches[i].rows);
        if (!batches[i].rows.empty())
            of(batches[i].stream).kept = batches[i].first_row + batches[i].rows.size();
    }
    for (auto i = batches.size(); i > written; --i)
        give_back(batches[i - 1]);
    const bool again = !jobs.empty(); // some wait for another try: not in this round
    jobs_.insert(jobs_.begin(), std::make_move_iterator(jobs.begin()), std::make_move_iterator(jobs.end()));
    if (disk_fails) {
        if (!failing_.exchange(true))
            tell(hold, done.error());
    } else {
        if (something)
            failing_ = false;
        if (!done)
            tell(hold, done.error());
    }
    const bool rows_left =
        std::any_of(streams_.begin(), streams_.end(), [](const Stream &s) { return !s.rows.empty(); });
    return !disk_fails && !rows_left && (again || jobs_.empty());
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
