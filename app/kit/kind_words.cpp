#include "kit/kind_words.hpp"

#include <QCoreApplication>

namespace heron::app {
namespace {

QString named(std::string_view name) {
    return QString::fromUtf8(name.data(), static_cast<qsizetype>(name.size()));
}

QString worded(std::string_view name) {
    const auto plain = named(name).replace(QLatin1Char('_'), QLatin1Char(' '));
    return QCoreApplication::translate("Kinds", plain.toUtf8().constData());
}

} // namespace

QString wordFor(Family family) {
    return worded(name_of(family));
}

QString wordFor(Kind kind) {
    return worded(name_of(kind));
}

QString markGlyph(Family family, Kind kind) {
    return family == Family::hazard || kind == Kind::none ? QStringLiteral("family-") + named(name_of(family))
                                                          : QStringLiteral("mark-") + named(name_of(kind));
}

QString contactGlyph(Family family, Kind kind) {
    if (family == Family::unsure)
        return QStringLiteral("family-unsure");
    return kind == Kind::none ? QString() : QStringLiteral("kind-") + named(name_of(kind));
}

QString capital(QString words) {
    if (!words.isEmpty())
        words[0] = words[0].toUpper();
    return words;
}

} // namespace heron::app
