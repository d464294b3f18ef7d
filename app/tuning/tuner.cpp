#include "tuning/tuner.hpp"

#include "picture/chip.hpp"
#include "tuning/learned_noise.hpp"

#include <QCoreApplication>
#include <QPointer>
#include <QSettings>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

// Settings that were left alone so long, with nothing to say about them, are good.
constexpr qint64 good_after_ms = 90'000;

QString number(double v, int decimals = 0) {
    return QString::fromStdString(print_number(v, decimals));
}

} // namespace

Tuner::Tuner(Session &session, QObject *parent) : QObject(parent), session_(session) {
    connect(&session_.shown, &ShownScan::rowArrived, this, &Tuner::rowArrived);
    connect(&session_.shown, &ShownScan::replaced, this, [this] {
        watcher_.clear();
        offer_.clear();
        search_.reset();
        pending_.reset();
        emit adviceChanged();
        emit pendingChanged();
        emit tuningChanged();
    });
    connect(&session_.sounder, &Sounder::settingsChanged, this, [this] {
        if (const auto &hello = session_.sounder.hello(); hello && !hello->gear.empty())
            if (const auto told = gear_from_json(hello->gear); told && !(*told == gear_))
                setGear(*told);
    });
    connect(&session_.trip, &TripKeeper::began, this, &Tuner::lookForLastTime);
    connect(&timer_, &QTimer::timeout, this, &Tuner::think);
    timer_.start(1000);
    clock_.start();
    const auto kept = QSettings().value(QStringLiteral("lastGood")).toList();
    if (kept.size() == 4) {
        last_good_ = SoundingSettings();
        last_good_->range_m = kept[0].toDouble();
        last_good_->frequency_hz = kept[1].toDouble();
        last_good_->gain = kept[2].toInt();
        last_good_->tvg_log = kept[3].toDouble();
    }
}

void Tuner::setGear(const Gear &gear) {
    gear_ = gear;
    emit gearChanged();
}

void Tuner::setAdvised(const Advice &advice, const std::vector<double> &range_by_band) {
    advised_ = advice;
    range_by_band_ = range_by_band;
    emit advisedChanged();
}

std::optional<double> Tuner::advisedRange(double frequency_hz) const {
    for (std::size_t i = 0; i < std::min(range_by_band_.size(), gear_.bands.size()); ++i)
        if (std::fabs(gear_.bands[i].frequency_hz - frequency_hz) < 0.01 * frequency_hz)
            return range_by_band_[i];
    return std::nullopt;
}

// Where the bottom sinks into noise tells how much noise there is; the advice before the trip is computed
// anew with it, so that both say one figure.
void Tuner::learnNoise() {
    const auto health = watcher_.health();
    const auto &settings = session_.sounder.settings();
    constexpr int looked_long_enough = 5; // seconds
    constexpr double worth_it_db = 2;
    const bool sinks = session_.sources.live() && !session_.shown.empty() && health.useful_range_m > 0 &&
                       health.useful_range_m < 0.9 * health.range_m;
    reach_seen_ = sinks ? reach_seen_ + 1 : 0;
    if (reach_seen_ < looked_long_enough)
        return;
    const auto &bottom = session_.shown.scan().bottom(session_.shown.newest());
    const auto band = std::find_if(gear_.bands.begin(), gear_.bands.end(), [&](const GearBand &b) {
        return std::fabs(b.frequency_hz - settings.frequency_hz) < 0.01 * settings.frequency_hz;
    });
    if (!bottom.found || band == gear_.bands.end())
        return;
    Setting setting;
    setting.range_m = health.range_m;
    setting.band = static_cast<std::size_t>(band - gear_.bands.begin());
    setting.speed_m_s = session_.shown.speedNow().value_or(1.4);
    const double depth = bottom.altitude_m + gear_.draught_m;
    const double noise = noise_from_reach(gear_, water_, setting, depth, health.useful_range_m);
    if (std::fabs(noise - learned_noise_db_) < worth_it_db)
        return;
    learned_noise_db_ = noise;
    learned_reach_m_ = health.useful_range_m;
    emit noiseLearned();
}

SoundingSettings Tuner::plain() const {
    SoundingSettings s;
    s.gain = gear_.gain_steps / 2;
    s.tvg_log = gear_.tvg_log;
    s.range_m = 25;
    s.frequency_hz = gear_.bands[gear_.bands.size() / 2].frequency_hz;
    return s;
}

