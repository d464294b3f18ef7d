// What was read, as a list: filtered by family, in the order chosen.
#pragma once

#include "kit/id_list_model.hpp"
#include "reading/read_contacts.hpp"
#include "session/session.hpp"

namespace heron::app {

class ContactList : public IdListModel {
    Q_OBJECT
  public:
    enum class Order { track, doubt, height, aside, depth };
    ContactList(Session &session, ReadContacts &read, QObject *parent = nullptr);
    /// What was read of another stream.
    void setRead(ReadContacts &read);

    Order order() const { return order_; }
    void setOrder(Order order);
    std::optional<Family> only() const { return only_; }
    void setOnly(std::optional<Family> family);
    /// Contacts as they stand in the list; valid until the reader's next answer.
    std::vector<const Contact *> contacts() const;
    static QString idOf(int contact) { return QString::number(contact); }
    const Contact *find(const QString &id) const { return read_->find(id.toInt()); }

  protected:
    QVariant dataOf(const QString &id, int role) const override;

  private:
    void arrange();
    Session &session_;
    ReadContacts *read_;
    Order order_ = Order::track;
    std::optional<Family> only_;
};

} // namespace heron::app
