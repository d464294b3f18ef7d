// The demo lake, sailed from the window: starts the stand-in sounder in a process of its own and listens to
// it as to any other device.
#pragma once

#include "session/sources.hpp"

#include <QObject>
#include <QProcess>
#include <QTemporaryDir>
#include <memory>

namespace heron::app {

class DemoLake : public QObject {
    Q_OBJECT
  public:
    DemoLake(Notices &notices, TripKeeper &trip, Sources &sources, QObject *parent = nullptr);
    ~DemoLake() override; ///< the stand-in ends with the program
    /// The stand-in's program; beside this one unless told otherwise.
    void setProgram(const QString &path) { program_ = path; }
    void sail();
    bool sailing() const { return process_.state() != QProcess::NotRunning; }

  private:
    void heard();
    void fail(const QString &why);

    Notices &notices_;
    TripKeeper &trip_;
    Sources &sources_;
    QString program_;
    QProcess process_;
    QByteArray said_;
    std::unique_ptr<QTemporaryDir> folder_;
    bool listening_ = false;
};

} // namespace heron::app
