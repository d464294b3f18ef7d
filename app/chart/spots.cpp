#include "chart/spots.hpp"

#include "kit/kind_words.hpp"

#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

SpotMatter matterOf(Family family, Kind kind) {
    switch (kind) {
    case Kind::boulder:
    case Kind::rock_pile:
        return SpotMatter::stone;
    case Kind::stump:
    case Kind::log:
    case Kind::tree:
    case Kind::brush:
        return SpotMatter::wood;
    case Kind::weeds:
        return SpotMatter::weeds;
    case Kind::built:
        return SpotMatter::built;
    default:
        return family == Family::fish ? SpotMatter::fish : SpotMatter::other;
    }
}

constexpr double real_enough = 0.5, same_m = 2.5;

} // namespace

Spots::Spots(Session &session, ChartMaker &chart, ContactReader &reader, MarkLibrary &marks, QObject *parent)
    : QObject(parent), session_(session), chart_(chart), reader_(reader), marks_(marks) {
    const auto anew = [this] {
        forget();
        emit changed();
    };
    connect(&chart, &ChartMaker::begun, this, anew);
    connect(&chart, &ChartMaker::sheetChanged, this, anew);
    connect(&reader, &ContactReader::contactsChanged, this, [this, anew] {
        things_.reset();
        known_.clear();
        emit changed();
    });
    connect(&marks, &MarkLibrary::marksChanged, this, [this] {
        known_.clear();
        emit changed();
    });
}

void Spots::forget() {
    ground_.reset();
    things_.reset();
    known_.clear();
}

const SpotGround *Spots::ground() {
    const auto &sheet = chart_.sheet();
    if (!sheet)
        return nullptr;
    if (!ground_)
        ground_.emplace(sheet->hardness, sheet->transitions, sheet->depth, sheet->forms);
    return &*ground_;
}

std::optional<EastNorth> Spots::onPlane(const GeoPoint &place) const {
    const auto &zone = chart_.zone();
    if (!zone)
        return std::nullopt;
    const auto at = to_utm(*zone, place);
    return EastNorth{at.east_m, at.north_m};
}

SpotThing Spots::thingOf(const Contact &c, const EastNorth &at) const {
    SpotThing t;
    t.id = "contact " + std::to_string(c.time) + " " + std::to_string(c.row) + name_of(c.side).data();
    t.matter = matterOf(c.family, c.kind);
    t.at = at;
    if (c.height_m)
        t.height_m = c.height_m->value;
    t.length_m = c.length_m;
    return t;
}

const std::vector<SpotThing> &Spots::things() {
    if (!things_) {
        things_.emplace();
        for (const auto &c : reader_.contacts())
            if (c.place && c.confidence >= real_enough && c.family != Family::fish)
                if (const auto at = onPlane(c.place->place))
                    things_->push_back(thingOf(c, *at));
    }
    return *things_;
}

std::optional<SpotFacts> Spots::of(const Contact &c) {
    const auto *g = ground();
    const auto at = g != nullptr && c.place ? onPlane(c.place->place) : std::nullopt;
    if (!at)
        return std::nullopt;
    const auto thing = thingOf(c, *at);
    const auto known = known_.find(thing.id);
    if (known != known_.end())
        return known->second;
    return known_[thing.id] = g->facts_of(thing, things());
}

// The contact that a mark was made of is the mark itself, not its neighbour.
std::optional<SpotFacts> Spots::of(const Mark &m) {
    const auto *g = ground();
    const auto at = g != nullptr && m.place ? onPlane(*m.place) : std::nullopt;
    if (!at)
        return std::nullopt;
    if (const auto known = known_.find(m.id); known != known_.end())
        return known->second;
    SpotThing thing{m.id, matterOf(m.family, m.kind), *at, std::nullopt, std::nullopt};
    if (m.height_m)
        thing.height_m = m.height_m->value;
    auto others = things();
    const auto away = [&](const SpotThing &t) {
        return std::hypot(t.at.east_m - at->east_m, t.at.north_m - at->north_m);
    };
    const auto own = std::min_element(others.begin(), others.end(),
                                      [&](const auto &a, const auto &b) { return away(a) < away(b); });
    if (own != others.end() && away(*own) < same_m)
        others.erase(own);
    // Other marks, where nothing that was read lies.
    for (const auto &o : marks_.all())
        if (const auto there =
                o.id != m.id && o.place && o.family != Family::fish ? onPlane(*o.place) : std::nullopt;
            there && std::hypot(there->east_m - at->east_m, there->north_m - at->north_m) > same_m &&
            std::none_of(others.begin(), others.end(), [&](const SpotThing &t) {
                return std::hypot(t.at.east_m - there->east_m, t.at.north_m - there->north_m) < same_m;
            }))
            others.push_back({o.id, matterOf(o.family, o.kind), *there,
                              o.height_m ? std::optional(o.height_m->value) : std::nullopt, std::nullopt});
    return known_[m.id] = g->facts_of(thing, others);
}

