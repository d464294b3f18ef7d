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

void MarkGroups::arrange() {
    std::vector<QString> ids;
    heads_.clear();
    const auto &all = marks_.all();
    for (const auto family :
         {Family::structure, Family::fish, Family::bottom, Family::hazard, Family::unsure}) {
        std::vector<QString> group;
        for (auto m = all.rbegin(); m != all.rend(); ++m)
            if (m->family == family)
                group.push_back(QString::fromStdString(m->id));
        if (group.empty())
            continue;
        // No mark's id begins so.
        const auto head = QStringLiteral("head/%1").arg(static_cast<int>(family));
        heads_[head] = tr("%1  %2").arg(capital(wordFor(family))).arg(group.size());
        ids.push_back(head);
        ids.insert(ids.end(), group.begin(), group.end());
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
