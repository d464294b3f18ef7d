#include "marks/mark_book.hpp"

#include <algorithm>
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

Result<void> MarkBook::apply(const Change &change, bool forward) {
    const auto writes = writes_of(change, forward);
    if (auto r = store_.write(writes); !r)
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
    done_.push_back(std::move(change));
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
    std::erase_if(done_, [&](const Change &change) {
        return std::any_of(change.begin(), change.end(), [&](const Step &step) {
            return ids.contains(step.before ? step.before->id : step.after->id);
        });
    });
    return {};
}

Result<void> MarkBook::remember(Change change) {
    if (auto r = apply(change, true); !r)
        return r;
    done_.push_back(std::move(change));
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
        return {};
    if (auto r = apply(done_.back(), false); !r)
        return r;
    done_.pop_back();
    return {};
}

} // namespace heron
