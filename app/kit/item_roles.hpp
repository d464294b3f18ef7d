// What a list shows of an item, asked of its model by role.
#pragma once

#include <Qt>

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

} // namespace heron::app
