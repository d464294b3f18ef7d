#include "around/bow.hpp"

#include "kit/kind_words.hpp"

#include <algorithm>
#include <cmath>

namespace heron::app {

FromHead BowPose::to(const EastNorth &place) const {
    const double h = heading_deg / degrees_per_radian, de = place.east_m - head.east_m,
                 dn = place.north_m - head.north_m;
    return {de * std::sin(h) + dn * std::cos(h), de * std::cos(h) - dn * std::sin(h)};
}

EastNorth BowPose::from(const FromHead &spot) const {
    const double h = heading_deg / degrees_per_radian;
    return {head.east_m + spot.ahead_m * std::sin(h) + spot.right_m * std::cos(h),
            head.north_m + spot.ahead_m * std::cos(h) - spot.right_m * std::sin(h)};
}

Bow::Bow(Session &session, MarkLibrary &marks, CircleReader &circle, QObject *parent)
    : QObject(parent), session_(session), marks_(marks), circle_(circle) {
    connect(&circle_, &CircleReader::contactsChanged, this, &Bow::contactsChanged);
    connect(&circle_, &CircleReader::headJudged, this, &Bow::tellHead);
    connect(&session_.around, &ShownScan::rowsAdded, this, &Bow::follow);
    connect(&session_.around, &ShownScan::replaced, this, &Bow::follow);
    connect(&session_.around, &ShownScan::jumped, this, &Bow::follow);
    connect(&marks_, &MarkLibrary::marksChanged, this, &Bow::markChanged);
}

// A head in the water when the boat runs is a head lost.
void Bow::tellHeadDown() {
    constexpr double runs_m_s = 3, slow_m_s = 2;
    const double speed = session_.around.speedNow().value_or(0);
    const auto topic = QStringLiteral("head-down");
    if (session_.sources.live() && speed > runs_m_s)
        session_.notices.raise(topic, {tr("the head at the bow is down and the boat runs").toStdString(),
                                       tr("its rays still come in").toStdString(),
                                       tr("slow down, and raise the head before you run").toStdString()});
    else if (speed < slow_m_s)
        session_.notices.pass(topic);
}

// What only the picture tells of the head: each by itself, until it is so no more.
void Bow::tellHead() {
    const auto &found = circle_.findings();
    const auto tell = [this](const char *topic, const TurnFindings &one) {
        const auto faults = say(one);
        if (faults.empty())
            session_.notices.pass(QString::fromLatin1(topic));
        else
            session_.notices.raise(QString::fromLatin1(topic), faults.front());
    };
    tell("head-mirrored", {{}, found.backwards, {}, {}});
    // Little is put right without a word: what is told shall be worth the guide's look.
    constexpr double worth_telling_s = 0.4;
    tell("head-late", {std::fabs(found.heading_late_s.value_or(0)) >= worth_telling_s ? found.heading_late_s
                                                                                      : std::nullopt,
                       false,
                       {},
                       {}});
    tell("head-slips", {{}, false, found.slips_deg, {}});
    tell("head-zero", {{}, false, {}, found.zero_deg});
}

void Bow::follow() {
    const auto &shown = session_.around;
    if (shown.number() != scan_) {
        scan_ = shown.number();
        rays_ = Rays();
        aim_.reset();
        findHold();
        emit begun();
        emit aimChanged();
    }
    if (shown.empty())
        return;
    // Of a long trip the last turns are enough to begin with.
    const auto first = rays_.follow(shown.scan(), shown.end());
    tellHeadDown();
    const auto topic = QStringLiteral("turning");
    if (rays_.stands())
        session_.notices.raise(topic,
                               {tr("the head at the bow sounds but does not turn").toStdString(),
                                tr("the rest of the circle grows old; the sides go on").toStdString(),
                                tr("raise the head and look for weed or line about it").toStdString()});
    else
        session_.notices.pass(topic);
    if (first < rays_.rays().size())
        emit raysChanged(first);
    followSwimmer();
}

BowPose Bow::pose() const {
    if (rays_.empty())
        return {};
    const auto &ray = rays_.rays().back();
    BowPose pose;
    pose.head = ray.at;
    pose.on_ground = ray.on_ground;
    pose.heading_deg = ray.on_ground ? wrap_360(ray.bearing_deg - ray.off_bow_deg) : 0;
    return pose;
}

std::optional<double> Bow::depthUnderBow() const {
    if (rays_.empty() || !(rays_.rays().back().altitude_m > 0))
        return std::nullopt;
    return rays_.rays().back().altitude_m + session_.around.scan().installation.draught_m();
}

std::optional<double> Bow::speed() const {
    return session_.around.speedNow();
}

std::optional<EastNorth> Bow::onPlane(const GeoPoint &place) const {
    if (rays_.empty() || !rays_.rays().back().on_ground || !rays_.plane())
        return std::nullopt;
    return rays_.plane()->to_plane(place);
}

std::optional<Aim> Bow::aimOf(const Mark &mark) const {
    if (!mark.place)
        return std::nullopt;
    const auto at = onPlane(*mark.place);
    if (!at)
        return std::nullopt;
    Aim aim;
    aim.title = mark.name.empty() || session_.preferences.inCompany()
                    ? capital(mark.kind == Kind::none ? wordFor(mark.family) : wordFor(mark.kind))
                    : QString::fromStdString(mark.name);
    aim.glyph = markGlyph(mark.family, mark.kind);
    aim.at = *at;
    aim.sd_m = mark.place_covariance.radial_sd_m();
    aim.mark = QString::fromStdString(mark.id);
    const auto units = session_.preferences.units();
    if (mark.height_m)
        aim.remark +=
            tr("%1 tall").arg(QString::fromStdString(print_length(mark.height_m->value, units).text()));
    if (mark.depth_m)
        aim.remark +=
            (aim.remark.isEmpty() ? QString() : QStringLiteral(", ")) +
            tr("bottom %1 down").arg(QString::fromStdString(print_length(mark.depth_m->value, units).text()));
    return aim;
}

std::optional<Aim> Bow::aimOf(const Contact &c, int id) const {
    if (!c.place)
        return std::nullopt;
    const auto at = onPlane(c.place->place);
    if (!at)
        return std::nullopt;
    Aim aim;
    aim.title =
        capital(c.family == Family::unsure || c.kind == Kind::none ? wordFor(c.family) : wordFor(c.kind)) +
        (c.confidence < 0.75 ? QStringLiteral("?") : QString());
    aim.glyph = contactGlyph(c.family, c.kind);
    aim.at = *at;
    aim.sd_m = c.position_sd_m();
    aim.contact = id;
    const auto units = session_.preferences.units();
    const auto length = [&](double m) { return QString::fromStdString(print_length(m, units).text()); };
    QStringList parts{tr("%1 in 100").arg(std::lround(100 * c.confidence))};
    if (c.height_m && c.height_m->value > 0)
        parts << (c.placement == Placement::suspended ? tr("%1 off the bottom") : tr("%1 tall"))
                     .arg(length(c.height_m->value));
    parts << tr("bottom %1 down").arg(length(c.depth_m));
    if (c.looks > 1)
        parts << tr("in %1 turns").arg(c.looks);
    aim.remark = parts.join(QStringLiteral(", "));
    return aim;
}

std::optional<EastNorth> Bow::placeOf(const Swimmer &swimmer, double seconds_on) const {
    if (rays_.empty() || !circle_.swimPlane())
        return std::nullopt;
    const double since = seconds_between(swimmer.time, rays_.rays().back().time);
    return onPlane(circle_.swimPlane()->to_globe(swimmer.at(since + seconds_on)));
}

double Bow::lureSeconds(const Swimmer &swimmer) const {
    constexpr double flight_s = 1.5, sinks_m_s = 0.45;
    const double deep = depthUnderBow().value_or(2) - (swimmer.height_m ? swimmer.height_m->value : 1);
    return flight_s + std::max(0.3, deep) / sinks_m_s;
}

std::optional<Aim> Bow::aimOf(const Swimmer &swimmer) const {
    const double s = lureSeconds(swimmer);
    const auto at = placeOf(swimmer, s);
    if (!at)
        return std::nullopt;
    const auto units = session_.preferences.units();
    Aim aim;
    aim.title = swimmer.length_m > 1.2 ? tr("Group that swims") : tr("Fish that swims");
    aim.glyph = swimmer.length_m > 1.2 ? QStringLiteral("kind-fish_group") : QStringLiteral("kind-fish");
    aim.at = *at;
    aim.sd_m = swimmer.place_sd_m(seconds_between(swimmer.time, rays_.rays().back().time) + s);
    aim.swimmer = swimmer.id;
    aim.remark = tr("goes %1 at %2; aimed where it is in %3 s, when the lure is down")
                     .arg(QString::fromStdString(print_bearing(swimmer.course_deg())),
                          QString::fromStdString(print_speed(swimmer.speed_m_s(), units).text()))
                     .arg(std::lround(s));
    return aim;
}

// The aim goes on with the fish until it is followed no more.
void Bow::followSwimmer() {
    if (!aim_ || aim_->swimmer == 0)
        return;
    const auto &all = circle_.swimmers();
    const auto is =
        std::find_if(all.begin(), all.end(), [this](const Swimmer &s) { return s.id == aim_->swimmer; });
    const auto now = is != all.end() ? aimOf(*is) : std::nullopt;
    if (now)
        aimAt(*now);
    else
        aimAtNothing();
}

// What is aimed at is known better with each turn; what is no longer told stays where it was.
void Bow::contactsChanged() {
    if (aim_ && aim_->contact != 0)
        if (const auto *c = circle_.find(aim_->contact))
            if (const auto now = aimOf(*c, aim_->contact))
                aimAt(*now);
    followSwimmer();
    emit contactsRead();
}

void Bow::aimAt(const Aim &aim) {
    constexpr double same_spot_m = 0.3;
    const bool other =
        !aim_ || aim_->mark != aim.mark || aim_->contact != aim.contact || aim_->swimmer != aim.swimmer ||
        (aim.seen &&
         std::hypot(aim_->at.east_m - aim.at.east_m, aim_->at.north_m - aim.at.north_m) > same_spot_m);
    aim_ = aim;
    constexpr double moved_m = 0.5;
    if (hold_wanted_ && (!hold_for_ || std::hypot(hold_for_->east_m - aim.at.east_m,
                                                  hold_for_->north_m - aim.at.north_m) > moved_m))
        findHold();
    emit aimChanged();
    if (other)
        emit aimTaken();
}

void Bow::setWind(const std::optional<Wind> &wind) {
    wind_ = wind;
    findHold();
    emit aimChanged();
}

void Bow::wantHold(bool wanted) {
    hold_wanted_ = wanted;
    findHold();
    emit aimChanged();
}

std::optional<Drift> Bow::drift() const {
    if (const auto measured = measuredDrift())
        return measured;
    return wind_ ? std::optional(leeway(wind_->from_deg, wind_->speed_m_s)) : std::nullopt;
}

std::optional<Drift> Bow::measuredDrift() const {
    constexpr double over_s = 30, least_s = 10, runs_m_s = 0.7;
    if (rays_.empty() || !rays_.rays().back().on_ground || speed().value_or(0) > runs_m_s)
        return std::nullopt;
    const auto &all = rays_.rays();
    auto first = all.size() - 1;
    while (first > 0 && all[first - 1].on_ground &&
           seconds_between(all[first - 1].time, all.back().time) < over_s)
        --first;
    const double seconds = seconds_between(all[first].time, all.back().time);
    if (seconds < least_s)
        return std::nullopt;
    return Drift{{(all.back().at.east_m - all[first].at.east_m) / seconds,
                  (all.back().at.north_m - all[first].at.north_m) / seconds}};
}

void Bow::findHold() {
    hold_.reset();
    hold_for_.reset();
    if (!hold_wanted_ || !aim_ || rays_.empty())
        return;
    HoldQuestion q;
    q.boat = session_.boats.boat();
    q.head = pose().head;
    q.heading_deg = pose().heading_deg;
    q.thing = aim_->at;
    q.thing_sd_m = aim_->sd_m;
    q.drift = drift();
    for (const auto &mark : marks_.all()) {
        const bool hazard = mark.family == Family::hazard;
        if ((!hazard && mark.family != Family::structure) || aim_->mark == QString::fromStdString(mark.id))
            continue;
        if (const auto aim = aimOf(mark);
            aim && std::hypot(aim->at.east_m - q.thing.east_m, aim->at.north_m - q.thing.north_m) < 60)
            q.obstacles.push_back({aim->title.toStdString(), aim->at, 0.6, hazard});
    }
    if (const auto *c = aim_->contact != 0 ? circle_.find(aim_->contact) : nullptr)
        for (const auto &ray : rays_.rays())
            if (ray.row == c->row)
                q.shows_from_deg = wrap_360(ray.bearing_deg + 180);
    hold_for_ = q.thing;
    hold_ = best_hold(q);
}

void Bow::aimAtNothing() {
    if (!aim_)
        return;
    aim_.reset();
    findHold();
    emit aimChanged();
}

// What is aimed at was renamed or moved, or is a mark no more.
void Bow::markChanged() {
    findHold();
    if (!aim_ || aim_->mark.isEmpty())
        return;
    const auto *mark = marks_.find(aim_->mark);
    const auto now = mark != nullptr ? aimOf(*mark) : std::nullopt;
    if (now)
        aimAt(*now);
    else
        aimAtNothing();
}

std::vector<InTheWay> Bow::inTheWay() const {
    std::vector<InTheWay> all;
    if (rays_.empty())
        return all;
    const auto now = pose();
    for (const auto &mark : marks_.all()) {
        const bool fouls = mark.family == Family::hazard || mark.family == Family::structure;
        if (!fouls || (aim_ && aim_->mark == QString::fromStdString(mark.id)))
            continue;
        if (const auto aim = aimOf(mark)) {
            const auto at = now.to(aim->at);
            if (std::hypot(at.ahead_m, at.right_m) < 60)
                all.push_back({aim->title.toStdString(), at, 0.6});
        }
    }
    return all;
}

std::vector<Cast> Bow::casts() const {
    std::vector<Cast> all;
    if (!aim_ || rays_.empty())
        return all;
    const auto &boat = session_.boats.boat();
    const auto thing = pose().to(aim_->at);
    const auto ways = inTheWay();
    for (const auto &seat : boat.seats)
        all.push_back(cast_from(boat, seat, thing, aim_->sd_m, ways));
    return all;
}

} // namespace heron::app
