// A place: a page of the window with a name, a glyph, a key, and a way to make it.
#pragma once

#include "parts/view_context.hpp"

#include <QKeySequence>
#include <QString>
#include <QWidget>
#include <functional>
#include <vector>

namespace heron::app {

/// The ids of the places, in the order of work; then the pages that are no places of the rail.
namespace place {
inline constexpr QLatin1String prepare("prepare"), scan("scan"), read("read"), around("around"),
    chart("chart"), marks("marks"), log("log"), practice("practice");
inline constexpr QLatin1String connections("connections"), trips("trips"), screen("screen"),
    handbook("handbook");
} // namespace place

struct Place {
    QString id;
    QString title;
    QString glyph; ///< of data/glyphs
    QKeySequence key;
    bool on_rail = true;
    std::function<QWidget *(ViewContext &, QWidget *parent)> make;
};
using Places = std::vector<Place>;

} // namespace heron::app
