#include "reading/contact_reader.hpp"

#include "fault/barrier.hpp"
#include "ingest/host_clock.hpp"

#include <QSettings>
#include <algorithm>
#include <cmath>
#include <map>
#include <utility>

namespace heron::app {
namespace {

constexpr std::size_t most_fresh = 3000;
constexpr std::size_t most_a_batch = 4000;

} // namespace

void ReadingWorker::begin(const ReadingBatch &batch) {
    all_.clear();
    trip_.reset();
    fresh_.clear();
    scan_ = std::make_unique<Scan>(60u << 20);
    ReaderSettings settings;
    settings.block_m = 20; // what is found is told soon
    reader_ = std::make_unique<Reader>(model_, settings);
    if (!batch.path.empty())
        if (auto trip = TripFile::open_read_only(batch.path))
            trip_ = std::make_unique<TripFile>(std::move(*trip));
    scan_->set_installation(batch.installation);
    scan_->set_fetch([this](std::size_t first, std::size_t count) {
        std::vector<SoundedRow> rows;
        const auto until = first + count;
        if (trip_ && (fresh_.empty() || first < fresh_first_))
            rows = trip_->fetch(first, fresh_.empty() ? count : std::min(count, fresh_first_ - first));
        // Rows that were neither kept nor are here any more stay empty.
        while (!fresh_.empty() && first + rows.size() < std::min(fresh_first_, until))
            rows.emplace_back();
        for (auto n = first + rows.size(); n < std::min(until, fresh_first_ + fresh_.size()); ++n)
            rows.push_back(fresh_[n - fresh_first_]);
        return rows;
    });
}

void ReadingWorker::weigh(Contact &c) const {
    c.chances = c.chances_by(model_);
    c.said.reset();
    settle_kind(c);
    for (const auto &s : said_)
        if (s.of(source_, c))
            apply_word(c, s.said);
}

void ReadingWorker::take(const std::shared_ptr<ReadingBatch> &batch) {
    auto answer = std::make_shared<ReadingAnswer>();
    answer->scan_number = batch->scan_number;
    answer->fault = guarded(tr("reading the picture").toStdString(), [&] { read(*batch, *answer); });
    emit found(answer);
}

// What came since the last time goes into this thread's own scan.
void ReadingWorker::takeRows(const ReadingBatch &batch) {
    for (const auto &p : batch.nav.positions())
        scan_->nav.add(p);
    for (const auto &a : batch.nav.attitudes())
        scan_->nav.add(a);
    for (const auto &s : batch.nav.speeds())
        scan_->nav.add_speed(s.time, s.m_s);
    scan_->set_all_settings(batch.settings);
    while (scan_->end() < batch.known_from)
        scan_->push_gap();
    scan_->amend(batch.known_from, batch.facts);
    if (const auto had = scan_->end() - batch.known_from; had < batch.facts.size())
        scan_->push_known(std::span(batch.facts).subspan(had));
    if (!batch.rows.empty()) {
        const auto first = scan_->end() - batch.rows.size();
        if (fresh_.empty() || first != fresh_first_ + fresh_.size()) {
            fresh_.clear();
            fresh_first_ = first;
        }
        fresh_.insert(fresh_.end(), batch.rows.begin(), batch.rows.end());
    }
    while (fresh_.size() > most_fresh || (!fresh_.empty() && fresh_first_ < batch.kept)) {
        fresh_.pop_front();
        ++fresh_first_;
    }
}

void ReadingWorker::read(const ReadingBatch &batch, ReadingAnswer &answer) {
    source_ = batch.source;
    if (batch.said_changed || batch.begins) {
        said_ = batch.said;
        weighed_ = !batch.weighed.empty();
        model_ = reweighed(KindModel::shipped(), batch.weighed);
    }
    if (batch.begins)
        begin(batch);
    if (!scan_)
        return;
    takeRows(batch);
    auto fresh = reader_->advance_to(*scan_, std::min(batch.settled, scan_->end()), batch.ends);
    all_.insert(all_.end(), std::make_move_iterator(fresh.begin()), std::make_move_iterator(fresh.end()));
    if (batch.read_again) {
        const auto [first, end] = *batch.read_again;
        std::erase_if(all_, [&](const Contact &c) { return c.row >= first && c.row < end; });
        auto again = reader_->read_again(*scan_, first, end);
        all_.insert(all_.end(), std::make_move_iterator(again.begin()), std::make_move_iterator(again.end()));
    }
    if (batch.said_changed)
        for (auto &c : all_)
            weigh(c);
    auto sightings = all_;
    if (batch.live) {
        auto ahead = reader_->look_ahead(*scan_);
        // Half a thing, or the edge of what came, passes for much: only what is surer is told before its
        // time.
        constexpr double sure_enough = 0.7;
        std::erase_if(ahead, [](const Contact &c) { return c.confidence < sure_enough; });
        sightings.insert(sightings.end(), std::make_move_iterator(ahead.begin()),
                         std::make_move_iterator(ahead.end()));
    }
    scan_->trim();
    for (auto &c : sightings)
        for (const auto &s : said_)
            if (s.of(source_, c))
                apply_word(c, s.said);
    if (weighed_)
        for (const auto &c : sightings) {
            auto as_shipped = c;
            as_shipped.chances = c.chances_by(KindModel::shipped());
            settle_kind(as_shipped);
            const double least = ReaderSettings().least_confidence;
            answer.named_otherwise += !c.said && (as_shipped.kind != c.kind ||
                                                  (as_shipped.confidence < least) != (c.confidence < least));
        }
    answer.contacts = join_contacts(std::move(sightings), ReaderSettings().least_confidence);
    answer.read_until = reader_->read_until();
    answer.seen_until = batch.live ? scan_->end() : answer.read_until;
}

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
