// Words and glyphs for what things are, the same in every place.
#pragma once

#include "reading/kind.hpp"

#include <QString>
#include <string_view>

namespace heron::app {

/// "fish", "rock pile": the word for a family or kind. Translated.
QString wordFor(Family family);
QString wordFor(Kind kind);
/// The glyph of a mark: its kind within its family; hazards and what is not named show the family alone.
QString markGlyph(Family family, Kind kind);
/// The glyph of what was read: its kind alone, or that it is unsure.
QString contactGlyph(Family family, Kind kind);
/// The first letter large.
QString capital(QString words);

} // namespace heron::app
