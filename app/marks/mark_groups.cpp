#include "marks/mark_groups.hpp"

#include "kit/kind_words.hpp"

#include <algorithm>
#include <cmath>

namespace heron::app {

MarkGroups::MarkGroups(Session &session, MarkLibrary &marks, QObject *parent)
    : IdListModel(parent), session_(session), marks_(marks) {
    connect(&marks_, &MarkLibrary::marksChanged, this, &MarkGroups::arrange);
    connect(&session_.preferences, &Preferences::unitsChanged, this, &MarkGroups::arrange);
    arrange();
}

void MarkGroups::setBy(By by) {
    by_ = by;
    arrange();
}

void MarkGroups::setWanted(std::function<bool(const Mark &)> wanted) {
    wanted_ = std::move(wanted);
    arrange();
}

QString MarkGroups::groupOf(const Mark &m) const {
    switch (by_) {
    case By::kind:
        return capital(m.kind == Kind::none ? wordFor(m.family) : wordFor(m.kind));
    case By::lake:
        return m.lake.empty() ? tr("No water told") : QString::fromStdString(m.lake);
    case By::month:
        return m.time == 0 ? tr("No time told") : QString::fromStdString(print_rfc3339(m.time, 0)).left(7);
    case By::outcome: {
        const auto best = std::max_element(m.outcomes.begin(), m.outcomes.end(),
                                           [](const auto &a, const auto &b) { return a.what < b.what; });
        if (best == m.outcomes.end())
            return tr("Not visited yet");
        return best->what == Outcome::What::landed   ? tr("Fish landed")
               : best->what == Outcome::What::bite   ? tr("Bites")
               : best->what == Outcome::What::fished ? tr("Fished, no bite")
                                                     : tr("Looked at");
    }
    case By::family:
        break;
    }
    return capital(wordFor(m.family));
}

// Groups stand in the order in which the first of each family does, else by their words; of months the newest
// first.
void MarkGroups::arrange() {
    std::vector<QString> ids;
    heads_.clear();
    shown_ = 0;
    const auto &all = marks_.all();
    std::map<QString, std::vector<QString>> groups;
    std::vector<QString> order;
    if (by_ == By::family)
        for (const auto family :
             {Family::structure, Family::fish, Family::bottom, Family::hazard, Family::unsure})
            order.push_back(capital(wordFor(family)));
    for (auto m = all.rbegin(); m != all.rend(); ++m) {
        if (wanted_ && !wanted_(*m))
            continue;
        ++shown_;
        groups[groupOf(*m)].push_back(QString::fromStdString(m->id));
    }
    if (by_ != By::family) {
        for (const auto &[title, group] : groups)
            order.push_back(title);
        if (by_ == By::month)
            std::reverse(order.begin(), order.end());
    }
    int n = 0;
    for (const auto &title : order) {
        const auto group = groups.find(title);
        if (group == groups.end())
            continue;
        // No mark's id begins so.
        const auto head = QStringLiteral("head/%1").arg(n++);
        heads_[head] = tr("%1  %2").arg(title).arg(group->second.size());
        ids.push_back(head);
        ids.insert(ids.end(), group->second.begin(), group->second.end());
    }
    setIds(std::move(ids));
}

QString MarkGroups::subtitle(const Mark &m) const {
    const auto units = session_.preferences.units();
    const auto length = [units](double metres) {
        return QString::fromStdString(print_length(metres, units).text());
    };
    QStringList parts;
    if (m.depth_m)
        parts << length(m.depth_m->value);
    if (m.height_m)
        parts << (m.height_m->value < 0 ? tr("%1%2 hollow") : tr("%1%2 tall"))
                     .arg(m.height_at_least ? QStringLiteral("≥ ") : QString(),
                          length(std::fabs(m.height_m->value)));
    if (!m.place)
        parts << tr("no place");
    return parts.join(QStringLiteral(" · "));
}

QVariant MarkGroups::dataOf(const QString &id, int role) const {
    if (role == id_role)
        return id;
    if (const auto head = heads_.find(id); head != heads_.end())
        return role == header_role       ? QVariant(true)
               : role == Qt::DisplayRole ? QVariant(head->second)
                                         : QVariant();
    const auto *m = marks_.find(id);
    if (m == nullptr)
        return {};
    switch (role) {
    case Qt::DisplayRole:
        return capital(QString::fromStdString(plain_name(*m)));
    case subtitle_role:
        return subtitle(*m);
    case glyph_role:
        return markGlyph(m->family, m->kind);
    case Qt::AccessibleTextRole:
        return tr("%1, %2").arg(QString::fromStdString(plain_name(*m)), subtitle(*m));
    default:
        return {};
    }
}

} // namespace heron::app
