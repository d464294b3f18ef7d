// What is connected, what each delivers and how it fares.
#pragma once

#include "ingest/ingest_queue.hpp"
#include "ingest/source_config.hpp"
#include "session/notices.hpp"

#include <QElapsedTimer>
#include <QObject>
#include <map>
#include <optional>
#include <vector>

namespace heron::app {

struct ConnectionStatus {
    SourceConfig config;
    LinkState::Is state = LinkState::Is::connecting;
    QString detail;
    UnixNs last_heard = 0;                        ///< host_now() of the last sentence or ping; 0: never
    std::map<std::string, std::size_t> delivered; ///< by kind of sentence, or "ping"
    std::size_t damaged = 0;
    NavGuard::State positions = NavGuard::State::fine, headings = NavGuard::State::fine;
};

class Connections : public QObject {
    Q_OBJECT
  public:
    explicit Connections(Notices &notices, QObject *parent = nullptr);

    void setSources(const std::vector<SourceConfig> &sources);
    const std::vector<ConnectionStatus> &all() const { return all_; }
    bool hasSounder() const;
    NavGuard::State positionState() const;
    NavGuard::State headingState() const;
    /// Seconds to add to the side sounder's clock to have the receiver's.
    std::optional<double> clockDifference() const { return clock_difference_s_; }
    std::optional<double> waterTemperature() const { return water_temperature_c_; } ///< as last heard
    /// A sentence or a ping has come, or the last one is older by a second.
    void tellAges();

    // What came in.
    void take(const LinkState &state);
    void take(const NavHeard &heard);
    void take(const ClockTold &told);
    void took(const RowTaken &row);
    void forgetTimes(); ///< another source begins

  signals:
    void changed();
    /// The line of a sounder has changed: waiting, open, silent, lost.
    void sounderLineChanged(const heron::app::LinkState &now);

  private:
    void tellNavStates();
    Notices &notices_;
    std::vector<ConnectionStatus> all_;
    std::optional<double> clock_difference_s_, water_temperature_c_;
    NavGuard::State told_positions_ = NavGuard::State::fine, told_headings_ = NavGuard::State::fine;
};

} // namespace heron::app
