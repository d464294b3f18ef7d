#include "passes/pass_planner.hpp"

#include <QSettings>
#include <algorithm>

namespace heron::app {

PassPlanner::PassPlanner(Session &session, Tuner &tuning, ContactReader &reading, MarkLibrary &marks,
                         QObject *parent)
    : QObject(parent), session_(session), tuning_(tuning), reading_(reading), marks_(marks) {
    fish_length_m_ = std::clamp(QSettings().value(QStringLiteral("fish_length_m"), 0.4).toDouble(), 0.1, 1.5);
    connect(&session_.shown, &ShownScan::rowArrived, this, [this] { rowArrived(); });
    connect(&session_.shown, &ShownScan::replaced, this, [this] {
        last_.reset();
        end();
    });
}

void PassPlanner::setFishLength(double metres) {
    fish_length_m_ = std::clamp(metres, 0.1, 1.5);
    QSettings().setValue(QStringLiteral("fish_length_m"), fish_length_m_);
}

WaterState PassPlanner::waterAt(const Contact &c) const {
    auto water = tuning_.water();
    water.shallowest_m = water.deepest_m = std::max(0.8, c.depth_m);
    return water;
}

std::optional<SecondLook> PassPlanner::plan(const Contact &c) const {
    if (!c.place || c.said)
        return std::nullopt;
    SecondLookRequest q;
    q.contact = &c;
    q.gear = tuning_.gear();
    q.water = waterAt(c);
    q.first_heading_deg = c.heading_deg.value_or(0);
    if (!session_.shown.empty())
        if (const auto fix =
                session_.shown.scan().nav.fix_at(session_.shown.scan().facts(session_.shown.newest()).time))
            q.boat = fix->pose.antenna;
    q.keep_off = near_surface(reading_.contacts());
    for (const auto &m : marks_.all())
        if (m.family == Family::hazard && m.place)
            q.keep_off.push_back({*m.place, 8 + m.place_covariance.radial_sd_m(),
                                  m.name.empty() ? std::string("hazard") : m.name});
    // Of a drop no look aside tells more than crossing it again does.
    if (q.contact->zone == Zone::track)
        return std::nullopt;
    return plan_second_look(q, session_.preferences.units());
}

std::vector<Pass> PassPlanner::looksAt(const Contact &c) const {
    return c.place ? passes_at(session_.shown.scan(), c.place->place, session_.shown.end())
                   : std::vector<Pass>();
}

FishOrLeave PassPlanner::fishOrLeave(const Contact &c) const {
    return fish_or_leave(session_.shown.scan(), c, looksAt(c), reading_.contacts(), tuning_.gear(),
                         waterAt(c), fish_length_m_);
}

FishTally PassPlanner::tally(bool last_hour) const {
    const auto &scan = session_.shown.scan();
    if (session_.shown.empty())
        return tally_fish(scan, {}, 0, 0, session_.preferences.units());
    const auto from =
        last_hour ? scan.row_at(scan.facts(session_.shown.newest()).time - 3600 * ns_per_s) : scan.first();
    return tally_fish(scan, reading_.contacts(), from, session_.shown.end(), session_.preferences.units());
}

void PassPlanner::begin(const Contact &contact, const SecondLook &look) {
    run_ = Run{look, contact, false, session_.shown.end()};
    emit runChanged();
}

void PassPlanner::end() {
    if (!run_)
        return;
    run_.reset();
    emit runChanged();
}

void PassPlanner::takeSettings() {
    if (!run_)
        return;
    auto s = session_.sounder.wanted();
    s.range_m = run_->look.setting.range_m;
    const auto &bands = tuning_.gear().bands;
    if (run_->look.setting.band < bands.size())
        s.frequency_hz = bands[run_->look.setting.band].frequency_hz;
    tuning_.set(s, QStringLiteral("advice"), tr("for the second look"));
}

std::optional<SteeringCue> PassPlanner::cue() const {
    if (!run_ || session_.shown.empty())
        return std::nullopt;
    const auto fix =
        session_.shown.scan().nav.fix_at(session_.shown.scan().facts(session_.shown.newest()).time);
    if (!fix)
        return std::nullopt;
    return steer(run_->look, transducer_place(fix->pose, session_.shown.scan().installation),
                 fix->pose.heading_deg);
}

void PassPlanner::rowArrived() {
    if (!run_)
        return;
    const auto now = cue();
    if (now) {
        run_->was_abeam = run_->was_abeam || now->abeam;
        // Well past it, so that its echo and its shadow are whole in the picture.
        if (run_->was_abeam && !now->abeam && now->thing_m > std::max(6.0, run_->look.ground_m + 2)) {
            last_ = run_;
            run_.reset();
            emit runChanged();
            emit runDone();
            return;
        }
    }
    emit cueChanged();
}

} // namespace heron::app
