// The one advice on offer: it must hold for some seconds before it is told, stays until it no longer holds,
// and what was put off is not told again for a while.
#pragma once

#include "tuning/watcher.hpp"

#include <QElapsedTimer>
#include <map>
#include <optional>
#include <string>

namespace heron::app {

class AdviceOffer {
  public:
    AdviceOffer() { clock_.start(); }

    const std::optional<TuningAdvice> &advice() const { return advice_; }
    bool isPutOff(const std::string &topic) const {
        const auto off = put_off_.find(topic);
        return off != put_off_.end() && off->second > clock_.elapsed();
    }
    /// What there is to say now, once a second; true where it holds long enough to be the offer, nothing
    /// included.
    bool consider(std::optional<TuningAdvice> next) {
        const auto topic = next ? next->topic : std::string();
        seen_ = topic == candidate_ ? seen_ + 1 : 0;
        candidate_ = topic;
        const bool same = advice_ && next && advice_->topic == next->topic;
        if (seen_ < steady_looks && !same)
            return false;
        advice_ = std::move(next);
        return true;
    }
    /// Taken by the guide: given time to show; what asks for nothing but to be seen is not told again for a
    /// minute.
    std::optional<TuningAdvice> take() {
        auto taken = advice_;
        if (taken)
            put(taken->set || taken->raise_floor_db || taken->reject_streaks ? shows_after_ms : put_off_ms);
        return taken;
    }
    void putOff() {
        if (advice_)
            put(put_off_ms);
    }
    void clear() { advice_.reset(); }

  private:
    static constexpr int steady_looks = 3;
    static constexpr qint64 put_off_ms = 60'000, shows_after_ms = 8'000;
    void put(qint64 for_ms) {
        put_off_[advice_->topic] = clock_.elapsed() + for_ms;
        advice_.reset();
        candidate_.clear();
    }

    std::optional<TuningAdvice> advice_;
    std::string candidate_;
    int seen_ = 0;
    std::map<std::string, qint64> put_off_; ///< until when, by topic
    QElapsedTimer clock_;
};

} // namespace heron::app
