#include "session/jobs.hpp"

#include <algorithm>

namespace heron::app {

Jobs::Jobs(int at_a_time, QObject *parent) : QObject(parent) {
    pool_.setMaxThreadCount(at_a_time);
}

Jobs::~Jobs() {
    for (const auto &c : controls_)
        c->cancel();
    pool_.waitForDone();
}

void Jobs::forget(const std::shared_ptr<JobControl> &control) {
    std::erase(controls_, control);
    --running_;
    emit changed();
}

} // namespace heron::app
