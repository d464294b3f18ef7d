// The trip's part of the survey: what becomes known is written down; an old trip is opened and played.
#include "session/survey.hpp"

#include <QFileInfo>
#include <algorithm>

namespace heron::app {

void Survey::take(TripBegins &begins) {
    journal_ = begins.journal;
    trip_path_ = QString::fromStdString(journal_->path().string());
    known_rows_ = known_lines_ = known_track_ = 0;
    known_positions_ = known_attitudes_ = known_depths_ = known_speeds_ = 0;
    // A connection of this thread's own, for rows that are no longer held.
    if (auto look = TripFile::look(journal_->path()))
        trip_ = std::make_unique<TripFile>(std::move(*look));
    if (trip_)
        scan_->set_fetch([this](std::size_t first, std::size_t count) { return trip_->fetch(first, count); });
    accompanyMarks(trip_path_);
    emit tripBegan();
    emit stateChanged();
}

void Survey::keep(std::function<Result<void>(TripFile &)> job) {
    if (journal_) {
        journal_->ask(std::move(job));
    } else if (trip_ && source_ == Source::trip) {
        if (auto r = job(*trip_); !r)
            emit faultRaised(QStringLiteral("trip"), r.error());
    }
}

void Survey::setWater(const QString &water) {
    water_ = water.trimmed();
    if (source_ == Source::sounder)
        source_name_ = water_.isEmpty() && hello_ ? QString::fromStdString(hello_->name) : water_;
    keep([name = water_.toStdString()](TripFile &trip) { return trip.set_value("water", name); });
    emit stateChanged();
}

// Facts of rows that are settled, the samples of the track, the overview: what a trip needs to open at once.
void Survey::writeKnowledge(bool all) {
    if (!journal_)
        return;
    TripFile::Knowledge k;
    const auto until = all ? scan_->end() : std::min(scan_->settled_until(), scan_->end());
    k.first_row = known_rows_;
    for (; known_rows_ < until; ++known_rows_)
        k.facts.push_back(scan_->facts(known_rows_));
    k.settings = scan_->all_settings();
    const auto &nav = scan_->nav;
    for (; known_positions_ < nav.positions().size(); ++known_positions_)
        k.nav.add(nav.positions()[known_positions_]);
    for (; known_attitudes_ < nav.attitudes().size(); ++known_attitudes_)
        k.nav.add(nav.attitudes()[known_attitudes_]);
    for (; known_depths_ < nav.depths().size(); ++known_depths_)
        k.nav.add(nav.depths()[known_depths_]);
    for (; known_speeds_ < nav.speeds().size(); ++known_speeds_)
        k.nav.add_speed(nav.speeds()[known_speeds_].time, nav.speeds()[known_speeds_].m_s);
    const auto &lines = overview_.lines(0);
    k.overview.assign(lines.begin() + static_cast<std::ptrdiff_t>(known_lines_), lines.end());
    known_lines_ = lines.size();
    journal_->known(std::move(k));
    // The track as a layer, half a minute at a time.
    if (known_rows_ > known_track_ &&
        (all || seconds_between(scan_->facts(known_track_).time, scan_->facts(known_rows_ - 1).time) > 30)) {
        journal_->ask(
            [s = stretches(*scan_, known_track_, known_rows_)](TripFile &trip) { return trip.append(s); });
        known_track_ = known_rows_;
    }
}

void Survey::closeTrip() {
    if (journal_) {
        writeKnowledge(true);
        journal_->flush();
    }
    if (book_)
        book_->accompany(std::nullopt);
    scan_->set_fetch({});
    trip_.reset();
    journal_.reset();
    recording_.reset();
    trip_path_.clear();
}

void Survey::openTrip(const QString &path) {
    // What runs goes on until the trip has proved to be one.
    auto trip = TripFile::open(path.toStdString());
    if (!trip && QFileInfo::exists(path) && !QFileInfo(path).isWritable())
        trip = TripFile::look(path.toStdString());
    if (!trip) {
        auto fault = trip.error();
        if (fault.kept.empty())
            fault.kept = tr("the picture and all marks are as they were").toStdString();
        emit faultRaised(QStringLiteral("source"), fault);
        return;
    }
    auto opened = std::make_unique<TripFile>(std::move(*trip));
    stopFeeder(pending_);
    stopFeeder(active_);
    closeTrip();
    source_ = Source::trip;
    flow_ = Flow::ended;
    hello_.reset();
    beginScan();
    trip_ = std::move(opened);
    trip_path_ = path;
    if (auto r = open_into(*trip_, *scan_, overview_); !r) {
        emit faultRaised(QStringLiteral("source"), r.error());
        return;
    }
    const auto water = QString::fromStdString(trip_->head().water);
    source_name_ = water.isEmpty() ? QFileInfo(path).completeBaseName() : water;
    head_ = scan_->end();
    strokes_ = strokes_from(trip_->value(bottom_by_hand_key));
    before_strokes_.assign(strokes_.size(), {});
    accompanyMarks(path);
    emit faultPassed(QStringLiteral("source"));
    emit scanReplaced();
    if (!scan_->empty())
        levelAt(scan_->end() - 1);
    emit tripBegan();
    emit rowsAdded();
    emit stateChanged();
    emit settingsChanged();
}

void Survey::correctBottom(std::size_t first, const std::vector<double> &altitudes) {
    if (altitudes.empty() || !scan_->holds(first))
        return;
    BottomStroke stroke{first, altitudes};
    stroke.altitude_m.resize(std::min(altitudes.size(), scan_->end() - first));
    std::vector<BottomPick> before;
    for (std::size_t i = 0; i < stroke.altitude_m.size(); ++i)
        before.push_back(scan_->bottom(first + i));
    draw_bottom(*scan_, {stroke});
    const auto end = first + stroke.altitude_m.size();
    strokes_.push_back(std::move(stroke));
    before_strokes_.push_back(std::move(before));
    keepStrokes();
    emit bottomCorrected(first, end);
    emit rowsAdded();
    emit windowChanged();
    emit word(
        QStringLiteral("bottom"),
        source_ == Source::recording
            ? tr("Bottom drawn for %1 pings; kept while this recording is open. U takes it back.")
                  .arg(end - first)
            : tr("Bottom drawn for %1 pings and kept with the trip. U takes it back.").arg(end - first));
}

void Survey::undoBottom() {
    if (strokes_.empty())
        return;
    const auto stroke = strokes_.back();
    const auto before = before_strokes_.back();
    strokes_.pop_back();
    before_strokes_.pop_back();
    // Of a stroke of an earlier sitting the bottom under it is not known here; it is found when the trip is
    // opened again.
    if (!before.empty())
        scan_->restore_bottom(stroke.first_row, before);
    keepStrokes();
    emit bottomCorrected(stroke.first_row, stroke.first_row + stroke.altitude_m.size());
    emit rowsAdded();
    emit windowChanged();
    emit word(QStringLiteral("bottom"),
              before.empty() ? tr("Taken back: the bottom is as found when the trip is opened anew.")
                             : tr("The bottom is as it was."));
}

void Survey::keepStrokes() {
    keep([text = text_of(strokes_)](TripFile &trip) { return trip.set_value(bottom_by_hand_key, text); });
}

void Survey::playFrom(std::size_t row) {
    if (source_ != Source::trip || scan_->empty())
        return;
    head_ = std::clamp(row + 1, scan_->first() + 1, scan_->end());
    levelAt(head_ - 1);
    flow_ = Flow::flowing;
    play_due_s_ = 0;
    play_clock_.restart();
    emit rowsAdded();
    emit stateChanged();
}

void Survey::pausePlay() {
    if (source_ != Source::trip || flow_ != Flow::flowing)
        return;
    flow_ = Flow::paused;
    emit stateChanged();
}

void Survey::showUpTo(std::size_t row) {
    if (source_ != Source::trip || row < head_ || row >= scan_->end())
        return;
    head_ = row + 1;
    emit rowsAdded();
}

void Survey::advancePlay() {
    if (flow_ != Flow::flowing || scan_->empty())
        return;
    play_due_s_ += static_cast<double>(play_clock_.nsecsElapsed()) * 1e-9 * play_speed_;
    play_clock_.restart();
    QElapsedTimer work;
    work.start();
    while (head_ < scan_->end() && work.elapsed() < 10) {
        // A gap in the trip is passed over at once.
        const double step =
            std::clamp(seconds_between(scan_->facts(head_ - 1).time, scan_->facts(head_).time), 0.0, 1.0);
        if (play_speed_ < 1000 && step > play_due_s_)
            return;
        play_due_s_ = std::max(0.0, play_due_s_ - step);
        showRow(head_++);
    }
    play_due_s_ = std::min(play_due_s_, 1.0);
    if (head_ == scan_->end()) {
        flow_ = Flow::ended;
        emit stateChanged();
    }
}

} // namespace heron::app
