#include "reading_desk.hpp"

#include <algorithm>

namespace heron::app {

void ReadingWorker::take(const std::shared_ptr<ReadingBatch> &batch) {
    if (batch->begins) {
        all_.clear();
        trip_.reset();
        recording_.reset();
        recording_rows_.clear();
        scan_ = std::make_unique<Scan>(60u << 20);
        ReaderSettings settings;
        settings.block_m = 20; // what is found is told soon
        reader_ = std::make_unique<Reader>(KindModel::shipped(), settings);
        if (batch->trip) {
            if (auto trip = TripFile::look(batch->path.toStdString()))
                trip_ = std::make_unique<TripFile>(std::move(*trip));
        } else if (auto recording = RecordingReader::open(batch->path.toStdString())) {
            recording_ = std::make_unique<RecordingReader>(std::move(*recording));
        }
        scan_->installation = batch->installation;
        scan_->set_fetch([this](std::size_t first, std::size_t count) {
            if (trip_)
                return trip_->fetch(first, count);
            std::vector<SoundedRow> rows;
            for (auto n = first; recording_ && n < std::min(first + count, recording_rows_.size()); ++n) {
                auto ping = recording_->ping(recording_rows_[n]);
                rows.push_back({ping ? std::move(*ping) : Ping(), std::nullopt, {}});
            }
            return rows;
        });
    }
    if (!scan_)
        return;
    recording_rows_.insert(recording_rows_.end(), batch->recording_rows.begin(), batch->recording_rows.end());
    for (const auto &p : batch->nav.positions())
        scan_->nav.add(p);
    for (const auto &a : batch->nav.attitudes())
        scan_->nav.add(a);
    for (const auto &s : batch->nav.speeds())
        scan_->nav.add_speed(s.time, s.m_s);
    scan_->set_all_settings(batch->settings);
    scan_->push_known(batch->facts);
    auto fresh = reader_->advance(*scan_, batch->ends);
    scan_->trim();
    all_.insert(all_.end(), std::make_move_iterator(fresh.begin()), std::make_move_iterator(fresh.end()));
    auto joined = join_contacts(all_, ReaderSettings().least_confidence);
    emit found(batch->scan_number, std::make_shared<std::vector<Contact>>(std::move(joined)),
               reader_->read_until());
}

ReadingDesk::ReadingDesk(Survey &survey, QObject *parent)
    : QObject(parent), survey_(survey), worker_(new ReadingWorker) {
    worker_->moveToThread(&thread_);
    connect(&thread_, &QThread::finished, worker_, &QObject::deleteLater);
    connect(worker_, &ReadingWorker::found, this,
            [this](int number, const std::shared_ptr<std::vector<Contact>> &contacts, std::size_t until) {
                busy_ = false;
                if (number != scan_number_)
                    return;
                read_until_ = until;
                contacts_ = std::move(*contacts);
                emit contactsChanged();
            });
    thread_.setObjectName(QStringLiteral("reading"));
    thread_.start(QThread::LowPriority);
    connect(&timer_, &QTimer::timeout, this, &ReadingDesk::feed);
    timer_.start(1000);
}

ReadingDesk::~ReadingDesk() {
    thread_.quit();
    thread_.wait();
}

// Once a second, while the thread has nothing in hand: what has settled since.
void ReadingDesk::feed() {
    const auto source = survey_.source();
    const auto path = source == Survey::Source::recording ? survey_.recordingPath() : survey_.tripPath();
    if (busy_ || survey_.scan().empty() || path.isEmpty())
        return;
    const auto &scan = survey_.scan();
    auto batch = std::make_shared<ReadingBatch>();
    if (scan_number_ != survey_.scanNumber() || handed_ > scan.end()) {
        scan_number_ = survey_.scanNumber();
        handed_ = positions_ = attitudes_ = speeds_ = read_until_ = 0;
        ended_ = false;
        contacts_.clear();
        emit contactsChanged();
        batch->begins = true;
    }
    const bool whole = source == Survey::Source::trip ||
                       (source == Survey::Source::recording && survey_.flow() == Survey::Flow::ended);
    // Rows of a trip that is kept are fetched from the disk: only those are handed on that stand there.
    auto until = whole ? scan.end() : scan.settled_until();
    if (source == Survey::Source::sounder)
        until = std::min(until, survey_.journal() != nullptr ? survey_.journal()->rows_kept() : 0);
    constexpr std::size_t most = 4000;
    until = std::min(until, handed_ + most);
    if (until <= handed_ && (ended_ || !whole))
        return;
    batch->scan_number = scan_number_;
    batch->ends = whole && until == scan.end();
    batch->trip = source != Survey::Source::recording;
    batch->path = path;
    batch->installation = scan.installation;
    batch->settings = scan.all_settings();
    for (auto n = handed_; n < until; ++n)
        batch->facts.push_back(scan.facts(n));
    if (source == Survey::Source::recording)
        batch->recording_rows = survey_.recordingRows(handed_, until);
    const auto &nav = scan.nav;
    for (; positions_ < nav.positions().size(); ++positions_)
        batch->nav.add(nav.positions()[positions_]);
    for (; attitudes_ < nav.attitudes().size(); ++attitudes_)
        batch->nav.add(nav.attitudes()[attitudes_]);
    for (; speeds_ < nav.speeds().size(); ++speeds_)
        batch->nav.add_speed(nav.speeds()[speeds_].time, nav.speeds()[speeds_].m_s);
    handed_ = until;
    ended_ = batch->ends;
    busy_ = true;
    QMetaObject::invokeMethod(
        worker_, [worker = worker_, batch] { worker->take(batch); }, Qt::QueuedConnection);
}

} // namespace heron::app
