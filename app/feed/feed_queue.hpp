// The queue between the thread that takes in and the thread that draws. It has a bound; what does not fit is
// dropped and counted.
#pragma once

#include "fault/fault.hpp"
#include "link/messages.hpp"
#include "recording/recording.hpp"

#include <QString>
#include <cstddef>
#include <deque>
#include <mutex>
#include <optional>
#include <variant>

namespace heron::app {

/// The state of a socket.
struct LinkState {
    enum class Port { pings, nmea } port = Port::pings;
    enum class Is { connecting, open, silent, lost } is = Is::connecting;
    QString detail;
};
struct NmeaHeard {
    UnixNs host_time = 0;
    std::string line;
};
struct SettingsTold {
    SoundingSettings settings;
};
/// A recording begins to play.
struct RecordingBegins {
    RecordingHead head;
    std::vector<std::string> warnings;
    std::size_t pings = 0;
    QString path;
};
struct RecordingEnds {};
/// Everything is of one source; items of an older one are passed over.
using FeedContent = std::variant<WirePing, NmeaHeard, SounderHello, SettingsTold, LinkState, RecordingBegins,
                                 RecordingEnds, Fault>;
struct FeedItem {
    int source = 0;
    FeedContent content;
};

class FeedQueue {
  public:
    /// Pings and sentences are dropped when the queue is full; all else always gets in.
    bool push(FeedItem item) {
        const std::scoped_lock hold(lock_);
        const bool droppable =
            std::holds_alternative<WirePing>(item.content) || std::holds_alternative<NmeaHeard>(item.content);
        if (droppable && items_.size() >= most_) {
            ++dropped_;
            return false;
        }
        items_.push_back(std::move(item));
        return true;
    }
    std::optional<FeedItem> pop() {
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
    static constexpr std::size_t most_ = 2000;
    mutable std::mutex lock_;
    std::deque<FeedItem> items_;
    std::size_t dropped_ = 0;
};

} // namespace heron::app
