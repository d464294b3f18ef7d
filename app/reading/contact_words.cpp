#include "reading/contact_words.hpp"

#include "kit/kind_words.hpp"
#include "session/free_words.hpp"

#include <cmath>

namespace heron::app {
namespace {

QString length(double metres, UnitSystem units, int decimals = 1) {
    return QString::fromStdString(print_length(metres, units, decimals).text());
}

QString doubt(double sd, UnitSystem units) {
    return tr("± %1").arg(QString::fromStdString(print_doubt(sd, units)));
}

QString sideWord(const Contact &c) {
    return c.side == Side::port ? tr("left") : c.side == Side::around ? tr("off") : tr("right");
}

} // namespace

QString contactTitle(const Contact &c) {
    if (c.family == Family::unsure)
        return tr("not sure");
    return c.kind_sure ? wordFor(c.kind) : tr("%1, kind not sure").arg(wordFor(c.family));
}

QString inHundred(double chance) {
    return tr("%1 in 100").arg(std::lround(100 * chance));
}

QString contactWhere(const Contact &c, UnitSystem units, int decimals) {
    if (c.zone == Zone::track)
        return tr("under the boat");
    return tr("%1 %2").arg(length(c.ground_m.value, units, decimals), sideWord(c));
}

std::vector<ContactFact> contactFacts(const Contact &c, UnitSystem units) {
    std::vector<ContactFact> facts;
    if (c.height_m)
        facts.push_back(
            {c.placement == Placement::suspended ? tr("Off the bottom")
             : c.height_m->value < 0             ? tr("Hollow")
                                                 : tr("Height"),
             (c.height_at_least ? tr("at least ") : QString()) + length(std::fabs(c.height_m->value), units),
             doubt(c.height_m->sd, units)});
    if (c.zone != Zone::track)
        facts.push_back({tr("Aside"), length(c.ground_m.value, units),
                         tr("%1 %2").arg(doubt(c.ground_m.sd, units), sideWord(c))});
    facts.push_back({tr("Depth there"), length(c.depth_m, units), QString()});
    return facts;
}

namespace {

ContactFact heightFact(const Contact &c, const HandMeasure &hand, UnitSystem units) {
    const bool by_hand = hand.moved && hand.measured;
    const auto height = by_hand ? std::optional(hand.measured->shadow.height_m) : c.height_m;
    if (!height)
        return {tr("Height"), QStringLiteral("–"), tr("no shadow to tell it")};
    return {c.placement == Placement::suspended ? tr("Off the bottom")
            : height->value < 0                 ? tr("Hollow")
                                                : tr("Height"),
            (c.height_at_least && !by_hand ? QStringLiteral("≥") : QString()) +
                length(std::fabs(height->value), units),
            tr("± %1").arg(length(height->sd, units))};
}

ContactFact asideFact(const Contact &c, const HandMeasure &hand, UnitSystem units) {
    if (c.zone == Zone::track)
        return {tr("Seen along it"), c.length_m ? length(*c.length_m, units) : QStringLiteral("–"),
                c.looks > 1 ? tr("in %1 crossings").arg(c.looks) : tr("crossed once")};
    const auto ground = hand.moved && hand.measured ? hand.measured->ground_m : c.ground_m;
    return {tr("Over ground"), length(ground.value, units), tr("± %1").arg(length(ground.sd, units))};
}

ContactFact sizeFact(const Contact &c, bool straight, UnitSystem units) {
    if (c.zone == Zone::track)
        return {c.kind == Kind::channel ? tr("Bank to bank")
                : c.falls_m > 0         ? tr("It falls within")
                                        : tr("It rises within"),
                length(c.along_m, units), tr("along the track")};
    const bool told = straight && c.length_m;
    return {c.family == Family::fish && c.kind == Kind::fish ? tr("No longer than") : tr("Across"),
            told ? length(*c.length_m, units) : QStringLiteral("–"),
            !told       ? tr("not measured here")
            : c.width_m ? tr("by %1").arg(length(*c.width_m, units))
                        : QString()};
}

ContactFact depthFact(const Contact &c, UnitSystem units) {
    return {c.kind == Kind::ledge && c.zone == Zone::track ? tr("Depth half-way")
            : c.height_m && c.height_m->value < 0          ? tr("Depth in it")
                                                           : tr("Depth there"),
            length(c.depth_m, units),
            c.place ? tr("place ± %1").arg(length(c.position_sd_m(), units)) : tr("no place")};
}

QString whySo(const Contact &c, const HandMeasure &hand, UnitSystem units) {
    if (!hand.measured || !hand.handles)
        return c.zone == Zone::water
                   ? tr("before the first return one echo tells no side distance: three quarters "
                        "of its range is the likeliest")
               : c.zone == Zone::track ? tr("the boat ran over it: the depths under its track tell it")
                                       : tr("no shadow: its distance follows from the bottom there");
    const auto number = [&](double v) { return QString::fromStdString(print_length(v, units, 1).figure); };
    const auto depth = number(c.bottom.altitude_m), top = number(hand.handles->top_m),
               end = number(hand.handles->end_m), high = length(hand.measured->shadow.height_m.value, units);
    // Where other tracks tell a bend it is not the formula of a plane.
    if (!c.bottom.off.empty())
        return tr("the ray over %1 to %2 drawn onto the bottom that other tracks sounded = %3")
            .arg(top, end, high);
    if (c.looks > 1 && !hand.moved)
        return tr("this pass alone: %1 × (%2 − %3) ÷ %2 = %4; above, all passes together")
            .arg(depth, end, top, high);
    return tr("%1 × (%2 − %3) ÷ %2 = %4, true on any even slope").arg(depth, end, top, high);
}

} // namespace

ContactSheet contactSheet(const Contact &c, const RowFacts &row, const HandMeasure &hand, UnitSystem units) {
    // Across the ray it is the head that turns, not the boat that runs.
    const bool straight = c.side == Side::around || strike_of(row, {}) == Strike::none;
    ContactSheet sheet;
    sheet.title = capital(contactTitle(c)) + (c.placement == Placement::suspended   ? tr(", off the bottom")
                                              : c.placement == Placement::on_bottom ? tr(", on the bottom")
                                                                                    : QString());
    sheet.seen =
        tr("%1 UTC · %2 · ping %3 · %4")
            .arg(QString::fromStdString(print_rfc3339(c.time, 0)).mid(11, 8),
                 c.zone == Zone::track    ? tr("under the boat")
                 : c.side == Side::port   ? tr("left side")
                 : c.side == Side::around ? tr("circle at the bow")
                                          : tr("right side"))
            .arg(c.row)
            .arg(c.side == Side::around ? c.looks > 1 ? tr("in %1 turns").arg(c.looks) : tr("in one turn")
                 : std::isnan(row.speed_m_s) ? tr("speed not known: no lengths")
                 : straight                  ? tr("ran straight")
                                             : tr("not straight and steady: no lengths"));
    sheet.figures = {heightFact(c, hand, units), asideFact(c, hand, units), sizeFact(c, straight, units),
                     depthFact(c, units)};
    sheet.why = whySo(c, hand, units);
    return sheet;
}

} // namespace heron::app
