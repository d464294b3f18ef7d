// The marks as the wall shows them: in groups, the newest first, a head over each; all, or those that meet a
// wish.
#pragma once

#include "kit/id_list_model.hpp"
#include "marks/mark_library.hpp"

#include <functional>

namespace heron::app {

class MarkGroups : public IdListModel {
    Q_OBJECT
  public:
    enum class By : std::uint8_t { family, kind, lake, month, outcome };
    MarkGroups(Session &session, MarkLibrary &marks, QObject *parent = nullptr);
    By by() const { return by_; }
    void setBy(By by);
    /// Which are shown; none: all.
    void setWanted(std::function<bool(const Mark &)> wanted);
    std::size_t shown() const { return shown_; }

  protected:
    QVariant dataOf(const QString &id, int role) const override;

  private:
    void arrange();
    QString groupOf(const Mark &mark) const;
    QString subtitle(const Mark &mark) const;
    Session &session_;
    MarkLibrary &marks_;
    By by_ = By::family;
    std::function<bool(const Mark &)> wanted_;
    std::size_t shown_ = 0;
    std::map<QString, QString> heads_; ///< words over a group, by the head's id
};

} // namespace heron::app
