// Keeps what comes in, while it comes in, on a thread of its own.
#pragma once

#include "trip/trip_file.hpp"

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
/// meanwhile is let go, oldest first, and counted. Rows keep the numbers they were given.
class Journal {
  public:
    using OnFault = std::function<void(const Fault &)>;
    /// `on_fault` is called from the journal's thread.
    Journal(TripFile trip, OnFault on_fault);
    ~Journal(); ///< writes what is left
    Journal(const Journal &) = delete;
    Journal &operator=(const Journal &) = delete;

    /// Takes the next row; returns its number.
    std::size_t sounded(SoundedRow row);
    void heard(HeardSentence sentence);
    void known(TripFile::Knowledge knowledge);
    /// Anything else that is written to the trip, in its turn.
    void ask(std::function<Result<void>(TripFile &)> job);

    std::size_t rows_taken() const { return taken_; }
    std::size_t rows_lost() const { return lost_; }
    /// Rows on the disk: all before this number, those lost excepted.
    std::size_t rows_kept() const { return kept_; }
    bool failing() const { return failing_; }
    const std::filesystem::path &path() const { return path_; }
    /// Waits until all that was taken before is on the disk, or has failed.
    void flush();

  private:
    static constexpr auto pause = std::chrono::milliseconds(500);
    static constexpr std::size_t most_waiting = 64u << 20; ///< bytes
    void work();
    bool write_some(std::unique_lock<std::mutex> &hold);

    TripFile trip_;
    std::filesystem::path path_;
    OnFault on_fault_;
    std::mutex mutex_;
    std::condition_variable wake_, idle_;
    std::deque<SoundedRow> rows_;
    std::size_t rows_first_ = 0; // number of rows_.front()
    std::size_t waiting_bytes_ = 0;
    std::vector<HeardSentence> sentences_;
    std::deque<std::function<Result<void>(TripFile &)>> jobs_;
    bool ending_ = false, flushing_ = false;
    std::atomic<std::size_t> taken_ = 0, lost_ = 0, kept_ = 0;
    std::atomic<bool> failing_ = false;
    std::uint64_t rounds_ = 0;
    std::thread thread_;
};

} // namespace heron
