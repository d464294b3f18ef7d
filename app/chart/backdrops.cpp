#include "chart/backdrops.hpp"

#include "fault/barrier.hpp"

#include <QFileInfo>
#include <cmath>
#include <limits>

namespace heron::app {
namespace {

const QString topic = QStringLiteral("backdrop");

} // namespace

void BackdropWorker::open(const QString &path, const UtmZone &zone) {
    backdrop_.reset();
    auto opened_file = guarded_result(tr("opening the backdrop").toStdString(),
                                      [&] { return Backdrop::open(path.toStdString(), zone); });
    if (!opened_file) {
        emit refused(std::make_shared<Fault>(opened_file.error()));
        return;
    }
    backdrop_ = std::move(*opened_file);
    auto drawn = std::make_shared<BackdropDrawn>();
    drawn->path = path;
    drawn->name = QFileInfo(path).fileName();
    drawn->lines = backdrop_->lines();
    drawn->points = backdrop_->points();
    drawn->has_picture = backdrop_->has_picture();
    drawn->has_depths = backdrop_->has_depths();
    drawn->extent = backdrop_->extent();
    QStringList warnings;
    for (const auto &w : backdrop_->warnings())
        warnings << QString::fromStdString(w);
    emit opened(drawn, warnings);
}

void BackdropWorker::close() {
    backdrop_.reset();
}

void BackdropWorker::read(const BackdropPart &part, int number) {
    QImage image;
    if (backdrop_ && backdrop_->has_picture()) {
        const auto broke = guarded(tr("reading the backdrop").toStdString(), [&] {
            const auto p =
                backdrop_->picture(part.west_m, part.north_m, part.cell_m, part.columns, part.rows);
            if (p)
                image = QImage(reinterpret_cast<const uchar *>(p->argb.data()), p->columns, p->rows,
                               QImage::Format_ARGB32)
                            .copy();
        });
        if (broke)
            emit refused(std::make_shared<Fault>(*broke));
    }
    emit pictureRead(image, part, number);
}

void BackdropWorker::depth(const EastNorth &at) {
    const auto d = backdrop_ ? backdrop_->depth_at(at) : std::nullopt;
    emit depthRead(at, d.value_or(std::numeric_limits<double>::quiet_NaN()));
}

Backdrops::Backdrops(Session &session, ChartMaker &chart, QObject *parent)
    : QObject(parent), session_(session), chart_(chart), worker_(new BackdropWorker) {
    worker_->moveToThread(&thread_);
    connect(&thread_, &QThread::finished, worker_, &QObject::deleteLater);
    connect(worker_, &BackdropWorker::opened, this,
            [this](const std::shared_ptr<BackdropDrawn> &drawn, const QStringList &warnings) {
                drawn_ = drawn;
                picture_ = {};
                session_.notices.pass(topic);
                session_.notices.say(
                    topic, warnings.isEmpty()
                               ? tr("%1 lies under the chart.").arg(drawn->name)
                               : tr("%1 lies under the chart; %2.").arg(drawn->name, warnings.front()));
                emit changed();
            });
    connect(worker_, &BackdropWorker::refused, this, [this](const std::shared_ptr<Fault> &fault) {
        session_.notices.raise(topic, *fault);
        path_.clear();
        drawn_.reset();
        emit changed();
    });
    connect(worker_, &BackdropWorker::pictureRead, this,
            [this](const QImage &image, const BackdropPart &part, int number) {
                waits_ = false;
                if (number == asked_) {
                    picture_ = image;
                    part_ = part;
                    emit changed();
                }
                if (next_) {
                    const auto next = *next_;
                    next_.reset();
                    ask(next);
                }
            });
    connect(worker_, &BackdropWorker::depthRead, this, [this](const EastNorth &at, double metres) {
        depth_asked_ = false;
        depth_ = {at, metres};
        emit changed();
    });
    connect(&chart, &ChartMaker::begun, this, &Backdrops::lay);
    connect(&chart, &ChartMaker::tilesChanged, this, &Backdrops::lay);
    thread_.setObjectName(QStringLiteral("backdrop"));
    thread_.start(QThread::LowPriority);
}

Backdrops::~Backdrops() {
    thread_.quit();
    thread_.wait();
}

void Backdrops::open(const QString &path) {
    path_ = path;
    zone_.reset();
    if (!chart_.zone()) {
        session_.notices.say(
            topic, tr("%1 is laid as soon as there is a chart over it.").arg(QFileInfo(path).fileName()));
        return;
    }
    lay();
}

// On another plane it is read anew.
void Backdrops::lay() {
    const auto &zone = chart_.zone();
    if (path_.isEmpty() || !zone || (zone_ && *zone_ == *zone))
        return;
    zone_ = zone;
    QMetaObject::invokeMethod(
        worker_, [worker = worker_, path = path_, zone = *zone] { worker->open(path, zone); },
        Qt::QueuedConnection);
}

void Backdrops::close() {
    path_.clear();
    zone_.reset();
    drawn_.reset();
    picture_ = {};
    QMetaObject::invokeMethod(
        worker_, [worker = worker_] { worker->close(); }, Qt::QueuedConnection);
    emit changed();
}

void Backdrops::ask(const BackdropPart &part) {
    if (!drawn_ || !drawn_->has_picture)
        return;
    if (waits_) {
        next_ = part;
        return;
    }
    waits_ = true;
    QMetaObject::invokeMethod(
        worker_, [worker = worker_, part, number = ++asked_] { worker->read(part, number); },
        Qt::QueuedConnection);
}

void Backdrops::askDepth(const EastNorth &at) {
    if (!drawn_ || !drawn_->has_depths || depth_asked_)
        return;
    depth_asked_ = true;
    QMetaObject::invokeMethod(
        worker_, [worker = worker_, at] { worker->depth(at); }, Qt::QueuedConnection);
}

std::optional<double> Backdrops::depthAt(const EastNorth &at) const {
    constexpr double same_m = 0.6;
    if (!depth_ || !(depth_->second == depth_->second) ||
        std::hypot(depth_->first.east_m - at.east_m, depth_->first.north_m - at.north_m) > same_m)
        return std::nullopt;
    return depth_->second;
}

} // namespace heron::app