SoundingSettings Tuner::advisedSettings() const {
    auto s = plain();
    if (!advised_)
        return s;
    const auto &set = advised_->yield.setting;
    s.frequency_hz = gear_.bands[std::min(set.band, gear_.bands.size() - 1)].frequency_hz;
    s.range_m = advisedRange(s.frequency_hz).value_or(set.range_m);
    if (advised_->gain >= 0)
        s.gain = advised_->gain;
    return s;
}

void Tuner::rowArrived(std::size_t row) {
    const auto &scan = session_.shown.scan();
    if (row > scan.first() && !(scan.settings(row) == scan.settings(row - 1)))
        watcher_.forget_levels();
    watcher_.add(scan, row);
    if (check_) {
        check_->add(scan, row);
        if (row % 20 == 0)
            emit checkChanged();
    }
    if (search_) {
        const int before = search_->gain();
        if (const auto next = search_->look(scan, row)) {
            if (search_->done()) {
                const int gain = search_->gain(), from = search_from_;
                const auto why = QString::fromStdString(search_->why());
                const int steps = search_->steps();
                search_.reset();
                if (gain != from)
                    logChange(QStringLiteral("gain"), number(from), number(gain), QStringLiteral("tune"),
                              why);
                emit tuningChanged();
                session_.notices.say(
                    QStringLiteral("tune"),
                    gain == from ? tr("The gain was right: %1.").arg(gain)
                                 : tr("Gain %1, found in %2 steps: %3.").arg(gain).arg(steps).arg(why));
            } else if (*next != before) {
                auto s = session_.sounder.settings();
                s.gain = *next;
                session_.sounder.ask(s);
                emit tuningChanged();
            }
        }
    }
    if (range_follows_ && session_.sources.source() == Sources::Source::sounder && scan.bottom(row).found) {
        const double time = seconds_between(0, scan.facts(row).time);
        if (const auto range = follower_.follow(time, scan.bottom(row).altitude_m,
                                                session_.sounder.settings().range_m, rangeSteps())) {
            auto s = session_.sounder.settings();
            s.range_m = *range;
            set(s, QStringLiteral("depth"), tr("%1 times the depth").arg(number(follower_.times_depth, 1)));
        }
    }
}

// Once a second: what there is to say. What is offered stays until it no longer holds.
void Tuner::think() {
    const auto now = clock_.elapsed();
    learnNoise();
    std::optional<TuningAdvice> next;
    if (session_.sources.flow() == Sources::Flow::flowing && !search_) {
        const auto display = displayNow();
        for (auto &a : advice_from(watcher_.health(), session_.sounder.settings(), gear_,
                                   display.window.floor_db, session_.preferences.units() == UnitSystem::feet,
                                   advisedRange(session_.sounder.settings().frequency_hz))) {
            if (offer_.isPutOff(a.topic))
                continue;
            // A recording's or an old trip's gain cannot be turned any more.
            if (a.set && session_.sources.source() != Sources::Source::sounder)
                continue;
            if (a.topic == "floor" && !display.follows)
                continue;
            if (a.reject_streaks && display.filters.reject_streaks)
                continue;
            if (range_follows_ && a.topic == "range")
                continue;
            next = std::move(a);
            break;
        }
    }
    if (offer_.consider(std::move(next)))
        emit adviceChanged();
    // Settings that are left alone and have nothing said about them are good.
    if (!steady_ || !(*steady_ == session_.sounder.settings()) || advice()) {
        steady_ = session_.sounder.settings();
        steady_since_ = now;
    } else if (session_.sources.source() == Sources::Source::sounder &&
               session_.sources.flow() == Sources::Flow::flowing && now - steady_since_ > good_after_ms &&
               !(last_good_ && *last_good_ == *steady_)) {
        last_good_ = steady_;
        QSettings().setValue(QStringLiteral("lastGood"),
                             QVariantList{last_good_->range_m, last_good_->frequency_hz, last_good_->gain,
                                          last_good_->tvg_log});
        emit adviceChanged();
    }
}

void Tuner::attend(WindowState &window) {
    windows_.emplace_back(&window);
}

// What the first window shows: the console's.
Tuner::Display Tuner::displayNow() const {
    for (const auto &w : windows_)
        if (w)
            return {w->displayWindow(), w->filters(), w->windowFollows()};
    return {};
}

