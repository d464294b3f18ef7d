// The queue between the thread that takes in and the thread that draws. It has a bound; what does not fit is
// dropped and counted.
#pragma once

#include "fault/fault.hpp"
#include "link/messages.hpp"
#include "recording/recording.hpp"
#include "sonar/sounded_row.hpp"
#include "trip/journal.hpp"

#include <QString>
#include <cstddef>
#include <deque>
#include <memory>
#include <mutex>
#include <optional>
#include <variant>

namespace heron::app {

/// The state of one source's line.
struct LinkState {
    int link = 0; ///< place in the list of connections
    enum class Is { connecting, open, silent, lost } is = Is::connecting;
    QString detail;
};
struct NmeaHeard {
    int link = 0;
    UnixNs host_time = 0;
    std::string line;
};
/// A row of the picture. Its number is the one under which it is kept.
struct RowTaken {
    std::size_t number = 0;
    SoundedRow row;
    std::uint64_t transmission = 0; ///< the sounder's own count
    std::int64_t monotonic_ns = 0;  ///< its clock that is never set; 0: it has none
    UnixNs host_time = 0;           ///< when it arrived
};
struct SettingsTold {
    SoundingSettings settings;
};
/// A new trip keeps what comes from here on.
struct TripBegins {
    std::shared_ptr<Journal> journal;
};
/// A recording begins to play.
struct RecordingBegins {
    std::shared_ptr<RecordingReader> reader;
    QString path;
};
struct RecordingEnds {};
using IngestContent = std::variant<RowTaken, NmeaHeard, SounderHello, SettingsTold, LinkState, TripBegins,
                                 RecordingBegins, RecordingEnds, Fault>;
/// Everything is of one feeder; items of an older one are passed over.
struct IngestItem {
    int feeder = 0;
    IngestContent content;
};

class IngestQueue {
  public:
    /// Rows and sentences are dropped when the queue is full; all else always gets in.
    bool push(IngestItem item) {
        const std::scoped_lock hold(lock_);
        const bool droppable =
            std::holds_alternative<RowTaken>(item.content) || std::holds_alternative<NmeaHeard>(item.content);
        if (droppable && items_.size() >= most_) {
            ++dropped_;
            return false;
        }
        items_.push_back(std::move(item));
        return true;
    }
    std::optional<IngestItem> pop() {
        const std::scoped_lock hold(lock_);
        if (items_.empty())
            return std::nullopt;
        auto item = std::move(items_.front());
        items_.pop_front();
        return item;
    }
    std::size_t size() const {
        const std::scoped_lock hold(lock_);
        return items_.size();
    }
    std::size_t dropped() const {
        const std::scoped_lock hold(lock_);
        return dropped_;
    }

  private:
    static constexpr std::size_t most_ = 4000;
    mutable std::mutex lock_;
    std::deque<IngestItem> items_;
    std::size_t dropped_ = 0;
};

} // namespace heron::app
