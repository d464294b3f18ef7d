#include "views/trips/trips_view.hpp"

#include "kit/counted.hpp"
#include "kit/key_button.hpp"
#include "kit/theme.hpp"
#include "parts/place.hpp"
#include "trip/thin_trip.hpp"
#include "trip/trip_recording.hpp"

#include <QDateTime>
#include <QFileDialog>
#include <QFutureWatcher>
#include <QKeyEvent>
#include <QLocale>
#include <QMouseEvent>
#include <QPainter>
#include <QtConcurrent>

namespace heron::app {
namespace {

constexpr int top = 92, line = 56, left = 32;

} // namespace

TripsView::TripsView(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    setFocusPolicy(Qt::StrongFocus);
    open_ = new KeyButton(QString(), tr("Open"), Qt::Key_Return, tr("Look at this trip again"), this);
    open_->setObjectName(QStringLiteral("openTrip"));
    thin_ =
        new KeyButton(QString(), tr("Make small"), QKeySequence(),
                      tr("Take out the pings that are not near marks; marks, track and a mosaic stay"), this);
    thin_->setObjectName(QStringLiteral("thinTrip"));
    export_ = new KeyButton(QString(), tr("As recording"), QKeySequence(),
                            tr("Write it as a recording (.nc) for other programs"), this);
    export_->setObjectName(QStringLiteral("exportTrip"));
    connect(open_, &KeyButton::clicked, this, &TripsView::openSelected);
    connect(thin_, &KeyButton::clicked, this, &TripsView::thinSelected);
    connect(export_, &KeyButton::clicked, this, &TripsView::giveAway);
    connect(&context_.session.trip, &TripKeeper::began, this, [this] {
        if (isVisible())
            refresh();
    });
    connect(&context_.session.sources, &Sources::opened, this, [this] {
        if (isVisible())
            context_.window.askPlace(place::scan);
    });
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void TripsView::showEvent(QShowEvent *) {
    refresh();
}

void TripsView::refresh() {
    trips_ = trips_in(context_.session.trip.folder().toStdString());
    selected_ = std::clamp(selected_, 0, std::max(0, static_cast<int>(trips_.size()) - 1));
    saving_.clear();
    thin_asked_ = false;
    const bool any = !trips_.empty() && !working_;
    for (auto *k : {open_, thin_, export_})
        k->setEnabled(any);
    update();
}

void TripsView::resizeEvent(QResizeEvent *) {
    int x = left;
    for (auto *k : {open_, thin_, export_}) {
        k->setGeometry(x, height() - 76, 180, 60);
        x += 192;
    }
}

void TripsView::openSelected() {
    if (trips_.empty())
        return;
    context_.session.sources.openTrip(
        QString::fromStdString(trips_[static_cast<std::size_t>(selected_)].path.string()));
}

// Long work goes on beside the window; its outcome is told.
void TripsView::work(const QString &what, std::function<Result<QString>()> job) {
    working_ = true;
    saving_ = what;
    for (auto *k : {open_, thin_, export_})
        k->setEnabled(false);
    update();
    auto *watcher = new QFutureWatcher<Result<QString>>(this);
    connect(watcher, &QFutureWatcherBase::finished, this, [this, watcher] {
        working_ = false;
        const auto result = watcher->result();
        refresh();
        if (result)
            context_.session.notices.say(QStringLiteral("trips"), *result);
        else
            context_.session.notices.raise(QStringLiteral("trips"), result.error());
        watcher->deleteLater();
    });
    watcher->setFuture(QtConcurrent::run(std::move(job)));
}

void TripsView::thinSelected() {
    if (trips_.empty())
        return;
    const auto path = trips_[static_cast<std::size_t>(selected_)].path;
    const ThinPlan plan;
    const auto megabytes = [](std::uintmax_t bytes) {
        return QString::number(static_cast<double>(bytes) / 1e6, 'f', 1);
    };
    if (!thin_asked_) {
        const auto trip = TripFile::open_read_only(path);
        if (!trip) {
            context_.session.notices.raise(QStringLiteral("trips"), trip.error());
            return;
        }
        const auto saving = plan_thinning(*trip, plan);
        if (!saving) {
            context_.session.notices.raise(QStringLiteral("trips"), saving.error());
            return;
        }
        thin_asked_ = true;
        saving_ =
            tr("%1 of %2 MB would go: %3 of %4 rows stay, those within %5 s of a mark. Press again to do it.")
                .arg(megabytes(saving->bytes_gone), megabytes(saving->bytes_before))
                .arg(saving->rows_kept)
                .arg(saving->rows_before)
                .arg(plan.around_marks_s);
        update();
        return;
    }
    work(tr("Making it small …"), [path, plan, megabytes]() -> Result<QString> {
        const auto saving = thin_trip(path, plan);
        if (!saving)
            return tl::unexpected(saving.error());
        return tr("%1 MB of pings were freed; marks, track and a mosaic stay.")
            .arg(megabytes(saving->bytes_gone));
    });
}

void TripsView::giveAway() {
    if (trips_.empty())
        return;
    const auto path = trips_[static_cast<std::size_t>(selected_)].path;
    const auto to = QFileDialog::getSaveFileName(
        this, tr("Write a recording"),
        QString::fromStdString(path.stem().stem().string()) + QStringLiteral(".nc"), tr("Recordings (*.nc)"));
    if (to.isEmpty())
        return;
    work(tr("Writing the recording …"), [path, to = to.toStdString()]() -> Result<QString> {
        const auto written = recording_from_trip(path, to);
        if (!written)
            return tl::unexpected(written.error());
        return tr("%1 written.").arg(counted(*written, tr("ping"), tr("pings")));
    });
}

void TripsView::mousePressEvent(QMouseEvent *event) {
    const int i = first_ + (static_cast<int>(event->position().y()) - top) / line;
    if (event->position().y() >= top && i < static_cast<int>(trips_.size())) {
        selected_ = i;
        thin_asked_ = false;
        saving_.clear();
        update();
    }
    setFocus();
}
void TripsView::mouseDoubleClickEvent(QMouseEvent *) {
    openSelected();
}
void TripsView::keyPressEvent(QKeyEvent *event) {
    if (event->key() == Qt::Key_Down || event->key() == Qt::Key_Up) {
        selected_ = std::clamp(selected_ + (event->key() == Qt::Key_Down ? 1 : -1), 0,
                               std::max(0, static_cast<int>(trips_.size()) - 1));
        const int shown = (height() - top - 130) / line;
        first_ = std::clamp(first_, std::max(0, selected_ - shown + 1), selected_);
        thin_asked_ = false;
        saving_.clear();
        update();
        return;
    }
    QWidget::keyPressEvent(event);
}

void TripsView::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    const auto text = wordsOn(p);
    text(left, 44, tr("Trips"), 24, true, "ink");
    text(left, 74,
         trips_.empty() ? tr("No trip was kept yet. One begins by itself with the first ping of a sounder.")
                        : context_.session.trip.folder(),
         14, false, "ink2");
    int y = top;
    for (std::size_t i = static_cast<std::size_t>(first_); i < trips_.size() && y + line < height() - 120;
         ++i) {
        const auto &t = trips_[i];
        if (static_cast<int>(i) == selected_) {
            p.fillRect(QRect(left - 12, y, width() - 2 * left + 24, line - 2), colour("sunk"));
            p.fillRect(QRect(left - 12, y, 4, line - 2), colour("accent"));
        }
        if (!t.fault.empty()) {
            text(left, y + 24, QString::fromStdString(t.path.filename().string()), 15, true, "ink");
            text(left, y + 44, QString::fromStdString(t.fault), 13, false, "accent");
        } else {
            const auto when = QDateTime::fromMSecsSinceEpoch(t.started / 1'000'000, Qt::UTC);
            text(left, y + 24, t.water.empty() ? tr("water not said") : QString::fromStdString(t.water), 17,
                 true, "ink");
            text(left + 330, y + 24,
                 QLocale().toString(when.date(), QLocale::ShortFormat) +
                     when.time().toString(QStringLiteral(" hh:mm")) + tr(" UTC"),
                 14, false, "ink");
            text(left + 520, y + 24, tr("%1 min").arg(std::lround(t.seconds / 60)), 14, true, "ink");
            text(left + 610, y + 24, counted(t.rows, tr("row"), tr("rows")), 14, false, "ink");
            text(left + 740, y + 24, counted(t.marks, tr("mark"), tr("marks")), 14, false, "ink");
            text(left + 850, y + 24, tr("%1 MB").arg(static_cast<double>(t.bytes) / 1e6, 0, 'f', 1), 14,
                 false, "ink");
            auto name = QString::fromStdString(t.path.filename().string());
            if (context_.session.trip.keeping() &&
                context_.session.trip.path() == QString::fromStdString(t.path.string()))
                name += tr(" · being kept now");
            text(left, y + 44, name, 13, false, "ink2");
        }
        p.setPen(QPen(colour("hair"), 1));
        p.drawLine(left, y + line - 2, width() - left, y + line - 2);
        y += line;
    }
    if (!saving_.isEmpty())
        text(left, height() - 92, saving_, 15, true, "ink");
}

} // namespace heron::app