void Tuner::takeAdvice(WindowState &window) {
    const auto taken = offer_.take();
    if (!taken)
        return;
    const auto &a = *taken;
    const auto why = QString::fromStdString(a.why);
    if (a.set)
        set(*a.set, QStringLiteral("advice"), why);
    if (a.raise_floor_db) {
        showedOtherwise(QStringLiteral("floor"), number(window.displayWindow().floor_db),
                        number(*a.raise_floor_db));
        window.raiseFloor(*a.raise_floor_db);
    }
    if (a.reject_streaks) {
        auto f = window.filters();
        f.reject_streaks = true;
        showedOtherwise(QStringLiteral("streaks"), tr("shown"), tr("taken out"));
        window.setFilters(f);
    }
    emit adviceChanged();
}

void Tuner::putAdviceOff() {
    offer_.putOff();
    emit adviceChanged();
}

void Tuner::set(const SoundingSettings &wanted, const QString &by, const QString &reason) {
    const auto now = session_.sounder.wanted();
    const bool feet = session_.preferences.units() == UnitSystem::feet;
    if (wanted.range_m != now.range_m)
        logChange(QStringLiteral("range"), number(feet ? feet_from_metres(now.range_m) : now.range_m),
                  number(feet ? feet_from_metres(wanted.range_m) : wanted.range_m), by, reason);
    if (wanted.frequency_hz != now.frequency_hz)
        logChange(QStringLiteral("band"), number(now.frequency_hz / 1000), number(wanted.frequency_hz / 1000),
                  by, reason);
    if (wanted.gain != now.gain)
        logChange(QStringLiteral("gain"), number(now.gain), number(wanted.gain), by, reason);
    if (wanted.tvg_log != now.tvg_log)
        logChange(QStringLiteral("TVG"), number(now.tvg_log), number(wanted.tvg_log), by, reason);
    session_.sounder.ask(wanted);
}

void Tuner::showedOtherwise(const QString &what, const QString &before, const QString &after) {
    logChange(what, before, after, QStringLiteral("guide"), {});
}

std::vector<std::uint8_t> Tuner::smallPicture() const {
    if (session_.shown.empty())
        return {};
    const auto row = session_.shown.newest();
    const auto &scan = session_.shown.scan();
    const double range = static_cast<double>(scan.facts(row).range_m);
    // The starboard half of the last rows: bottom from near to far.
    return pack_chip(cut_chip(scan, row > 46 ? row - 46 : row, Side::starboard, range / 2,
                              displayNow().window, 124, 92, range / 124));
}

// The picture before is taken now; the one after when the change has shown for some seconds, or with the
// verdict.
void Tuner::logChange(const QString &what, const QString &before, const QString &after, const QString &by,
                      const QString &reason) {
    if (session_.shown.empty())
        return;
    SettingChange c;
    const auto row = session_.shown.newest();
    c.time = session_.shown.scan().facts(row).time;
    c.row = row;
    c.by = by.toStdString();
    c.what = what.toStdString();
    c.before = before.toStdString();
    c.after = after.toStdString();
    c.reason = reason.toStdString();
    c.picture_before = smallPicture();
    const auto words = QStringLiteral("%1 %2 → %3").arg(what, before, after);
    // The journal's thread gives the number; it comes back here.
    const QPointer<Tuner> self(this);
    session_.trip.keep([c, self, words, row](TripFile &trip) -> Result<void> {
        const auto id = trip.log(c);
        if (!id)
            return tl::unexpected(id.error());
        QMetaObject::invokeMethod(
            qApp,
            [self, words, row, n = *id] {
                if (!self)
                    return;
                self->pending_ = Pending{n, words, row};
                emit self->pendingChanged();
                QTimer::singleShot(6000, self.data(), [self, n] {
                    if (!self || !self->pending_ || self->pending_->id != n)
                        return;
                    self->session_.trip.keep(
                        [n, after = self->smallPicture()](TripFile &t) { return t.judge(n, "", after); });
                });
                QTimer::singleShot(30'000, self.data(), [self, n] {
                    if (self && self->pending_ && self->pending_->id == n) {
                        self->pending_.reset();
                        emit self->pendingChanged();
                    }
                });
            },
            Qt::QueuedConnection);
        return {};
    });
}

