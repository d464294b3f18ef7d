// Water and conditions, asked once at the beginning of a trip: ten seconds, then kept with it.
#pragma once

#include "parts/condition_words.hpp"
#include "parts/view_context.hpp"

#include <QLineEdit>
#include <QWidget>

namespace heron::app {

class ConditionsBox : public QWidget {
    Q_OBJECT
  public:
    ConditionsBox(ViewContext &context, QWidget *parent = nullptr);
    bool asking() const { return asking_; }
    /// Asks again, as from the menu.
    void ask();

  signals:
    void askingChanged();

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;

  private:
    struct Row : ConditionKeys {
        int chosen = -1;
    };
    void finish(bool keep);
    ViewContext &context_;
    QLineEdit *water_;
    std::vector<Row> rows_;
    KeyButton *keep_, *skip_;
    bool asking_ = false;
};

} // namespace heron::app
