// Why the places of contacts and marks are good, from the chart as it stands, and which meet a wish.
#pragma once

#include "bottom/spot_filter.hpp"
#include "chart/chart_maker.hpp"
#include "marks/mark_library.hpp"
#include "reading/contact_reader.hpp"

#include <QObject>
#include <QStringList>

namespace heron::app {

class Spots : public QObject {
    Q_OBJECT
  public:
    Spots(Session &session, ChartMaker &chart, ContactReader &reader, MarkLibrary &marks,
          QObject *parent = nullptr);

    /// Nothing where it has no place, or no chart reaches there.
    std::optional<SpotFacts> of(const Contact &contact);
    std::optional<SpotFacts> of(const Mark &mark);
    /// One line each, the strongest first; empty where nothing is known.
    QStringList words(const SpotFacts &facts) const;

    /// Whether what is wished is met; a mark or contact without a place or a chart meets only what can be
    /// told without them.
    bool meets(const SpotFilter &wish, const Contact &contact);
    bool meets(const SpotFilter &wish, const Mark &mark);
    /// Words of a wish that were not understood, as one sentence; empty when all were.
    static QString notUnderstood(const SpotFilter &wish);

  signals:
    void changed();

  private:
    void forget();
    const SpotGround *ground();
    const std::vector<SpotThing> &things();
    std::optional<EastNorth> onPlane(const GeoPoint &place) const;
    SpotThing thingOf(const Contact &contact, const EastNorth &at) const;

    Session &session_;
    ChartMaker &chart_;
    ContactReader &reader_;
    MarkLibrary &marks_;
    std::optional<SpotGround> ground_;
    std::optional<std::vector<SpotThing>> things_;
    std::map<std::string, SpotFacts> known_;
};

} // namespace heron::app