void Tuner::judge(bool better) {
    if (!pending_)
        return;
    session_.trip.keep([n = pending_->id, better, after = smallPicture()](TripFile &trip) {
        return trip.judge(n, better ? "better" : "worse", after);
    });
    if (better) {
        last_good_ = session_.sounder.settings();
        QSettings().setValue(QStringLiteral("lastGood"),
                             QVariantList{last_good_->range_m, last_good_->frequency_hz, last_good_->gain,
                                          last_good_->tvg_log});
    }
    session_.notices.say(
        QStringLiteral("verdict"),
        better ? tr("%1: kept as better.").arg(pending_->words)
               : tr("%1: kept as worse. G goes back to the last good settings.").arg(pending_->words));
    pending_.reset();
    emit pendingChanged();
    emit adviceChanged();
}

void Tuner::tuneForMe(const std::optional<TuningSpot> &spot) {
    if (session_.sources.source() != Sources::Source::sounder || session_.shown.empty())
        return;
    search_from_ = session_.sounder.settings().gain;
    // A spot is gone by the time the gain has changed; what is stored of it tells the step.
    if (spot) {
        const auto first = spot->row > 8 ? spot->row - 8 : 0;
        GainSearch once(gear_, session_.shown.scan().settings(spot->row).gain, spot);
        if (const auto gain = once.from_stored(session_.shown.scan(), first, spot->row + 8)) {
            auto s = session_.sounder.settings();
            s.gain = *gain;
            set(s, QStringLiteral("tune"), QString::fromStdString(once.why()));
        }
        return;
    }
    search_.emplace(gear_, search_from_);
    emit tuningChanged();
}

void Tuner::stopTuning() {
    search_.reset();
    emit tuningChanged();
}

QString Tuner::fromStored(const std::optional<TuningSpot> &spot, std::size_t first, std::size_t end) {
    auto text = QString::fromStdString(lost_by_gain(session_.shown.scan(), first, end, spot).say());
    GainSearch search(gear_, session_.shown.scan().settings(spot ? spot->row : first).gain, spot);
    if (const auto gain = search.from_stored(session_.shown.scan(), first, end)) {
        const int step = *gain - session_.shown.scan().settings(spot ? spot->row : first).gain;
        text += QLatin1Char(' ') + (std::abs(step) < 3 ? tr("The gain was right there.")
                                    : step < 0         ? tr("It calls for %1 steps less gain.").arg(-step)
                                                       : tr("It calls for %1 steps more gain.").arg(step));
    }
    return text;
}

std::vector<double> Tuner::rangeSteps() const {
    const bool feet = session_.preferences.units() == UnitSystem::feet;
    std::vector<double> steps;
    for (int i = 1; i <= 40; ++i) {
        const double m = feet ? metres_from_feet(10.0 * i) : 2.5 * i;
        if (m >= gear_.shortest_range_m && m <= gear_.longest_range_m)
            steps.push_back(m);
    }
    return steps;
}

void Tuner::setRangeFollows(bool on) {
    range_follows_ = on;
    emit rangeFollowChanged();
}
void Tuner::setTimesDepth(double times) {
    follower_.times_depth = std::clamp(times, 1.5, 10.0);
    emit rangeFollowChanged();
}

void Tuner::backToLastGood() {
    if (!last_good_)
        return;
    auto s = *last_good_;
    s.pinging = session_.sounder.settings().pinging;
    set(s, QStringLiteral("guide"), tr("last good settings"));
    for (const auto &w : windows_)
        if (w)
            w->followLevels();
}

void Tuner::lookForLastTime() {
    last_time_.reset();
    // Another trip, other water.
    if (learned_noise_db_ != 0) {
        learned_noise_db_ = learned_reach_m_ = 0;
        emit noiseLearned();
    }
    if (session_.sources.source() == Sources::Source::sounder && !session_.trip.water().isEmpty())
        last_time_ = last_time(session_.trip.folder().toStdString(), session_.trip.water().toStdString(),
                               session_.trip.path().toStdString());
    emit lastTimeChanged();
}

void Tuner::takeLastTime() {
    if (!last_time_)
        return;
    auto s = last_time_->settings;
    s.pinging = session_.sounder.settings().pinging;
    set(s, QStringLiteral("guide"), tr("what worked here last time"));
}

void Tuner::beginInstallationCheck(Side known) {
    check_.emplace(known);
    emit checkChanged();
}

void Tuner::endInstallationCheck() {
    check_.reset();
    emit checkChanged();
}

} // namespace heron::app
