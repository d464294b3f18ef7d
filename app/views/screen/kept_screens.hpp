// Screens that were read, as a list: each can be looked at again, and its original calibrated anew.
#pragma once

#include "kit/id_list_model.hpp"
#include "screen/sighting.hpp"

#include <QImage>
#include <map>

namespace heron::app {

class KeptScreens : public IdListModel {
    Q_OBJECT
  public:
    using IdListModel::IdListModel;
    /// Looks through a folder anew.
    void refresh(const QString &folder);
    /// By its recording's name; null for none.
    const ScreenSighting *find(const QString &id) const;
    /// As it was when it was read, small.
    QImage picture(const QString &id) const;
    /// Where that is kept, of a recording.
    static QString pictureOf(const QString &recording);

  protected:
    QVariant dataOf(const QString &id, int role) const override;

  private:
    std::vector<ScreenSighting> kept_;
    mutable std::map<QString, QImage> pictures_;
};

} // namespace heron::app
