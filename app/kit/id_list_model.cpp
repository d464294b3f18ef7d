#include "kit/id_list_model.hpp"

#include <QHash>
#include <algorithm>

namespace heron::app {

void IdListModel::setIds(std::vector<QString> ids) {
    QHash<QString, int> wanted;
    for (std::size_t n = 0; n < ids.size(); ++n)
        wanted.insert(ids[n], static_cast<int>(n));
    removeOthers(wanted);
    orderBy(wanted);
    // What is left is in the order of what is wanted: the rest comes in between, run by run.
    for (std::size_t n = 0; n < ids.size();) {
        auto end = n;
        while (end < ids.size() && (n >= ids_.size() || ids_[n] != ids[end]))
            ++end;
        if (end > n) {
            beginInsertRows({}, static_cast<int>(n), static_cast<int>(end) - 1);
            ids_.insert(ids_.begin() + static_cast<std::ptrdiff_t>(n),
                        ids.begin() + static_cast<std::ptrdiff_t>(n),
                        ids.begin() + static_cast<std::ptrdiff_t>(end));
            endInsertRows();
        }
        n = std::max(end, n + 1);
    }
    if (!ids_.empty())
        emit dataChanged(index(0), index(rowCount() - 1));
}

void IdListModel::removeOthers(const QHash<QString, int> &wanted) {
    for (auto last = ids_.size(); last > 0;) {
        auto first = last;
        while (first > 0 && !wanted.contains(ids_[first - 1]))
            --first;
        if (first < last) {
            beginRemoveRows({}, static_cast<int>(first), static_cast<int>(last) - 1);
            ids_.erase(ids_.begin() + static_cast<std::ptrdiff_t>(first),
                       ids_.begin() + static_cast<std::ptrdiff_t>(last));
            endRemoveRows();
        }
        last = first > 0 ? first - 1 : 0;
    }
}

void IdListModel::orderBy(const QHash<QString, int> &wanted) {
    const auto before = [&wanted](const QString &a, const QString &b) { return wanted[a] < wanted[b]; };
    if (std::is_sorted(ids_.begin(), ids_.end(), before))
        return;
    emit layoutAboutToBeChanged({}, QAbstractItemModel::VerticalSortHint);
    const auto old = ids_;
    std::sort(ids_.begin(), ids_.end(), before);
    for (const auto &index : persistentIndexList())
        changePersistentIndex(index, this->index(rowOf(old[static_cast<std::size_t>(index.row())])));
    emit layoutChanged({}, QAbstractItemModel::VerticalSortHint);
}

} // namespace heron::app
