// One sounder as the program knows it: who it is, how it is set, and what was asked of it.
#pragma once

#include "link/messages.hpp"
#include "sonar/stream.hpp"

#include <QElapsedTimer>
#include <QObject>
#include <optional>

namespace heron::app {

class Sounder : public QObject {
    Q_OBJECT
  public:
    explicit Sounder(StreamId stream, QObject *parent = nullptr) : QObject(parent), stream_(stream) {}

    StreamId stream() const { return stream_; }
    const std::optional<SounderHello> &hello() const { return hello_; }
    const SoundingSettings &settings() const { return settings_; }
    /// What was asked last while the sounder may not have answered yet, else its settings: what a further
    /// step starts from.
    const SoundingSettings &wanted() const {
        return asked_clock_.isValid() && asked_clock_.elapsed() < longest_answer_ms ? asked_ : settings_;
    }
    /// False: it is set by hand on the unit itself (or nobody is there).
    bool takesRequests() const { return hello_ && hello_->takes_requests; }
    /// One that takes no requests is not asked: `refused` says so.
    void ask(const SoundingSettings &settings);
    /// A word to a simulated boat.
    void steer(Helm helm) { emit steered(stream_, helm); }

    // What it said.
    void greet(SounderHello hello);
    void tell(const SoundingSettings &settings);
    void forget();

  signals:
    void settingsChanged(); ///< or it introduced itself
    void refused();
    void asked(heron::StreamId stream, const heron::SoundingSettings &settings);
    void steered(heron::StreamId stream, heron::Helm helm);

  private:
    static constexpr qint64 longest_answer_ms = 1500;
    StreamId stream_;
    std::optional<SounderHello> hello_;
    SoundingSettings settings_, asked_;
    QElapsedTimer asked_clock_;
};

} // namespace heron::app
