// All that the wall shows, changed together: one step of undo each.
#pragma once

#include "parts/view_context.hpp"

#include <QComboBox>
#include <QLineEdit>
#include <QWidget>
#include <functional>

namespace heron::app {

class KeyButton;

class ManyPage : public QWidget {
    Q_OBJECT
  public:
    explicit ManyPage(ViewContext &context, QWidget *parent = nullptr);
    /// Which marks are meant: those that the wall shows.
    void setMarks(std::vector<std::string> ids);

  protected:
    void paintEvent(QPaintEvent *event) override;

  private:
    /// Applies to each; counts and writes those that it changes.
    void each(const std::function<void(Mark &)> &change);
    void removeAll();
    ViewContext &context_;
    QLineEdit *tag_, *water_;
    QComboBox *kind_, *level_;
    KeyButton *add_tag_, *take_tag_, *set_water_, *remove_;
    std::vector<std::string> ids_;
    bool sure_ = false; ///< removing was pressed once
};

} // namespace heron::app
