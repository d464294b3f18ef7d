#include "reading/circle_reader.hpp"

#include "around/cast.hpp"
#include "fault/barrier.hpp"

#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr std::size_t most_rays_a_batch = 1500, most_back = 3000;
constexpr std::size_t turns_joined = 24; // older ones say little of what lies about the boat now

} // namespace

void TurnsWorker::take(const std::shared_ptr<TurnsBatch> &batch) {
    auto answer = std::make_shared<TurnsAnswer>();
    answer->scan_number = batch->scan_number;
    answer->fault = guarded(tr("reading the circle").toStdString(), [&] { read(*batch, *answer); });
    emit found(answer);
}

void TurnsWorker::read(const TurnsBatch &batch, TurnsAnswer &answer) {
    if (batch.begins) {
        scan_ = std::make_unique<Scan>(60u << 20);
        scan_->set_installation(batch.installation);
        reader_ = std::make_unique<SweepReader>();
        looks_.clear();
        tracker_ = SwimmerTracker();
        next_turn_ = 0;
        first_ = batch.first;
    }
    if (!scan_)
        return;
    scan_->nav.add(batch.nav);
    for (const auto &row : batch.rows)
        scan_->push(row);
    auto fresh = reader_->advance(*scan_, batch.ends);
    looks_.insert(looks_.end(), std::make_move_iterator(fresh.begin()), std::make_move_iterator(fresh.end()));
    const auto &all = reader_->views();
    const std::vector<SweepView> views(
        all.end() - static_cast<std::ptrdiff_t>(std::min(all.size(), turns_joined)), all.end());
    if (!views.empty())
        std::erase_if(looks_, [&](const Contact &c) { return c.leg < views.front().sweep; });
    const auto standing = standing_places(looks_);
    for (; next_turn_ < all.size(); ++next_turn_) {
        std::vector<Contact> of_turn;
        std::copy_if(looks_.begin(), looks_.end(), std::back_inserter(of_turn),
                     [&](const Contact &c) { return c.leg == all[next_turn_].sweep; });
        tracker_.take(of_turn, standing);
    }
    answer.swimmers = tracker_.swimmers();
    answer.plane = tracker_.plane();
    answer.contacts = join_sweeps(looks_, views, ReaderSettings().least_confidence, true);
    for (auto &c : answer.contacts) {
        c.row += first_;
        c.first_row += first_;
        c.last_row += first_;
    }
    answer.findings = reader_->check().findings(batch.hull_deg);
    // As finely as it is told.
    if (auto &slips = answer.findings.slips_deg)
        slips = std::round(*slips);
    if (auto &zero = answer.findings.zero_deg)
        zero = 10 * std::round(*zero / 10);
    if (answer.findings.heading_late_s) {
        scan_->nav.compass_late_s += *answer.findings.heading_late_s;
        reader_->forget_turns();
    }
    if (scan_->nav.compass_late_s != 0)
        answer.findings.heading_late_s = scan_->nav.compass_late_s;
    scan_->trim();
}

CircleReader::CircleReader(Session &session, QObject *parent)
    : ReadContacts(session.around, parent), session_(session), worker_(new TurnsWorker) {
    worker_->moveToThread(&thread_);
    connect(&thread_, &QThread::finished, worker_, &QObject::deleteLater);
    connect(worker_, &TurnsWorker::found, this, [this](const std::shared_ptr<TurnsAnswer> &answer) {
        busy_ = false;
        if (answer->scan_number != scan_number_)
            return;
        if (answer->fault)
            session_.notices.raise(QStringLiteral("circle"), *answer->fault);
        else {
            swimmers_ = std::move(answer->swimmers);
            swim_plane_ = answer->plane;
            replace(std::move(answer->contacts));
            if (!(findings_ == answer->findings)) {
                findings_ = answer->findings;
                session_.around.setCompassLate(findings_.heading_late_s.value_or(0));
                emit headJudged();
            }
        }
    });
    connect(&session_.around, &ShownScan::replaced, this, [this] {
        scan_number_ = -1;
        swimmers_.clear();
        findings_ = {};
        replace({});
        emit headJudged();
    });
    // The play goes on from elsewhere: what lies about the boat there.
    connect(&session_.around, &ShownScan::jumped, this, [this] {
        scan_number_ = -1;
        swimmers_.clear();
        replace({});
    });
    thread_.setObjectName(QStringLiteral("circle"));
    thread_.start(QThread::LowPriority);
    connect(&timer_, &QTimer::timeout, this, &CircleReader::feed);
    timer_.start(400);
}

CircleReader::~CircleReader() {
    thread_.quit();
    thread_.wait();
}

void CircleReader::feed() {
    const auto &shown = session_.around;
    if (busy_ || shown.empty())
        return;
    auto batch = std::make_shared<TurnsBatch>();
    batch->begins = scan_number_ != shown.number();
    const auto &scan = shown.scan();
    if (batch->begins) {
        scan_number_ = shown.number();
        nav_since_ = {};
        ended_ = false;
        // Of a long trip what lies about the boat now.
        handed_ = std::max(scan.first(), shown.end() > most_back ? shown.end() - most_back : 0);
    }
    const bool ends = session_.sources.flow() == Sources::Flow::ended;
    const auto end = std::min(shown.end(), handed_ + most_rays_a_batch);
    if (!batch->begins && end <= handed_ && (ended_ || !ends))
        return;
    batch->scan_number = scan_number_;
    batch->installation = scan.installation;
    const auto &boat = session_.boats.boat();
    batch->hull_deg = polar_of(from_head(boat, {boat.length_m / 2, 0})).off_bow_deg;
    batch->first = handed_;
    for (; handed_ < end; ++handed_)
        batch->rows.push_back(scan.row(handed_));
    batch->ends = ends && handed_ == shown.end();
    ended_ = batch->ends;
    batch->nav = nav_since_.of(scan.nav);
    busy_ = true;
    QMetaObject::invokeMethod(
        worker_, [worker = worker_, batch] { worker->take(batch); }, Qt::QueuedConnection);
}

// What is told anew within a metre or so is the same thing and keeps its id.
void CircleReader::replace(std::vector<Contact> found) {
    const auto &before = contacts();
    std::vector<bool> taken(before.size(), false);
    std::vector<int> ids;
    for (const auto &c : found) {
        std::optional<std::size_t> best;
        double nearest = 1.2;
        for (std::size_t i = 0; i < before.size(); ++i) {
            if (taken[i] || !c.place || !before[i].place)
                continue;
            const double d = leg_between(c.place->place, before[i].place->place).distance_m;
            if (d < nearest) {
                nearest = d;
                best = i;
            }
        }
        if (best)
            taken[*best] = true;
        ids.push_back(best ? idOf(*best) : 0);
    }
    take(std::move(found), std::move(ids));
}

} // namespace heron::app
