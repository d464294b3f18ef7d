#include "session/sounder.hpp"

#include <utility>

namespace heron::app {

void Sounder::ask(const SoundingSettings &settings) {
    if (hello_ && !hello_->takes_requests) {
        emit refused();
        return;
    }
    asked_ = settings;
    asked_clock_.start();
    emit asked(stream_, settings);
}

void Sounder::greet(SounderHello hello) {
    hello_ = std::move(hello);
    emit settingsChanged();
}

void Sounder::tell(const SoundingSettings &settings) {
    settings_ = settings;
    emit settingsChanged();
}

void Sounder::forget() {
    hello_.reset();
    asked_clock_.invalidate();
    emit settingsChanged();
}

} // namespace heron::app
