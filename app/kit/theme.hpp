// Colours, type and sonar maps by their meaning, read from data/tokens.json. Code asks for `accent`, never
// for a value.
#pragma once

#include "picture/colour_map.hpp"

#include <QColor>
#include <QFont>
#include <QObject>
#include <QPainter>
#include <QString>
#include <QStringList>
#include <algorithm>
#include <map>

namespace heron::app {

enum class Light { mist, noon, dusk };

class Theme : public QObject {
    Q_OBJECT
  public:
    /// The one theme of the program.
    static Theme &instance();

    Light light() const { return light_; }
    QString lightTitle() const;
    void setLight(Light light);
    void nextLight();
    /// The light as it was at the last start; kept from now on.
    void keepLight();
    /// Scroll bars in the colours of the light, for a widget's style sheet.
    QString scrollBarStyle() const;

    /// A colour by its meaning: page, ink, ink2, line, hair, slate, slatetx, reed, water, bed, accent,
    /// onaccent, paper, casing, pick, sunk, lift, mute, bedln, keyon, keyontx.
    QColor colour(const char *meaning) const;
    double keyLine() const { return key_line_; }
    bool primaryFilled() const { return light_ != Light::dusk; }

    /// B612 at a pixel size of the scale; labels are bold in Noon.
    QFont font(int px, bool bold = false) const;
    /// The largest up to `px`, and no smaller than `least`, at which the words fit a width.
    QFont fontFor(const QString &words, double room, int px, bool bold = false, int least = 9) const;
    QFont mono(int px) const;

    QStringList mapNames() const { return map_names_; }
    QString mapName() const { return map_; }
    void setMap(const QString &name);
    void nextMap(int step);
    const ColourMap &map() const { return maps_.at(map_); }

  signals:
    void changed();

  private:
    Theme();
    struct Palette {
        QString title, map;
        std::map<QString, QColor> colour;
        double key_line = 1.5;
        bool bold_labels = false;
    };
    std::map<Light, Palette> palettes_;
    std::map<QString, ColourMap> maps_;
    QStringList map_names_;
    QString map_, family_, mono_family_;
    Light light_ = Light::mist;
    double key_line_ = 1.5;
};

inline QColor colour(const char *meaning) {
    return Theme::instance().colour(meaning);
}

/// What most views write with: text(x, y of the baseline, words, pixels, bold, ink); returns how wide it is.
inline auto wordsOn(QPainter &p) {
    return [&p](double x, double y, const QString &words, int px, bool bold, const char *ink) -> double {
        p.setFont(Theme::instance().font(px, bold));
        p.setPen(colour(ink));
        p.drawText(QPointF(x, y), words);
        return p.fontMetrics().horizontalAdvance(words);
    };
}

/// The same in a room: smaller where they would not fit, and only then with an ellipsis.
inline double wordsWithin(QPainter &p, double x, double y, const QString &words, double room, int px,
                          bool bold, const char *ink) {
    p.setFont(Theme::instance().fontFor(words, room, px, bold));
    p.setPen(colour(ink));
    const auto shown = p.fontMetrics().elidedText(words, Qt::ElideRight, std::max(0, static_cast<int>(room)));
    p.drawText(QPointF(x, y), shown);
    return p.fontMetrics().horizontalAdvance(shown);
}

} // namespace heron::app
