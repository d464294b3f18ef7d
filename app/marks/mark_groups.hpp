// The marks as the wall shows them: by family, the newest first, a head over each group.
#pragma once

#include "kit/id_list_model.hpp"
#include "marks/mark_library.hpp"

namespace heron::app {

class MarkGroups : public IdListModel {
    Q_OBJECT
  public:
    MarkGroups(Session &session, MarkLibrary &marks, QObject *parent = nullptr);

  protected:
    QVariant dataOf(const QString &id, int role) const override;

  private:
    void arrange();
    QString subtitle(const Mark &mark) const;
    Session &session_;
    MarkLibrary &marks_;
    std::map<QString, QString> heads_; ///< words over a group, by the head's id
};

} // namespace heron::app
