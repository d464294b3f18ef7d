// The queue between the threads that take in and the thread that draws. It is bounded by items and by bytes;
// what does not fit is dropped and counted.
#pragma once

#include "fault/fault.hpp"
#include "link/messages.hpp"
#include "recording/nmea_feed.hpp"
#include "recording/recording.hpp"
#include "sonar/sounded_row.hpp"
#include "sonar/stream.hpp"
#include "trip/journal.hpp"

#include <QString>
#include <QTemporaryDir>
#include <algorithm>
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
    /// `spare`: a second sounder of a kind that is sounding already: connected, and not mixed in.
    enum class Is { connecting, open, silent, lost, spare } is = Is::connecting;
    QString detail;
    std::optional<StreamId> stream =
        {};             ///< that this sounder has; nothing before its first ping, or for others
    bool aside = false; ///< another sounder has the sides
};
/// What one sentence brought, decoded and checked.
struct NavHeard {
    int link = 0;
    UnixNs host_time = 0;
    std::string type; ///< "GGA", …; empty for a damaged line
    NavTrack samples;
    NavGuard::State positions = NavGuard::State::fine, headings = NavGuard::State::fine;
    std::uint64_t damaged = 0; ///< of this link so far
    std::optional<double> water_temperature_c;
};
/// A row of a scan. Its number is the one under which it is kept; its time is final.
struct RowTaken {
    StreamId stream = StreamId::side;
    int link = 0;
    std::size_t number = 0;
    SoundedRow row;
    std::uint64_t transmission = 0; ///< the sounder's own count
    UnixNs host_time = 0;           ///< when it arrived
};
struct HelloTold {
    StreamId stream = StreamId::side;
    SounderHello hello;
};
struct SettingsTold {
    StreamId stream = StreamId::side;
    SoundingSettings settings;
};
/// How far the clocks of a stream and of the positions are apart, as known now.
struct ClockTold {
    StreamId stream = StreamId::side;
    std::optional<double> difference_s;
    bool was_set = false; ///< the sounder's clock was set just now
};
/// A new trip keeps what comes from here on.
struct TripBegins {
    std::shared_ptr<Journal> journal;
};
/// A recording begins to play.
struct RecordingBegins {
    RecordingHead head;
    std::vector<std::string> warnings;
    QString path;
    QString id;                     ///< stays the same whatever the file is called
    std::shared_ptr<Journal> spool; ///< keeps its rows while it is looked at; null where none could be made
    std::shared_ptr<QTemporaryDir> spool_folder;
};
struct RecordingEnds {};
using IngestContent = std::variant<RowTaken, NavHeard, HelloTold, SettingsTold, ClockTold, LinkState,
                                   TripBegins, RecordingBegins, RecordingEnds, Fault>;
/// Everything is of one feeder; items of an older one are passed over.
struct IngestItem {
    int feeder = 0;
    IngestContent content;
};

class IngestQueue {
  public:
    static constexpr std::size_t most_items = 4000, most_bytes = 64u << 20;
    /// Rows and sentences are dropped when the queue is full; of what else is told, the newest of each sort
    /// then takes the place of the one before.
    bool push(IngestItem item) {
        const auto bytes = bytes_of(item.content);
        const std::scoped_lock hold(lock_);
        const bool droppable =
            std::holds_alternative<RowTaken>(item.content) || std::holds_alternative<NavHeard>(item.content);
        if (droppable && (items_.size() >= most_items || bytes_ + bytes > most_bytes)) {
            ++dropped_;
            return false;
        }
        if (items_.size() >= most_items && replaced(item))
            return true;
        bytes_ += bytes;
        items_.push_back(std::move(item));
        return true;
    }
    std::optional<IngestItem> pop() {
        const std::scoped_lock hold(lock_);
        if (items_.empty())
            return std::nullopt;
        auto item = std::move(items_.front());
        items_.pop_front();
        bytes_ -= bytes_of(item.content);
        return item;
    }
    std::size_t size() const {
        const std::scoped_lock hold(lock_);
        return items_.size();
    }
    std::size_t bytes() const {
        const std::scoped_lock hold(lock_);
        return bytes_;
    }
    std::size_t dropped() const {
        const std::scoped_lock hold(lock_);
        return dropped_;
    }

  private:
    /// Puts an item in the place of one that it outdates, where there is one.
    bool replaced(IngestItem &item) {
        const auto outdated = std::find_if(items_.rbegin(), items_.rend(), [&item](const IngestItem &old) {
            return old.feeder == item.feeder && old.content.index() == item.content.index() &&
                   whose(old.content) == whose(item.content);
        });
        if (outdated == items_.rend())
            return false;
        *outdated = std::move(item);
        return true;
    }
    // Of which line or stream it is.
    static int whose(const IngestContent &content) {
        return std::visit(
            [](const auto &c) {
                if constexpr (requires { c.link; })
                    return c.link;
                else if constexpr (requires { c.stream; })
                    return static_cast<int>(c.stream);
                else
                    return 0;
            },
            content);
    }
    static std::size_t bytes_of(const IngestContent &content) {
        const auto *row = std::get_if<RowTaken>(&content);
        return row != nullptr ? heron::bytes_of(row->row) : sizeof(IngestItem);
    }
    mutable std::mutex lock_;
    std::deque<IngestItem> items_;
    std::size_t bytes_ = 0, dropped_ = 0;
};

} // namespace heron::app
