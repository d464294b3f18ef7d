#include "marks/mark_book.hpp"

#include "fault/told.hpp"

#include <algorithm>
#include <chrono>
#include <unordered_set>

namespace heron {

Result<MarkBook> MarkBook::open(const std::filesystem::path &path) {
    auto store = MarkStore::open(path);
    if (!store)
        return tl::unexpected(store.error());
    auto marks = store->load();
    if (!marks)
        return tl::unexpected(marks.error());
    MarkBook book(std::move(*store));
    book.marks_ = std::move(*marks);
    book.index_marks();
    book.kept_steps_ = MarkHistory::count(book.store_.database());
    return book;
}

const Mark *MarkBook::find(const std::string &id) const {
    const auto at = index_.find(id);
    return at == index_.end() ? nullptr : &marks_[at->second];
}

void MarkBook::index_marks() {
    index_.clear();
    for (std::size_t i = 0; i < marks_.size(); ++i)
        index_[marks_[i].id] = i;
}

MarkWrites MarkBook::writes_of(const Change &change, bool forward) {
    MarkWrites writes;
    for (const auto &step : change) {
        const auto &from = forward ? step.before : step.after;
        const auto &to = forward ? step.after : step.before;
        if (to)
            writes.saved.push_back(*to);
        else if (from)
            writes.removed.push_back(from->id);
    }
    return writes;
}

Result<void> MarkBook::apply(const Change &change, bool forward,
                             const std::function<bool(Database &)> &also) {
    const auto writes = writes_of(change, forward);
    if (auto r = store_.write(writes, also); !r)
        return r;
    take(writes);
    return {};
}

// What is on the disk is known from now on, and whoever follows is told.
void MarkBook::take(const MarkWrites &writes) {
    for (const auto &m : writes.saved) {
        const auto at = index_.find(m.id);
        if (at != index_.end()) {
            marks_[at->second] = m;
        } else {
            index_[m.id] = marks_.size();
            marks_.push_back(m);
        }
    }
    if (!writes.removed.empty()) {
        const std::unordered_set<std::string> gone(writes.removed.begin(), writes.removed.end());
        std::erase_if(marks_, [&](const Mark &m) { return gone.contains(m.id); });
        index_marks();
    }
    if (follower_)
        follower_(writes);
}

MarkBook::Change MarkBook::change_to(const std::vector<Mark> &marks) const {
    Change change;
    for (const auto &m : marks) {
        const auto *old = find(m.id);
        change.push_back({old != nullptr ? std::optional(*old) : std::nullopt, m});
    }
    return change;
}

void MarkBook::adopt(const std::vector<Mark> &marks) {
    auto change = change_to(marks);
    take(writes_of(change, true));
    done_.push_back({std::move(change), 0});
}

Result<void> MarkBook::take_from_others(const std::vector<Mark> &marks,
                                        const std::vector<std::string> &removed) {
    const MarkWrites writes{marks, removed};
    if (auto r = store_.write(writes); !r)
        return r;
    take(writes);
    std::unordered_set<std::string> ids(removed.begin(), removed.end());
    for (const auto &m : marks)
        ids.insert(m.id);
    std::erase_if(done_, [&](const Done &done) {
        return std::any_of(done.change.begin(), done.change.end(),
                           [&](const Step &step) { return ids.contains(step.id()); });
    });
    return {};
}

Result<void> MarkBook::remember(Change change) {
    using namespace std::chrono;
    const UnixNs now = duration_cast<nanoseconds>(system_clock::now().time_since_epoch()).count();
    std::int64_t step = 0;
    const auto keep = [&](Database &db) {
        const auto kept = MarkHistory::remember(db, change, now);
        step = kept.value_or(0);
        return kept.has_value();
    };
    if (auto r = apply(change, true, keep); !r)
        return r;
    kept_steps_ = std::min<std::int64_t>(kept_steps_ + (step > 0 ? 1 : 0), MarkHistory::most_steps);
    done_.push_back({std::move(change), step});
    return {};
}

Result<void> MarkBook::add(const Mark &mark) {
    return add_all({mark});
}

Result<void> MarkBook::add_all(const std::vector<Mark> &marks) {
    return remember(change_to(marks));
}

Result<void> MarkBook::change(const Mark &mark) {
    return add_all({mark});
}

Result<void> MarkBook::remove(const std::string &id) {
    const auto *old = find(id);
    if (old == nullptr)
        return {};
    return remember({{*old, std::nullopt}});
}

Result<void> MarkBook::replace(const std::vector<Mark> &marks, const std::vector<std::string> &gone) {
    auto change = change_to(marks);
    for (const auto &id : gone)
        if (const auto *old = find(id))
            change.push_back({*old, std::nullopt});
    return remember(std::move(change));
}

Result<void> MarkBook::undo() {
    if (done_.empty())
        return undo_kept();
    const auto step = done_.back().step;
    if (auto r =
            apply(done_.back().change, false, [step](Database &db) { return MarkHistory::forget(db, step); });
        !r)
        return r;
    kept_steps_ -= step > 0 ? 1 : 0;
    done_.pop_back();
    return {};
}

// A step of an earlier session, where its marks still are as it left them; pictures that it did not touch are
// those that the marks have now.
std::optional<MarkBook::Change> MarkBook::fitting(MarkHistory::Kept kept) const {
    if (kept.change.empty())
        return std::nullopt;
    for (std::size_t i = 0; i < kept.change.size(); ++i) {
        auto &[before, after] = kept.change[i];
        const auto *now = find(kept.change[i].id());
        if ((now != nullptr) != after.has_value() || (now != nullptr && !same_but_pictures(*now, *after)))
            return std::nullopt;
        if (before && now != nullptr && !kept.pictures[i]) {
            before->chip = now->chip;
            for (std::size_t k = 0; k < std::min(before->sightings.size(), now->sightings.size()); ++k)
                before->sightings[k].chip = now->sightings[k].chip;
        }
        if (now != nullptr)
            after = *now;
    }
    return std::move(kept.change);
}

Result<void> MarkBook::undo_kept() {
    bool passed_over = false;
    while (auto kept = MarkHistory::newest(store_.database())) {
        const auto step = kept->step;
        if (const auto change = fitting(std::move(*kept))) {
            if (auto r =
                    apply(*change, false, [step](Database &db) { return MarkHistory::forget(db, step); });
                !r)
                return r;
            kept_steps_ = MarkHistory::count(store_.database());
            return {};
        }
        passed_over = true;
        if (!store_.forget(step))
            return store_.database().fault("written");
    }
    kept_steps_ = 0;
    if (!passed_over)
        return {};
    return fail(told("nothing of earlier sessions can be taken back: the marks were changed since by others"),
                told("all marks are as they were"), told("change them by hand"));
}

} // namespace heron
