// Watches what may touch hull or motor ahead of the boat: shown in every view, said and sounded once on the
// way to it.
#pragma once

#include "marks/mark_library.hpp"
#include "session/session.hpp"
#include "speech/speaker.hpp"

#include <QObject>
#include <QTimer>
#include <functional>
#include <optional>
#include <set>

namespace heron::app {

class HazardWatch : public QObject {
    Q_OBJECT
  public:
    HazardWatch(Session &session, MarkLibrary &marks, Speaker &speaker, QObject *parent = nullptr);

    /// The nearest that lies ahead now.
    struct Ahead {
        std::string mark;
        double distance_m = 0;
        double aside_deg = 0; ///< off the bow, to the right positive
        std::optional<double> top_depth_m;
    };
    const std::optional<Ahead> &ahead() const { return ahead_; }
    /// One line: "Hazard ahead, 38 m, a little to the left: Stump row, 0.4 m down today".
    QString words(const Ahead &ahead) const;
    /// What makes the sound; another one may stand in for the machine's bell.
    void setBell(std::function<void()> bell) { bell_ = std::move(bell); }

  private:
    void look();

    Session &session_;
    MarkLibrary &marks_;
    Speaker &speaker_;
    std::function<void()> bell_;
    std::optional<Ahead> ahead_;
    std::set<std::string> told_; ///< and not left behind yet
    QTimer timer_;
};

} // namespace heron::app
