// Going there: to a mark, to any place that was pointed at, back along one's own track, to whoever fell in.
#pragma once

#include "marks/mark_library.hpp"
#include "session/session.hpp"
#include "speech/speaker.hpp"

#include <QElapsedTimer>
#include <QObject>
#include <QTimer>
#include <optional>
#include <vector>

namespace heron::app {

class Way : public QObject {
    Q_OBJECT
  public:
    Way(Session &session, MarkLibrary &marks, Speaker &speaker, QObject *parent = nullptr);

    /// Goes to a place; what was on before ends. `sd_m`: by how much it is in doubt.
    void go(const GeoPoint &place, const QString &name, double sd_m = 0);
    bool goToMark(const QString &id);
    /// Back along the track of what is shown, from its newest place; false where there is none.
    bool goBack();
    /// Keeps the boat's place as a hazard named so, at once, and goes back to it; false without a position.
    bool manOverboard();
    void end();

    /// Where the way leads.
    struct Goal {
        GeoPoint place;
        QString name;
        QString mark; ///< its id; empty for a place
    };
    /// From the side that shows the mark best, where its looks tell one: the way goes round to it.
    bool fromBestSide() const { return best_side_wanted_; }
    void setFromBestSide(bool on);
    bool knowsBestSide() const { return best_side_deg_.has_value(); }
    /// A seat from which a buoy is dropped at the goal: told when that seat is over it. Nothing: no buoy.
    void setBuoySeat(std::optional<std::size_t> seat);
    const std::optional<std::size_t> &buoySeat() const { return buoy_seat_; }
    bool on() const { return !path_.empty(); }
    bool alarm() const { return alarm_; }
    QString name() const { return name_; }
    struct Cue {
        double distance_m = 0, bearing_deg = 0;
        std::optional<double> steer_deg; ///< to the right positive; nothing while no heading is known
        bool arrived = false;
        double left_m = 0; ///< along all that is left of the way
        std::optional<double>
            buoy_m; ///< from the buoy's seat to the goal; nothing where no buoy is wanted or no heading known
        bool drop_now = false;
    };
    /// Nothing without a position.
    std::optional<Cue> cue() const;
    /// One line: "Larch stump · 83 ft · 214° · steer 12° left".
    QString words() const;
    const std::vector<GeoPoint> &path() const { return path_; }

  signals:
    void changed();
    void goalNear(const heron::app::Way::Goal &goal); ///< once: within sixty metres of it

  private:
    void turn();
    void lay();
    std::optional<GeoPoint> seatPlace(std::size_t seat) const;
    struct Fix {
        GeoPoint place;
        UnixNs time = 0;
    };
    std::optional<Fix> newest() const;
    /// Nothing where no new place came for five seconds while a sounder is heard: an old one would look like
    /// a true one.
    std::optional<GeoPoint> boat() const;
    bool stale() const;

    Session &session_;
    MarkLibrary &marks_;
    Speaker &speaker_;
    std::vector<GeoPoint> path_; ///< the last is the goal
    QString name_;
    double arrival_m_ = 4;
    QString mark_;
    GeoPoint goal_{};
    std::optional<double> best_side_deg_;
    std::optional<std::size_t> buoy_seat_;
    bool best_side_wanted_ = false, dropped_ = false;
    bool alarm_ = false, arrived_told_ = false, near_told_ = false;
    QTimer timer_;
    UnixNs last_fix_ = 0;
    QElapsedTimer since_fix_;
};

} // namespace heron::app
