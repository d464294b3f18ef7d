// What was read of one stream, as views see it: contacts that keep their ids while they are read again.
#pragma once

#include "reading/contact.hpp"
#include "session/shown_scan.hpp"

#include <QObject>
#include <vector>

namespace heron::app {

class ReadContacts : public QObject {
    Q_OBJECT
  public:
    /// The stream that is read.
    ShownScan &stream() const { return stream_; }
    const std::vector<Contact> &contacts() const { return contacts_; }
    /// The id of a contact, which it keeps while it is read again and joined with other sightings.
    int idOf(std::size_t contact) const { return ids_[contact]; }
    /// Nothing where it is no longer told; valid until contacts change.
    const Contact *find(int id) const;
    /// Rows before this one have been read.
    virtual std::size_t readUntil() const = 0;

  signals:
    void contactsChanged();

  protected:
    ReadContacts(ShownScan &stream, QObject *parent) : QObject(parent), stream_(stream) {}
    /// Takes contacts with the ids of those that they were before: `ids[i]` of `contacts[i]`; 0 for a new
    /// one.
    void take(std::vector<Contact> contacts, std::vector<int> ids);

  private:
    ShownScan &stream_;
    std::vector<Contact> contacts_;
    std::vector<int> ids_;
    int next_id_ = 1;
};

} // namespace heron::app
