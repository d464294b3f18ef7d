// What the turning head shows now: its rays in their places, where the boat lies, and how what is aimed at
// lies from each seat. No widgets here.
#pragma once

#include "around/cast.hpp"
#include "around/hold_spot.hpp"
#include "around/rays.hpp"
#include "marks/mark_library.hpp"
#include "reading/circle_reader.hpp"
#include "session/session.hpp"

#include <QObject>
#include <optional>

namespace heron::app {

/// Where the boat lies on the plane of the rays; heading 0 at the origin where the ground is not known.
struct BowPose {
    EastNorth head;
    double heading_deg = 0;
    bool on_ground = false;

    FromHead to(const EastNorth &place) const;
    EastNorth from(const FromHead &spot) const;
};

/// What somebody casts at.
struct Aim {
    QString title, glyph, remark;
    EastNorth at; ///< on the plane of the rays
    double sd_m = 0.5;
    QString mark;               ///< its id; empty for a spot of the picture
    int contact = 0;            ///< its id, of what was read; 0: none
    int swimmer = 0;            ///< its id, of what swims; 0: none
    std::optional<Cursor> seen; ///< the ray and the sample that was pointed at
};

class Bow : public QObject {
    Q_OBJECT
  public:
    Bow(Session &session, MarkLibrary &marks, CircleReader &circle, QObject *parent = nullptr);
    CircleReader &circle() const { return circle_; }

    const Rays &rays() const { return rays_; }
    bool empty() const { return rays_.empty(); }
    /// As of the newest ray.
    BowPose pose() const;
    std::optional<double> depthUnderBow() const;
    std::optional<double> speed() const;
    /// A place on the globe on the plane of the rays; nothing while the ground is not known.
    std::optional<EastNorth> onPlane(const GeoPoint &place) const;
    /// A mark as something to cast at; nothing where it cannot be shown.
    std::optional<Aim> aimOf(const Mark &mark) const;

    /// What was read as something to cast at.
    std::optional<Aim> aimOf(const Contact &contact, int id) const;
    /// What swims as something to cast at: where it will be when the lure lies before it.
    std::optional<Aim> aimOf(const Swimmer &swimmer) const;
    /// Where it is now, on the plane of the rays.
    std::optional<EastNorth> placeOf(const Swimmer &swimmer, double seconds_on = 0) const;
    /// From the cast to the lure at its depth: the flight, and the sinking at 0.45 m/s.
    double lureSeconds(const Swimmer &swimmer) const;

    void aimAt(const Aim &aim);
    void aimAtNothing();
    const std::optional<Aim> &aim() const { return aim_; }
    /// The casts at it from every seat, in their order; empty while nothing is aimed at.
    std::vector<Cast> casts() const;
    /// What a line may foul: hazards, wood and stone among the marks.
    std::vector<InTheWay> inTheWay() const;

    /// Whether the spot to hold on is wanted: for what is aimed at, computed anew as that moves.
    void wantHold(bool wanted);
    bool holdWanted() const { return hold_wanted_; }
    /// Nothing while none is wanted, nothing is aimed at, or no spot is free.
    const std::optional<HoldSpot> &hold() const { return hold_; }
    /// Where the boat went in the mean of the last half minute, while it ran on no lane; else what the wind
    /// that the guide told would make of it.
    std::optional<Drift> drift() const;
    std::optional<Drift> measuredDrift() const;
    /// As the guide tells it.
    struct Wind {
        double from_deg = 0; ///< true; off the bow while no heading is known
        double speed_m_s = 0;
    };
    void setWind(const std::optional<Wind> &wind);
    const std::optional<Wind> &wind() const { return wind_; }

  signals:
    void raysChanged(std::size_t first); ///< from this one on they are new or lie elsewhere
    void begun();                        ///< another scan
    void aimChanged();
    void aimTaken(); ///< at something else than before, not only at the same thing elsewhere
    void contactsRead();

  private:
    void follow();
    /// What is aimed at moved on the plane, or what lies about it changed.
    void findHold();
    void markChanged();
    void contactsChanged();
    void followSwimmer();
    void tellHeadDown();
    void tellHead();

    Session &session_;
    MarkLibrary &marks_;
    CircleReader &circle_;
    Rays rays_;
    int scan_ = -1;
    std::optional<Aim> aim_;
    bool hold_wanted_ = false;
    std::optional<Wind> wind_;
    std::optional<HoldSpot> hold_;
    std::optional<EastNorth> hold_for_; ///< the aim that it was found for
};

} // namespace heron::app
