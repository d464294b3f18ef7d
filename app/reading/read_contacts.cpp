#include "reading/read_contacts.hpp"

#include <algorithm>

namespace heron::app {

const Contact *ReadContacts::find(int id) const {
    const auto at = std::find(ids_.begin(), ids_.end(), id);
    return id == 0 || at == ids_.end() ? nullptr : &contacts_[static_cast<std::size_t>(at - ids_.begin())];
}

void ReadContacts::take(std::vector<Contact> contacts, std::vector<int> ids) {
    contacts_ = std::move(contacts);
    ids_ = std::move(ids);
    for (auto &id : ids_)
        if (id == 0)
            id = next_id_++;
    emit contactsChanged();
}

} // namespace heron::app
