// A list whose rows are known by ids: views keep their selection and their place while rows come and go.
#pragma once

#include "kit/item_roles.hpp"

#include <QAbstractListModel>
#include <QString>
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
    /// Tells views which rows went and came; those that stay may show something else.
    void setIds(std::vector<QString> ids) {
        const auto change = rowChange(ids_, ids);
        if (change.removed > 0) {
            beginRemoveRows({}, change.first, change.first + change.removed - 1);
            ids_.erase(ids_.begin() + change.first, ids_.begin() + change.first + change.removed);
            endRemoveRows();
        }
        if (change.inserted > 0) {
            beginInsertRows({}, change.first, change.first + change.inserted - 1);
            ids_ = std::move(ids);
            endInsertRows();
        }
        if (!ids_.empty())
            emit dataChanged(index(0), index(rowCount() - 1));
    }

  private:
    std::vector<QString> ids_;
};

} // namespace heron::app
