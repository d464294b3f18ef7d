#include "way/way.hpp"

#include "files/identifier.hpp"
#include "kit/kind_words.hpp"

#include <QDateTime>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr double least_arrival_m = 4, passed_m = 8, track_step_m = 10, near_m = 60, round_m = 20,
                 over_it_m = 1.5, best_missed_m = 4;

} // namespace

Way::Way(Session &session, MarkLibrary &marks, Speaker &speaker, QObject *parent)
    : QObject(parent), session_(session), marks_(marks), speaker_(speaker) {
    connect(&timer_, &QTimer::timeout, this, &Way::turn);
    timer_.start(250);
}

std::optional<Way::Fix> Way::newest() const {
    for (const auto *shown : {&session_.shown, &session_.around}) {
        const auto &nav = shown->scan().nav;
        if (nav.positions().empty())
            continue;
        const auto time =
            shown->empty() ? nav.positions().back().time : shown->scan().facts(shown->newest()).time;
        if (const auto at = nav.position_at(time))
            return Fix{at->place, time};
    }
    return std::nullopt;
}

bool Way::stale() const {
    constexpr qint64 old_ms = 5000;
    return session_.sources.live() && since_fix_.isValid() && since_fix_.elapsed() > old_ms;
}

std::optional<GeoPoint> Way::boat() const {
    const auto fix = newest();
    return fix && !stale() ? std::optional(fix->place) : std::nullopt;
}

void Way::go(const GeoPoint &place, const QString &name, double sd) {
    goal_ = place;
    best_side_deg_.reset();
    dropped_ = false;
    lay();
    name_ = name;
    mark_.clear();
    arrival_m_ = std::max(least_arrival_m, 2 * sd);
    alarm_ = arrived_told_ = near_told_ = false;
    emit changed();
}

bool Way::goToMark(const QString &id) {
    const auto *m = marks_.find(id);
    if (m == nullptr || !m->place)
        return false;
    go(*m->place, capital(QString::fromStdString(plain_name(*m))), m->place_covariance.radial_sd_m());
    mark_ = id;
    // The look that shows most stands first in the mark itself.
    best_side_deg_ = m->seen_from_deg;
    lay();
    emit changed();
    return true;
}

// Straight to the goal, or round to the side from which it shows.
void Way::lay() {
    path_ = {goal_};
    if (best_side_wanted_ && best_side_deg_)
        path_.insert(path_.begin(),
                     LocalPlane(goal_).to_globe({round_m * std::sin(*best_side_deg_ / degrees_per_radian),
                                                 round_m * std::cos(*best_side_deg_ / degrees_per_radian)}));
}

void Way::setFromBestSide(bool on) {
    best_side_wanted_ = on;
    if (this->on() && best_side_deg_ && !alarm_)
        lay();
    emit changed();
}

void Way::setBuoySeat(std::optional<std::size_t> seat) {
    buoy_seat_ = seat;
    dropped_ = false;
    emit changed();
}

std::optional<GeoPoint> Way::seatPlace(std::size_t seat) const {
    const auto &boat = session_.boats.boat();
    const auto here = this->boat();
    const auto heading = session_.shown.headingNow();
    if (!here || !heading || seat >= boat.seats.size())
        return std::nullopt;
    const double ahead = boat.antenna.behind_bow_m - boat.seats[seat].at.behind_bow_m,
                 right = boat.seats[seat].at.right_m - boat.antenna.right_m,
                 h = *heading / degrees_per_radian;
    return LocalPlane(*here).to_globe(
        {ahead * std::sin(h) + right * std::cos(h), ahead * std::cos(h) - right * std::sin(h)});
}

bool Way::goBack() {
    const auto here = boat();
    const auto &positions = session_.shown.scan().nav.positions();
    if (!here || positions.size() < 2)
        return false;
    std::vector<GeoPoint> back;
    GeoPoint last = *here;
    for (auto p = positions.rbegin(); p != positions.rend(); ++p)
        if (leg_between(last, p->place).distance_m >= track_step_m) {
            back.push_back(p->place);
            last = p->place;
        }
    if (back.empty())
        return false;
    path_ = std::move(back);
    best_side_deg_.reset();
    name_ = tr("back along the track");
    arrival_m_ = passed_m;
    mark_.clear();
    alarm_ = arrived_told_ = false;
    near_told_ = true; // no thing lies at its end
    emit changed();
    return true;
}

