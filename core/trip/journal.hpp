// Keeps what comes in, while it comes in, on a thread of its own.
#pragma once

#include "trip/trip_file.hpp"

#include <array>
#include <atomic>
#include <condition_variable>
#include <deque>
#include <functional>
#include <memory>
#include <mutex>
#include <thread>

namespace heron {

/// Rows and sentences are taken at once and written every half second. When the disk is full or fails, the
/// fault is told once, writing is tried again every few seconds, and what does not fit into the bound
/// meanwhile is let go, oldest first, and counted. Rows keep the numbers they were given; each stream has
/// numbers of its own. A job that fails for another reason than the disk is tried a few times, then dropped
/// and told; it never blocks those behind it. What is thrown on the thread is told as a fault.
class Journal {
  public:
    using OnFault = std::function<void(const Fault &)>;
    /// `on_fault` is called from the journal's thread.
    Journal(TripFile trip, OnFault on_fault);
    ~Journal(); ///< writes what is left
    Journal(const Journal &) = delete;
    Journal &operator=(const Journal &) = delete;

    /// Takes the next row of a stream; returns its number.
    std::size_t sounded(SoundedRow row, StreamId stream = StreamId::side);
    void heard(HeardSentence sentence);
    void known(TripFile::Knowledge knowledge);
    /// Anything else that is written to the trip, in its turn.
    void ask(std::function<Result<void>(TripFile &)> job);

    std::size_t rows_taken(StreamId stream = StreamId::side) const { return of(stream).taken; }
    std::size_t rows_lost() const { return lost_; }
    /// Rows on the disk: all before this number, those lost excepted.
    std::size_t rows_kept(StreamId stream = StreamId::side) const { return of(stream).kept; }
    std::size_t jobs_dropped() const { return jobs_dropped_; }
    /// Memory held by rows that are not on the disk yet, bytes.
    std::size_t waiting_bytes() const { return waiting_bytes_; }
    bool failing() const { return failing_; }
    const std::filesystem::path &path() const { return path_; }
    /// Waits until all that was taken before is on the disk, or has failed.
    void flush();

  private:
    static constexpr auto pause = std::chrono::milliseconds(500);
    static constexpr std::size_t most_waiting = 64u << 20; ///< bytes
    struct Stream {
        std::deque<SoundedRow> rows;
        std::size_t first = 0; ///< number of rows.front()
        std::atomic<std::size_t> taken = 0, kept = 0;
    };
    struct Job {
        std::function<Result<void>(TripFile &)> work;
        int failed = 0; ///< so many times
    };
    Stream &of(StreamId stream) { return streams_[static_cast<std::size_t>(stream)]; }
    const Stream &of(StreamId stream) const { return streams_[static_cast<std::size_t>(stream)]; }
    void work();
    bool write_some(std::unique_lock<std::mutex> &hold);
    std::vector<TripFile::Batch> take_batches();
    void give_back(TripFile::Batch &batch);
    Result<void> run_jobs(std::deque<Job> &jobs);
    void tell(std::unique_lock<std::mutex> &hold, const Fault &fault);

    TripFile trip_;
    std::filesystem::path path_;
    OnFault on_fault_;
    std::mutex mutex_;
    std::condition_variable wake_, idle_;
    std::array<Stream, stream_count> streams_;
    std::atomic<std::size_t> waiting_bytes_ = 0;
    std::vector<HeardSentence> sentences_;
    std::deque<Job> jobs_;
    bool ending_ = false, flushing_ = false;
    std::atomic<std::size_t> lost_ = 0, jobs_dropped_ = 0;
    std::atomic<bool> failing_ = false;
    std::uint64_t rounds_ = 0;
    std::thread thread_;
};

} // namespace heron
