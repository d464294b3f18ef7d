// Keeps the machine from sleeping and its screen from going dark while pings come in.
#pragma once

#include "session/jobs.hpp"

#include <QObject>
#include <QString>

namespace heron::app {

/// Through the desktop's own services (org.freedesktop.ScreenSaver and login1), asked beside the window;
/// without them nothing happens.
class StayAwake : public QObject {
    Q_OBJECT
  public:
    explicit StayAwake(Jobs &jobs, QObject *parent = nullptr) : QObject(parent), jobs_(jobs) {}
    void keepAwake(bool awake);
    /// What was last asked.
    bool keepsAwake() const { return asked_; }

  private:
    Jobs &jobs_;
    bool asked_ = false;
};

} // namespace heron::app
