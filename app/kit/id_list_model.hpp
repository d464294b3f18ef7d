// A list whose rows are known by ids: views keep their selection and their place while rows come and go.
#pragma once

#include "kit/item_roles.hpp"

#include <QAbstractListModel>
#include <QHash>
#include <QString>
#include <algorithm>
#include <vector>

namespace heron::app {

class IdListModel : public QAbstractListModel {
    Q_OBJECT
  public:
    using QAbstractListModel::QAbstractListModel;
    int rowCount(const QModelIndex &parent = {}) const override {
        return parent.isValid() ? 0 : static_cast<int>(ids_.size());
    }
    const std::vector<QString> &ids() const { return ids_; }
    QString idAt(int row) const {
        return row >= 0 && row < rowCount() ? ids_[static_cast<std::size_t>(row)] : QString();
    }
    int rowOf(const QString &id) const {
        const auto at = std::find(ids_.begin(), ids_.end(), id);
        return at == ids_.end() ? -1 : static_cast<int>(at - ids_.begin());
    }
    QVariant data(const QModelIndex &index, int role) const override {
        return index.isValid() ? dataOf(idAt(index.row()), role) : QVariant();
    }
    Qt::ItemFlags flags(const QModelIndex &index) const override {
        return data(index, header_role).toBool() ? Qt::ItemIsEnabled : QAbstractListModel::flags(index);
    }

  protected:
    virtual QVariant dataOf(const QString &id, int role) const = 0;
    /// Tells views which rows went, moved and came, each by itself, so that whatever stays keeps its
    /// selection; what stays may show something else. Ids are each there once.
    void setIds(std::vector<QString> ids);

  private:
    void removeOthers(const QHash<QString, int> &wanted);
    void orderBy(const QHash<QString, int> &wanted);
    std::vector<QString> ids_;
};

} // namespace heron::app
