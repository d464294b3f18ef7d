#include "way/hazard_watch.hpp"

#include "kit/kind_words.hpp"
#include "marks/near_surface.hpp"
#include "reading/contact_said.hpp"

#include <cmath>

namespace heron::app {
namespace {

constexpr double ahead_m = 60, behind_m = 90, ahead_deg = 30, little_deg = 8;
const auto topic = QStringLiteral("hazard-ahead");

} // namespace

HazardWatch::HazardWatch(Session &session, MarkLibrary &marks, Speaker &speaker, QObject *parent)
    : QObject(parent), session_(session), marks_(marks), speaker_(speaker) {
    connect(&timer_, &QTimer::timeout, this, &HazardWatch::look);
    timer_.start(500);
}

void HazardWatch::look() {
    const auto &shown = session_.shown;
    const auto before = std::exchange(ahead_, std::nullopt);
    const auto fix = session_.sources.live() && !shown.empty()
                         ? shown.scan().nav.fix_at(shown.scan().facts(shown.newest()).time)
                         : std::nullopt;
    if (fix) {
        const auto level = session_.trip.levelToday();
        for (const auto &m : marks_.all()) {
            if (!m.place || !endangers(m, level))
                continue;
            const auto leg = leg_between(fix->pose.antenna, *m.place);
            if (leg.distance_m > behind_m) {
                told_.erase(m.id);
                continue;
            }
            const double aside = wrap_180(leg.bearing_deg - fix->pose.heading_deg);
            if (leg.distance_m < ahead_m && std::fabs(aside) < ahead_deg &&
                (!ahead_ || leg.distance_m < ahead_->distance_m))
                ahead_ = Ahead{m.id, leg.distance_m, aside, top_depth_today(m, level)};
        }
    }
    if (!ahead_) {
        if (before)
            session_.notices.pass(topic);
        return;
    }
    if (!before || before->mark != ahead_->mark) {
        session_.notices.pass(topic);
        session_.notices.raise(topic,
                               {words(*ahead_).toStdString(), {}, tr("slow down and look").toStdString()});
    }
    if (told_.insert(ahead_->mark).second) {
        if (bell_)
            bell_();
        speaker_.say(
            Speaker::Urgency::hazard,
            tr("hazard ahead, %1").arg(spokenLength(ahead_->distance_m, session_.preferences.units())));
    }
}

QString HazardWatch::words(const Ahead &ahead) const {
    const auto *m = marks_.find(QString::fromStdString(ahead.mark));
    if (m == nullptr)
        return {};
    const auto units = session_.preferences.units();
    const auto length = [&](double v, int decimals) {
        return QString::fromStdString(print_length(v, units, decimals).text());
    };
    const auto name = m->name.empty() || session_.preferences.inCompany()
                          ? capital(m->kind == Kind::none ? wordFor(m->family) : wordFor(m->kind))
                          : QString::fromStdString(m->name);
    auto text = tr("hazard ahead, %1, %2: %3")
                    .arg(length(ahead.distance_m, 0),
                         std::fabs(ahead.aside_deg) < little_deg ? tr("straight on")
                         : ahead.aside_deg > 0                   ? tr("to the right")
                                                                 : tr("to the left"),
                         name);
    if (ahead.top_depth_m)
        text += *ahead.top_depth_m > 0 ? tr(", %1 down today").arg(length(*ahead.top_depth_m, 1))
                                       : tr(", it stands out of the water today");
    return text;
}

} // namespace heron::app
