#include "kit/theme.hpp"

#include <QFile>
#include <QFontDatabase>
#include <QFontMetrics>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QSettings>
#include <algorithm>
#include <vector>

namespace heron::app {

Theme &Theme::instance() {
    static Theme theme;
    return theme;
}

Theme::Theme() {
    for (const char *file : {":/fonts/B612-Regular.otf", ":/fonts/B612-Bold.otf",
                             ":/fonts/B612Mono-Regular.otf", ":/fonts/B612Mono-Bold.otf"}) {
        const int id = QFontDatabase::addApplicationFont(QString::fromLatin1(file));
        const auto families = QFontDatabase::applicationFontFamilies(id);
        if (families.isEmpty())
            continue;
        (QString::fromLatin1(file).contains(QLatin1String("Mono")) ? mono_family_ : family_) =
            families.first();
    }
    QFile file(QStringLiteral(":/tokens.json"));
    const bool opened = file.open(QIODevice::ReadOnly);
    const auto tokens = opened ? QJsonDocument::fromJson(file.readAll()).object() : QJsonObject();
    const std::pair<Light, const char *> lights[] = {
        {Light::mist, "mist"}, {Light::noon, "noon"}, {Light::dusk, "dusk"}};
    const auto themes = tokens[QLatin1String("themes")].toObject();
    for (const auto &[light, key] : lights) {
        const auto t = themes[QLatin1String(key)].toObject();
        Palette p;
        p.title = t[QLatin1String("title")].toString();
        p.map = t[QLatin1String("sonar_map")].toString();
        const auto colours = t[QLatin1String("colour")].toObject();
        for (auto it = colours.begin(); it != colours.end(); ++it)
            p.colour[it.key()] = QColor(it.value().toString());
        const auto on = t[QLatin1String("key_on")].toObject();
        p.colour[QStringLiteral("keyon")] = QColor(on[QLatin1String("fill")].toString());
        p.colour[QStringLiteral("keyontx")] = QColor(on[QLatin1String("text")].toString());
        p.key_line = t[QLatin1String("line_px")].toObject()[QLatin1String("key")].toDouble(1.5);
        p.bold_labels = t[QLatin1String("label_weight")].toString() == QLatin1String("bold");
        palettes_[light] = p;
    }
    const auto maps = tokens[QLatin1String("sonar_maps")].toObject();
    for (const char *name : {"Mere", "Slate", "Chalk", "Heather"}) {
        std::vector<Rgb> stops;
        for (const auto &stop : maps[QLatin1String(name)].toObject()[QLatin1String("stops")].toArray())
            if (const auto rgb = rgb_from_hex(stop.toString().toStdString()))
                stops.push_back(*rgb);
        if (stops.size() < 2)
            stops = {{0, 0, 0}, {255, 255, 255}};
        maps_.emplace(QString::fromLatin1(name), ColourMap(stops));
        map_names_ << QString::fromLatin1(name);
    }
    setLight(Light::mist);
}

QString Theme::lightTitle() const {
    return palettes_.at(light_).title;
}

void Theme::setLight(Light light) {
    light_ = light;
    key_line_ = palettes_.at(light).key_line;
    map_ = maps_.contains(palettes_.at(light).map) ? palettes_.at(light).map : map_names_.first();
    emit changed();
}

void Theme::nextLight() {
    setLight(light_ == Light::mist ? Light::noon : light_ == Light::noon ? Light::dusk : Light::mist);
}

void Theme::keepLight() {
    const auto key = QStringLiteral("light");
    setLight(static_cast<Light>(std::clamp(QSettings().value(key, 0).toInt(), 0, 2)));
    connect(this, &Theme::changed, this,
            [this, key] { QSettings().setValue(key, static_cast<int>(light())); });
}

QString Theme::scrollBarStyle() const {
    return QStringLiteral(
               "QScrollBar:vertical { background: %1; width: 14px; margin: 0; } QScrollBar:horizontal { "
               "background: %1; height: 14px; margin: 0; } QScrollBar::handle { background: %2; "
               "border-radius: 3px; margin: 2px; min-height: 44px; min-width: 44px; } QScrollBar::add-line, "
               "QScrollBar::sub-line { width: 0; height: 0; } QScrollBar::add-page, QScrollBar::sub-page { "
               "background: none; }")
        .arg(colour("sunk").name(), colour("mute").name());
}

QColor Theme::colour(const char *meaning) const {
    const auto &colours = palettes_.at(light_).colour;
    const auto at = colours.find(QString::fromLatin1(meaning));
    Q_ASSERT_X(at != colours.end(), "Theme::colour", meaning);
    return at != colours.end() ? at->second : QColor(Qt::magenta);
}

QFont Theme::font(int px, bool bold) const {
    QFont f(family_);
    f.setPixelSize(px);
    f.setBold(bold || palettes_.at(light_).bold_labels);
    return f;
}

QFont Theme::fontFor(const QString &words, double room, int px, bool bold, int least) const {
    auto f = font(px, bold);
    while (px > least && QFontMetrics(f).horizontalAdvance(words) > room)
        f = font(--px, bold);
    return f;
}

QFont Theme::mono(int px) const {
    QFont f(mono_family_);
    f.setPixelSize(px);
    return f;
}

void Theme::setMap(const QString &name) {
    if (!maps_.contains(name))
        return;
    map_ = name;
    emit changed();
}

void Theme::nextMap(int step) {
    const auto n = map_names_.size();
    setMap(map_names_[(map_names_.indexOf(map_) + step + n) % n]);
}

} // namespace heron::app
