// What is connected, as a list: what each delivers and how it fares, in words.
#pragma once

#include "kit/id_list_model.hpp"
#include "session/connections.hpp"

namespace heron::app {

class ConnectionList : public IdListModel {
    Q_OBJECT
  public:
    explicit ConnectionList(Connections &connections, QObject *parent = nullptr);
    const ConnectionStatus *find(const QString &id) const;
    static QString delivers(const ConnectionStatus &connection);
    static QString stateOf(const ConnectionStatus &connection);

  protected:
    QVariant dataOf(const QString &id, int role) const override;

  private:
    void arrange();
    Connections &connections_;
};

} // namespace heron::app
