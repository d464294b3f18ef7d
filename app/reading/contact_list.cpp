#include "reading/contact_list.hpp"

#include "kit/kind_words.hpp"
#include "reading/contact_words.hpp"

#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

/// What the order goes by, the largest first.
double rank(ContactList::Order order, const Contact &c, std::size_t along) {
    switch (order) {
    case ContactList::Order::track:
        return static_cast<double>(along);
    case ContactList::Order::doubt:
        return -std::fabs(c.confidence - 0.5);
    case ContactList::Order::height:
        return c.height_m ? c.height_m->value : 0;
    case ContactList::Order::aside:
        return -c.ground_m.value;
    case ContactList::Order::depth:
        return c.depth_m;
    }
    return 0;
}

} // namespace

ContactList::ContactList(Session &session, ReadContacts &read, QObject *parent)
    : IdListModel(parent), session_(session), read_(&read) {
    connect(read_, &ReadContacts::contactsChanged, this, &ContactList::arrange);
    connect(&session_.preferences, &Preferences::unitsChanged, this, &ContactList::arrange);
    arrange();
}

void ContactList::setRead(ReadContacts &read) {
    disconnect(read_, &ReadContacts::contactsChanged, this, nullptr);
    setIds({}); // ids of two streams say nothing of each other
    read_ = &read;
    connect(read_, &ReadContacts::contactsChanged, this, &ContactList::arrange);
    arrange();
}

void ContactList::setOrder(Order order) {
    order_ = order;
    arrange();
}

void ContactList::setOnly(std::optional<Family> family) {
    only_ = family;
    arrange();
}

void ContactList::arrange() {
    struct Placed {
        double rank;
        int id;
    };
    std::vector<Placed> all;
    const auto &contacts = read_->contacts();
    for (std::size_t i = 0; i < contacts.size(); ++i) {
        const auto &c = contacts[i];
        if (!only_ || c.family == *only_ || (c.family == Family::unsure && *only_ == Family::structure))
            all.push_back({rank(order_, c, i), read_->idOf(i)});
    }
    std::stable_sort(all.begin(), all.end(),
                     [](const Placed &a, const Placed &b) { return a.rank > b.rank; });
    std::vector<QString> ids;
    ids.reserve(all.size());
    for (const auto &p : all)
        ids.push_back(idOf(p.id));
    setIds(std::move(ids));
}

std::vector<const Contact *> ContactList::contacts() const {
    std::vector<const Contact *> all;
    for (const auto &id : ids())
        if (const auto *c = find(id))
            all.push_back(c);
    return all;
}

QVariant ContactList::dataOf(const QString &id, int role) const {
    const auto *c = find(id);
    if (c == nullptr)
        return {};
    const auto units = session_.preferences.units();
    switch (role) {
    case id_role:
        return id;
    case Qt::DisplayRole:
        return c->zone == Zone::track ? tr("under") : contactWhere(*c, units);
    case glyph_role:
        return contactGlyph(c->family, c->kind);
    case doubt_role:
        return c->confidence;
    case Qt::AccessibleTextRole:
        return tr("%1, %2, %3").arg(contactTitle(*c), contactWhere(*c, units), inHundred(c->confidence));
    default:
        return {};
    }
}

} // namespace heron::app
