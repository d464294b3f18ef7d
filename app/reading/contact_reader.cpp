#include "reading/contact_reader.hpp"

#include "ingest/host_clock.hpp"

#include <QSettings>
#include <algorithm>
#include <cmath>
#include <map>
#include <utility>

namespace heron::app {
namespace {

constexpr std::size_t most_a_batch = 4000;

} // namespace

ContactReader::ContactReader(Session &session, QObject *parent)
    : ReadContacts(session.shown, parent), session_(session), worker_(new ReadingWorker) {
    worker_->moveToThread(&thread_);
    connect(&thread_, &QThread::finished, worker_, &QObject::deleteLater);
    connect(worker_, &ReadingWorker::found, this, [this](const std::shared_ptr<ReadingAnswer> &answer) {
        busy_ = false;
        if (answer->scan_number != scan_number_)
            return;
        if (answer->fault) {
            session_.notices.raise(QStringLiteral("reading"), *answer->fault);
            return;
        }
        read_until_ = answer->read_until;
        seen_until_ = answer->seen_until;
        named_otherwise_ = answer->named_otherwise;
        replace(std::move(answer->contacts));
    });
    // What was read of another scan is nothing here; an answer that is still under way is dropped too.
    connect(&session_.shown, &ShownScan::replaced, this, [this] {
        scan_number_ = -1;
        read_until_ = seen_until_ = 0;
        replace({});
    });
    connect(&session_.shown, &ShownScan::bottomCorrected, this, [this](std::size_t first, std::size_t end) {
        if (again_)
            again_ = std::pair{std::min(first, again_->first), std::max(end, again_->second)};
        else
            again_ = std::pair{first, end};
    });
    connect(&session_.trip, &TripKeeper::waterChanged, this, &ContactReader::settleWater);
    weighs_ = QSettings().value(QStringLiteral("weigh_words"), true).toBool();
    thread_.setObjectName(QStringLiteral("reading"));
    thread_.start(QThread::LowPriority);
    connect(&timer_, &QTimer::timeout, this, &ContactReader::feed);
    timer_.start(500);
}

ContactReader::~ContactReader() {
    thread_.quit();
    thread_.wait();
}

// What is read again may be told a little otherwise: the nearest on that side, within a metre or two, is the
// same thing and keeps its id.
void ContactReader::replace(std::vector<Contact> found) {
    const auto &before = contacts();
    std::multimap<std::size_t, std::size_t> by_row;
    for (std::size_t i = 0; i < before.size(); ++i)
        by_row.emplace(before[i].row, i);
    std::vector<bool> taken(before.size(), false);
    std::vector<int> ids;
    ids.reserve(found.size());
    constexpr std::size_t most_rows = 50;
    for (const auto &c : found) {
        std::optional<std::size_t> best;
        double nearest = 2.5;
        const auto last = by_row.upper_bound(c.row + most_rows);
        for (auto at = by_row.lower_bound(c.row > most_rows ? c.row - most_rows : 0); at != last; ++at) {
            const auto &old = before[at->second];
            if (taken[at->second] || old.side != c.side)
                continue;
            const double d = std::fabs(c.slant_m - old.slant_m) +
                             0.05 * std::fabs(static_cast<double>(c.row) - static_cast<double>(old.row));
            if (d < nearest) {
                nearest = d;
                best = at->second;
            }
        }
        if (best)
            taken[*best] = true;
        ids.push_back(best ? idOf(*best) : 0);
    }
    ReadContacts::take(std::move(found), std::move(ids));
}

void ContactReader::openCorrections(const QString &path) {
    auto book = CorrectionBook::open(path.toStdString());
    if (!book) {
        session_.notices.raise(QStringLiteral("corrections"), book.error());
        return;
    }
    book_ = std::move(*book);
    said_changed_ = true;
}

bool ContactReader::correct(const Contact &c, Kind said) {
    if (!book_)
        return false;
    Correction word;
    word.water = water();
    const auto source = sourceName();
    word.source = source.id.empty() ? source.name : source.id;
    word.time = c.time;
    word.side = c.side;
    word.slant_m = c.slant_m;
    word.zone = c.zone;
    word.features = c.weighed();
    word.read = c.kind;
    word.said = said;
    word.said_at = host_now();
    if (const auto done = book_->say(word); !done) {
        session_.notices.raise(QStringLiteral("corrections"), done.error());
        return false;
    }
    said_changed_ = true;
    return true;
}

SourceName ContactReader::sourceName() const {
    return {session_.sources.id().toStdString(), session_.sources.name().toStdString()};
}

void ContactReader::settleWater() {
    if (!book_ || session_.trip.id().isEmpty())
        return;
    if (const auto done = book_->settle_water(session_.trip.id().toStdString(), water()); !done)
        session_.notices.raise(QStringLiteral("corrections"), done.error());
    said_changed_ = true;
}

void ContactReader::takeBack() {
    if (!book_)
        return;
    if (const auto done = book_->take_back(); !done)
        session_.notices.raise(QStringLiteral("corrections"), done.error());
    said_changed_ = true;
}

void ContactReader::setWeighs(bool on) {
    weighs_ = on;
    QSettings().setValue(QStringLiteral("weigh_words"), on);
    said_changed_ = true;
}

// Twice a second, while the thread has nothing to do: what came since.
void ContactReader::feed() {
    const auto source = session_.sources.source();
    const auto &store = session_.sources.store();
    if (busy_ || session_.shown.scan().empty() || source == Sources::Source::none)
        return;
    const auto &scan = session_.shown.scan();
    auto batch = std::make_shared<ReadingBatch>();
    if (scan_number_ != session_.shown.number() || handed_ > scan.end()) {
        scan_number_ = session_.shown.number();
        handed_ = settled_ = positions_ = attitudes_ = speeds_ = read_until_ = seen_until_ = 0;
        ended_ = false;
        again_.reset();
        replace({});
        begins_ = true;
    }
    const bool live = source == Sources::Source::sounder;
    const bool whole = source == Sources::Source::trip || (source == Sources::Source::recording &&
                                                           session_.sources.flow() == Sources::Flow::ended);
    const auto settled = whole ? scan.end() : scan.settled_until();
    auto until = live ? scan.end() : settled;
    until = std::min(until, handed_ + most_a_batch);
    // A live scan without a trip holds only its newest rows.
    const auto from = std::max(std::min(settled_, handed_), live && store.empty() ? scan.first() : 0);
    if (until <= handed_ && (ended_ || !whole) && !said_changed_ && !again_)
        return;
    // Not before a batch goes: until then the thread still has what it read of another scan.
    batch->begins = std::exchange(begins_, false);
    batch->scan_number = scan_number_;
    batch->ends = whole && until == scan.end();
    batch->live = live;
    batch->path = store.path();
    batch->installation = scan.installation;
    batch->settings = scan.all_settings();
    batch->known_from = from;
    batch->settled = std::min(settled, until);
    batch->kept = store.empty() ? 0 : store.rowsKept();
    for (auto n = from; n < until; ++n)
        batch->facts.push_back(scan.facts(n));
    for (auto n = std::max(handed_, batch->kept); source != Sources::Source::trip && n < until; ++n)
        batch->rows.push_back(scan.row(n));
    const auto &nav = scan.nav;
    for (; positions_ < nav.positions().size(); ++positions_)
        batch->nav.add(nav.positions()[positions_]);
    for (; attitudes_ < nav.attitudes().size(); ++attitudes_)
        batch->nav.add(nav.attitudes()[attitudes_]);
    for (; speeds_ < nav.speeds().size(); ++speeds_)
        batch->nav.add_speed(nav.speeds()[speeds_].time, nav.speeds()[speeds_].m_s);
    if (again_ && again_->first < until) {
        // What was handed on before is known otherwise now.
        const auto first = std::min(again_->first, from);
        std::vector<RowFacts> facts;
        for (auto n = first; n < until; ++n)
            facts.push_back(scan.facts(n));
        batch->known_from = first;
        batch->facts = std::move(facts);
        batch->read_again = again_;
        again_.reset();
    }
    batch->source = sourceName();
    if (said_changed_ || batch->begins) {
        batch->said_changed = true;
        said_changed_ = false;
        if (book_) {
            batch->said = book_->all();
            if (weighs_)
                batch->weighed = book_->of_water(water());
        }
    }
    handed_ = until;
    settled_ = batch->settled;
    ended_ = batch->ends;
    busy_ = true;
    QMetaObject::invokeMethod(
        worker_, [worker = worker_, batch] { worker->take(batch); }, Qt::QueuedConnection);
}

} // namespace heron::app
