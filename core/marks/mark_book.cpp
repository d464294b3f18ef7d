#include "marks/mark_book.hpp"

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

Result<void> MarkBook::apply(const Change &change, bool forward) {
    std::vector<Mark> saved;
    for (const auto &step : change)
        if (const auto &to = forward ? step.after : step.before)
            saved.push_back(*to);
    std::vector<MarkStore *> stores;
    if (companion_)
        stores.push_back(&*companion_);
    stores.push_back(&store_);
    for (auto *store : stores) {
        if (!saved.empty())
            if (auto r = store->save(saved); !r)
                return r;
        for (const auto &step : change) {
            const auto &from = forward ? step.before : step.after;
            const auto &to = forward ? step.after : step.before;
            if (!to && from)
                if (auto r = store->remove(from->id); !r)
                    return r;
        }
    }
    std::unordered_set<std::string> gone;
    for (const auto &step : change) {
        const auto &from = forward ? step.before : step.after;
        const auto &to = forward ? step.after : step.before;
        const auto &id = to ? to->id : from->id;
        const auto at = index_.find(id);
        if (!to) {
            gone.insert(id);
        } else if (at != index_.end()) {
            marks_[at->second] = *to;
        } else {
            index_[id] = marks_.size();
            marks_.push_back(*to);
        }
    }
    if (!gone.empty()) {
        std::erase_if(marks_, [&](const Mark &m) { return gone.contains(m.id); });
        index_marks();
    }
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
    Change change;
    for (const auto &m : marks) {
        const auto *old = find(m.id);
        change.push_back({old != nullptr ? std::optional(*old) : std::nullopt, m});
    }
    return remember(std::move(change));
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

Result<void> MarkBook::undo() {
    if (done_.empty())
        return {};
    if (auto r = apply(done_.back(), false); !r)
        return r;
    done_.pop_back();
    return {};
}

} // namespace heron
