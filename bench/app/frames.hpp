// Frames of a window: the time from the request to update until all is painted and handed to the screen.
#pragma once

#include "until.hpp"

#include <QApplication>
#include <QElapsedTimer>
#include <QEvent>
#include <QWidget>
#include <algorithm>
#include <benchmark/benchmark.h>
#include <functional>
#include <vector>

// Times every update of one window.
class TimedApplication : public QApplication {
  public:
    using QApplication::QApplication;
    QWidget *watched = nullptr;
    std::vector<double> frames;
    bool notify(QObject *to, QEvent *event) override {
        if (to != watched || event->type() != QEvent::UpdateRequest)
            return QApplication::notify(to, event);
        QElapsedTimer clock;
        clock.start();
        const bool done = QApplication::notify(to, event);
        frames.push_back(static_cast<double>(clock.nsecsElapsed()) * 1e-9);
        return done;
    }
};

inline TimedApplication &application() {
    return *static_cast<TimedApplication *>(qApp);
}

// Hands the frames that come to the benchmark, one an iteration.
inline void count_frames(benchmark::State &state, QWidget &window, const std::function<void()> &ask = {}) {
    application().watched = &window;
    application().frames.clear();
    for ([[maybe_unused]] const auto _ : state) {
        const auto before = application().frames.size();
        if (ask)
            ask();
        until([&] { return application().frames.size() > before; });
        state.SetIterationTime(application().frames.back());
    }
    application().watched = nullptr;
    auto &all = application().frames;
    const auto middle = all.begin() + static_cast<std::ptrdiff_t>(all.size() / 2);
    std::nth_element(all.begin(), middle, all.end());
    state.counters["median_us"] = *middle * 1e6;
}
