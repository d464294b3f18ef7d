#include "around/head_watch.hpp"

#include "tuning/gear.hpp"

#include <cmath>

namespace heron::app {
HeadWatch::HeadWatch(Session &session, QObject *parent) : QObject(parent), session_(session) {
    connect(&session_.around, &ShownScan::rowArrived, this, &HeadWatch::rowArrived);
    connect(&session_.around, &ShownScan::replaced, this, [this] {
        watcher_.clear();
        offer_.clear();
        search_.reset();
        emit changed();
    });
    connect(&timer_, &QTimer::timeout, this, &HeadWatch::think);
    timer_.start(1000);
}

Gear HeadWatch::gear() const {
    if (const auto &hello = session_.head.hello(); hello && !hello->gear.empty())
        if (const auto told = gear_from_json(hello->gear))
            return *told;
    return usual_gear();
}

void HeadWatch::rowArrived(std::size_t row) {
    const auto &scan = session_.around.scan();
    if (row > scan.first() && !(scan.settings(row) == scan.settings(row - 1)))
        watcher_.forget_levels();
    watcher_.add(scan, row);
    if (!search_)
        return;
    const int before = search_->gain();
    const auto next = search_->look(scan, row);
    if (!next)
        return;
    if (search_->done()) {
        const int gain = search_->gain(), steps = search_->steps();
        const auto why = QString::fromStdString(search_->why());
        search_.reset();
        session_.notices.say(QStringLiteral("tune"),
                             gain == search_from_
                                 ? tr("The head's gain was right: %1.").arg(gain)
                                 : tr("Head: gain %1, found in %2 steps: %3.").arg(gain).arg(steps).arg(why));
    } else if (*next != before) {
        auto s = session_.head.settings();
        s.gain = *next;
        session_.head.ask(s);
    }
    emit changed();
}

void HeadWatch::think() {
    std::optional<TuningAdvice> next;
    const bool live = session_.sources.source() == Sources::Source::sounder && session_.head.hello();
    if (session_.sources.flow() == Sources::Flow::flowing && !session_.around.empty() && !search_ &&
        window_) {
        for (auto &a : advice_from(watcher_.health(), session_.head.settings(), gear(),
                                   window_->displayWindow().floor_db,
                                   session_.preferences.units() == UnitSystem::feet)) {
            // Its range goes by the casts, and it has no sides.
            if (offer_.isPutOff(a.topic) || a.topic == "range" || a.topic == "speed" || a.topic == "sides" ||
                (a.set && !live) || (a.topic == "floor" && !window_->windowFollows()) ||
                (a.reject_streaks && window_->filters().reject_streaks))
                continue;
            next = std::move(a);
            break;
        }
    }
    if (offer_.consider(std::move(next)))
        emit changed();
}

void HeadWatch::take(WindowState &window) {
    const auto taken = offer_.take();
    if (!taken)
        return;
    const auto &a = *taken;
    if (a.set) {
        auto s = *a.set;
        s.turning = session_.head.settings().turning;
        session_.head.ask(s);
    }
    if (a.raise_floor_db)
        window.raiseFloor(*a.raise_floor_db);
    if (a.reject_streaks) {
        auto f = window.filters();
        f.reject_streaks = true;
        window.setFilters(f);
    }
    emit changed();
}

void HeadWatch::putOff() {
    offer_.putOff();
    emit changed();
}

void HeadWatch::tune() {
    if (search_) {
        search_.reset();
    } else {
        search_from_ = session_.head.settings().gain;
        search_.emplace(gear(), search_from_);
    }
    emit changed();
}

} // namespace heron::app
