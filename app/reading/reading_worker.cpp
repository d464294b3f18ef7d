#include "reading/reading_worker.hpp"

#include "fault/barrier.hpp"

#include <algorithm>
#include <utility>

namespace heron::app {
namespace {

constexpr std::size_t most_fresh = 3000;

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
        const auto first = batch.read_again->first, end = batch.read_again->second;
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

} // namespace heron::app