// The last known place serves, however old: nothing better is known of where it happened, and that is said.
bool Way::manOverboard() {
    const auto fix = newest();
    const auto here = fix ? std::optional(fix->place) : std::nullopt;
    const bool old = stale();
    if (!here) {
        session_.notices.say(QStringLiteral("way"),
                             tr("No position is known: keep your eyes on whoever fell in."));
        return false;
    }
    go(*here, tr("Man overboard"));
    alarm_ = true;
    speaker_.say(Speaker::Urgency::hazard, tr("Man overboard"));
    Mark m;
    m.id = new_identifier();
    m.name = tr("Man overboard").toStdString();
    m.family = Family::hazard;
    m.level = Level::anyone;
    m.time = static_cast<UnixNs>(QDateTime::currentMSecsSinceEpoch()) * 1'000'000;
    m.place = here;
    m.place_covariance = old ? PlaceCovariance{2500, 0, 2500} : PlaceCovariance{2, 0, 2};
    if (old)
        m.place_remark = tr("the position was already old").toStdString();
    marks_.add(m);
    if (old)
        session_.notices.say(QStringLiteral("way"),
                             tr("The position was already old: keep your eyes on whoever fell in."));
    emit changed();
    return true;
}

void Way::end() {
    path_.clear();
    alarm_ = false;
    emit changed();
}

void Way::turn() {
    if (const auto fix = newest(); fix && fix->time != last_fix_) {
        last_fix_ = fix->time;
        since_fix_.start();
    }
    if (!on())
        return;
    const auto here = boat();
    // Points on the way are passed by coming near, or by being nearer to the next one.
    while (here && path_.size() > 1 &&
           (leg_between(*here, path_[0]).distance_m < passed_m ||
            leg_between(*here, path_[1]).distance_m < leg_between(path_[0], path_[1]).distance_m))
        path_.erase(path_.begin());
    if (here && !near_told_ && !alarm_ && path_.size() == 1 &&
        leg_between(*here, path_[0]).distance_m < near_m) {
        near_told_ = true;
        emit goalNear({path_[0], name_, mark_});
    }
    if (const auto c = cue(); c && c->drop_now && !dropped_) {
        dropped_ = true;
        speaker_.say(Speaker::Urgency::steering, tr("now"));
    }
    if (const auto c = cue(); c && c->arrived && !arrived_told_) {
        arrived_told_ = true;
        speaker_.say(Speaker::Urgency::steering, tr("Arrived"));
    }
    emit changed();
}

std::optional<Way::Cue> Way::cue() const {
    const auto here = on() ? boat() : std::nullopt;
    if (!here)
        return std::nullopt;
    Cue c;
    const auto leg = leg_between(*here, path_.front());
    c.distance_m = leg.distance_m;
    c.bearing_deg = leg.bearing_deg;
    c.left_m = leg.distance_m;
    for (std::size_t i = 1; i < path_.size(); ++i)
        c.left_m += leg_between(path_[i - 1], path_[i]).distance_m;
    if (const auto heading = session_.shown.headingNow())
        c.steer_deg = wrap_180(leg.bearing_deg - *heading);
    c.arrived = path_.size() == 1 && leg.distance_m <= arrival_m_;
    if (buoy_seat_ && path_.size() == 1 && !alarm_)
        if (const auto seat = seatPlace(*buoy_seat_)) {
            const auto to_goal = leg_between(*seat, path_[0]);
            c.buoy_m = to_goal.distance_m;
            // Over it; or abeam of it and near, after which it would only get farther.
            const double off = session_.shown.headingNow()
                                   ? std::fabs(wrap_180(to_goal.bearing_deg - *session_.shown.headingNow()))
                                   : 0;
            c.drop_now = to_goal.distance_m < over_it_m || (to_goal.distance_m < best_missed_m && off > 90);
        }
    return c;
}

QString Way::words() const {
    if (!on())
        return {};
    const auto c = cue();
    const auto name = session_.preferences.inCompany() && !alarm_ ? tr("The mark") : name_;
    if (!c)
        return tr("%1 · no position").arg(name);
    const auto units = session_.preferences.units();
    const auto length = [&](double m) {
        return QString::fromStdString(print_length(m, units, m < 10 ? 1 : 0).text());
    };
    if (c->buoy_m && (c->drop_now || c->arrived)) {
        const auto seat = QString::fromStdString(session_.boats.boat().seats[*buoy_seat_].name);
        return c->drop_now ? tr("%1 · NOW: drop the buoy from the %2").arg(name, seat)
                           : tr("%1 · %2 yet to the %3").arg(name, length(*c->buoy_m), seat);
    }
    if (c->arrived)
        return tr("%1 · here, within %2: now").arg(name, length(std::max(1.0, c->distance_m)));
    auto text = QStringLiteral("%1 · %2 · %3")
                    .arg(name, length(path_.size() > 1 ? c->left_m : c->distance_m),
                         QString::fromStdString(print_bearing(c->bearing_deg)));
    if (path_.size() > 1 && best_side_wanted_ && best_side_deg_)
        text += tr(" · round to its %1 side").arg(QString::fromStdString(print_bearing(*best_side_deg_)));
    constexpr double on_course_deg = 4;
    if (c->steer_deg)
        text += std::fabs(*c->steer_deg) < on_course_deg ? tr(" · steady")
                : *c->steer_deg > 0 ? tr(" · steer %1° right").arg(std::lround(*c->steer_deg))
                                    : tr(" · steer %1° left").arg(std::lround(-*c->steer_deg));
    return text;
}

} // namespace heron::app
