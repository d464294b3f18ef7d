// What a list shows of an item, asked of its model by role; and how a model tells which rows changed.
#pragma once

#include <Qt>
#include <algorithm>
#include <cstddef>
#include <vector>

namespace heron::app {

/// Qt::DisplayRole is the title.
enum ItemRole {
    id_role = Qt::UserRole + 1, ///< QString; stays with the item whatever happens to its row
    glyph_role,                 ///< QString, of data/glyphs
    subtitle_role,              ///< QString, under the title
    detail_role,                ///< QString, at the right of a row
    doubt_role,                 ///< double 0 to 1: drawn as one plain bar
    alarm_role,                 ///< bool: the subtitle tells what is wrong
    header_role,                ///< bool: the head of a group, not to be chosen
};

/// What lies between the rows that two lists of ids share at their beginning and at their end.
struct RowChange {
    int first = 0, removed = 0, inserted = 0;
};
template <class Id>
RowChange rowChange(const std::vector<Id> &before, const std::vector<Id> &after) {
    const auto shorter = std::min(before.size(), after.size());
    std::size_t head = 0, tail = 0;
    while (head < shorter && before[head] == after[head])
        ++head;
    while (tail < shorter - head && before[before.size() - 1 - tail] == after[after.size() - 1 - tail])
        ++tail;
    return {static_cast<int>(head), static_cast<int>(before.size() - head - tail),
            static_cast<int>(after.size() - head - tail)};
}

} // namespace heron::app
