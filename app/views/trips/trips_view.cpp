#include "views/trips/trips_view.hpp"

#include "kit/counted.hpp"
#include "kit/item_list.hpp"
#include "kit/key_button.hpp"
#include "kit/paper.hpp"
#include "kit/theme.hpp"
#include "parts/place.hpp"
#include "trip/thin_trip.hpp"
#include "trip/trip_recording.hpp"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QPainter>
#include <QVBoxLayout>
#include <cmath>

namespace heron::app {
namespace {

constexpr QSize picture_size{300, 64};
constexpr int track_wide = 96;

QString megabytes(std::uintmax_t bytes) {
    return QString::number(static_cast<double>(bytes) / 1e6, 'f', 1);
}

} // namespace

TripsView::TripsView(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    setFocusPolicy(Qt::StrongFocus);
    dressPage(this);
    auto &session = context_.session;
    model_ = new TripList(session.trip, session.preferences, session.jobs, this);
    list_ = new ItemList(ItemList::Shape::row, picture_size, this);
    list_->setObjectName(QStringLiteral("tripList"));
    list_->setAccessibleName(tr("Trips"));
    list_->setItems(model_);
    list_->setPictures([this](const QString &id) { return picture(id); });
    setFocusProxy(list_);
    const auto add = [this](const char *name, const QString &text, const QString &tip,
                            const QKeySequence &letter = {}) {
        auto *key = new KeyButton(QString(), text, letter, tip, this);
        key->setObjectName(QString::fromLatin1(name));
        key->setFixedHeight(60);
        return key;
    };
    open_ = add("openTrip", tr("Open"), tr("Look at this trip again"), Qt::Key_Return);
    thin_ = add("thinTrip", tr("Make small"),
                tr("Take out the pings that are not near marks; marks, track and a mosaic stay"));
    export_ = add("exportTrip", tr("As recording"), tr("Write it as a recording (.nc) for other programs"));
    stop_ = add("stopWork", tr("Stop"), tr("Stop what is going on; the trip stays as it was"));
    auto *page = new QVBoxLayout(this);
    page->setContentsMargins(32, 16, 32, 14);
    page->setSpacing(8);
    page->addWidget(new PaperLabel(tr("Trips"), 24, true, Ink::plain, this));
    page->addWidget(folder_ = new PaperLabel(QString(), 14, false, Ink::quiet, this));
    page->addWidget(list_, 1);
    page->addWidget(told_ = new PaperLabel(QString(), 15, true, Ink::plain, this));
    auto *keys = new QHBoxLayout;
    keys->setSpacing(12);
    for (auto *k : {open_, thin_, export_, stop_})
        keys->addWidget(k);
    keys->addStretch(1);
    page->addLayout(keys);
    connect(open_, &KeyButton::clicked, this, &TripsView::openSelected);
    connect(thin_, &KeyButton::clicked, this, &TripsView::thinSelected);
    connect(export_, &KeyButton::clicked, this, &TripsView::giveAway);
    connect(stop_, &KeyButton::clicked, this, [this] {
        if (work_)
            work_->cancel();
    });
    connect(list_, &ItemList::opened, this, &TripsView::openSelected);
    connect(list_, &ItemList::chosen, this, [this] {
        thin_asked_.clear();
        refresh();
    });
    connect(model_, &TripList::listed, this, [this] {
        if (list_->currentId().isEmpty())
            list_->selectId(model_->idAt(0));
        refresh();
    });
    connect(&session.trip, &TripKeeper::began, this, [this] {
        if (isVisible())
            model_->refresh();
    });
    connect(&session.sources, &Sources::opened, this, [this] {
        if (isVisible())
            context_.window.askPlace(place::scan);
    });
    connect(&progress_, &QTimer::timeout, this, &TripsView::refresh);
    refresh();
}

void TripsView::showEvent(QShowEvent *) {
    model_->refresh();
}

const TripSummary *TripsView::selected() const {
    return model_->find(list_->currentId());
}

QString TripsView::told() const {
    return told_->text();
}

void TripsView::refresh() {
    const bool any = selected() != nullptr && !work_;
    for (auto *k : {open_, thin_, export_})
        k->setEnabled(any);
    stop_->setVisible(work_ != nullptr);
    folder_->setText(model_->ids().empty() && !model_->looking()
                         ? tr("No trip was kept yet. One begins by itself with the first ping of a sounder.")
                         : context_.session.trip.folder());
    if (work_)
        told_->setText(tr("%1 %2 of 100").arg(doing_).arg(std::lround(100 * work_->done())));
    else if (thin_asked_.isEmpty())
        told_->clear();
    told_->setVisible(!told_->text().isEmpty());
}

// The picture from begin to end, and the track beside it.
QImage TripsView::picture(const QString &id) const {
    const auto *sketch = model_->sketch(id);
    if (sketch == nullptr || (sketch->lines.empty() && sketch->track.empty()))
        return {};
    QImage image(picture_size, QImage::Format_RGB32);
    const auto &map = Theme::instance().map().table();
    image.fill(map[0]);
    const int wide = picture_size.width() - track_wide;
    const auto &window = context_.window.displayWindow();
    for (int x = 0; x < wide && !sketch->lines.empty(); ++x) {
        const auto &line =
            sketch
                ->lines[static_cast<std::size_t>(x) * sketch->lines.size() / static_cast<std::size_t>(wide)];
        for (int y = 0; y < image.height(); ++y)
            if (const auto v = line[static_cast<std::size_t>(y) * line.size() /
                                    static_cast<std::size_t>(image.height())];
                v > 0)
                image.setPixel(x, y, map[window.level_of(v + overview_zero_db)]);
    }
    QPainter p(&image);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(wide, 0, track_wide, image.height(), colour("water"));
    QRectF extent;
    for (const auto &at : sketch->track)
        extent = extent.united(QRectF(at, QSizeF(1, 1)));
    const double scale = std::min((track_wide - 16) / std::max(1.0, extent.width()),
                                  (image.height() - 16) / std::max(1.0, extent.height()));
    QPolygonF track;
    for (const auto &at : sketch->track)
        track << QPointF(wide + track_wide / 2.0 + (at.x() - extent.center().x()) * scale,
                         image.height() / 2.0 - (at.y() - extent.center().y()) * scale);
    p.setPen(QPen(colour("ink"), 1.4));
    p.drawPolyline(track);
    return image;
}

void TripsView::openSelected() {
    if (const auto *trip = selected())
        context_.session.sources.openTrip(QString::fromStdString(trip->path.string()));
}

// Long work goes on beside the window; its outcome is told.
void TripsView::work(const QString &what, std::function<Result<QString>(JobControl &)> job) {
    doing_ = what;
    thin_asked_.clear();
    work_ = context_.session.storage.run<QString>(what, this, std::move(job), [this](Result<QString> result) {
        work_.reset();
        progress_.stop();
        auto &notices = context_.session.notices;
        if (result)
            notices.say(QStringLiteral("trips"), *result);
        else
            notices.raise(QStringLiteral("trips"), result.error());
        model_->refresh();
        refresh();
    });
    progress_.start(200);
    refresh();
}

void TripsView::thinSelected() {
    const auto *trip = selected();
    if (trip == nullptr)
        return;
    const auto path = trip->path;
    const auto id = list_->currentId();
    const ThinPlan plan;
    if (thin_asked_ != id) {
        context_.session.storage.run<ThinSaving>(
            tr("Computing what it saves …"), this,
            [path, plan](JobControl &) -> Result<ThinSaving> {
                const auto file = TripFile::open(path);
                if (!file)
                    return tl::unexpected(file.error());
                return plan_thinning(*file, plan);
            },
            [this, id, plan](Result<ThinSaving> saving) {
                if (!saving) {
                    context_.session.notices.raise(QStringLiteral("trips"), saving.error());
                    return;
                }
                thin_asked_ = id;
                told_->setText(tr("%1 of %2 MB would go: %3 of %4 rows stay, those within %5 s of a mark. "
                                  "Press again to do it.")
                                   .arg(megabytes(saving->bytes_gone), megabytes(saving->bytes_before))
                                   .arg(saving->rows_kept)
                                   .arg(saving->rows_before)
                                   .arg(plan.around_marks_s));
                refresh();
            });
        return;
    }
    work(tr("Making it small …"), [path, plan](JobControl &control) -> Result<QString> {
        const auto saving = thin_trip(path, plan, [&control](double done) {
            control.tell(done);
            return !control.cancelled();
        });
        if (!saving)
            return tl::unexpected(saving.error());
        return tr("%1 MB of pings were freed; marks, track and a mosaic stay.")
            .arg(megabytes(saving->bytes_gone));
    });
}

void TripsView::giveAway() {
    const auto *trip = selected();
    if (trip == nullptr)
        return;
    const auto path = trip->path;
    const auto to = QFileDialog::getSaveFileName(
        this, tr("Write a recording"),
        QString::fromStdString(path.stem().stem().string()) + QStringLiteral(".nc"), tr("Recordings (*.nc)"));
    if (to.isEmpty())
        return;
    work(tr("Writing the recording …"),
         [path, to = to.toStdString()](JobControl &control) -> Result<QString> {
             const auto written = recording_from_trip(path, to, [&control](double done) {
                 control.tell(done);
                 return !control.cancelled();
             });
             if (!written)
                 return tl::unexpected(written.error());
             return tr("%1 written.").arg(counted(*written, tr("ping"), tr("pings")));
         });
}

} // namespace heron::app