QStringList Spots::words(const SpotFacts &f) const {
    QStringList lines;
    const auto units = session_.preferences.units();
    const auto length = [&](double m) {
        return QString::fromStdString(print_length(m, units, m < 3 ? 1 : 0).text());
    };
    constexpr double near_m = 15, drop_near_m = 30, deep_near_m = 60, hard_from = 0.5;
    if (f.in_weed_opening)
        lines << tr("in an opening of the weeds");
    else if (f.on_weed_point)
        lines << tr("on a point of the weeds");
    else if (f.on_weed_edge)
        lines << tr("on the edge of the weeds");
    if (f.on_lane)
        lines << tr("on a sunken lane");
    if (f.in_ripples)
        lines << tr("among ripples of sand");
    if (f.in_beds)
        lines << tr("among spawning beds");
    if (f.to_transition_m && *f.to_transition_m <= near_m)
        lines << (*f.to_transition_m < 1 ? tr("on a transition")
                                         : tr("%1 off a transition").arg(length(*f.to_transition_m)));
    if (f.to_drop_m && *f.to_drop_m <= drop_near_m)
        lines << tr("%1 from a drop of %2").arg(length(*f.to_drop_m), length(f.drop_m.value_or(0)));
    if (f.to_deep_m && *f.to_deep_m <= deep_near_m)
        lines << tr("%1 from water %2 deeper").arg(length(*f.to_deep_m), length(f.deep_by_m.value_or(0)));
    if (f.wood_with_stone)
        lines << tr("wood and stone together");
    if (f.lone())
        lines << (f.to_next_m ? tr("alone: nothing else within %1").arg(length(*f.to_next_m))
                              : tr("alone: nothing else was read about it"));
    else if (f.bigger)
        lines << (f.neighbours == 1 ? tr("bigger than its neighbour")
                                    : tr("bigger than its %1 neighbours").arg(f.neighbours));
    else
        lines << tr("%1 more within %2").arg(f.neighbours).arg(length(SpotGround::about_m));
    if (f.hardness)
        lines << (*f.hardness >= hard_from ? tr("on hard ground (%1)") : tr("on soft ground (%1)"))
                     .arg(QString::fromLatin1(name_of(f.ground).data()));
    return lines;
}

bool Spots::meets(const SpotFilter &wish, const Contact &c) {
    const auto facts = of(c);
    auto words = wordFor(c.kind == Kind::none ? Kind::none : c.kind) + QLatin1Char(' ') + wordFor(c.family);
    SpotThing thing = thingOf(c, {});
    return heron::meets(wish, thing, facts.value_or(SpotFacts{}),
                        c.depth_m > 0 ? std::optional(c.depth_m) : std::nullopt,
                        words.toLower().toStdString());
}

bool Spots::meets(const SpotFilter &wish, const Mark &m) {
    const auto facts = of(m);
    const auto words = (wordFor(m.kind) + QLatin1Char(' ') + wordFor(m.family) + QLatin1Char(' ') +
                        QString::fromStdString(m.name) + QLatin1Char(' ') + QString::fromStdString(m.note))
                           .toLower();
    SpotThing thing{m.id, matterOf(m.family, m.kind), {}, std::nullopt, std::nullopt};
    if (m.height_m)
        thing.height_m = m.height_m->value;
    return heron::meets(wish, thing, facts.value_or(SpotFacts{}),
                        m.depth_m ? std::optional(m.depth_m->value) : std::nullopt, words.toStdString());
}

QString Spots::notUnderstood(const SpotFilter &wish) {
    QStringList words;
    for (const auto &w : wish.not_understood)
        words << QString::fromStdString(w);
    return words.isEmpty() ? QString() : tr("Not understood: %1").arg(words.join(QStringLiteral(", ")));
}

} // namespace heron::app
