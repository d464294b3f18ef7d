// What is connected: each source, what it delivers, how old its last word is; adding and taking away.
#pragma once

#include "parts/view_context.hpp"

#include <QComboBox>
#include <QLineEdit>
#include <QWidget>

namespace heron::app {

class KeyButton;
class Tuner;

class ConnectionsView : public QWidget {
    Q_OBJECT
  public:
    ConnectionsView(ViewContext &context, QWidget *parent = nullptr);
    /// The lines of the table, for tests and the eye alike.
    QStringList lines() const;

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;

  private:
    void add();
    void removeSelected();
    QString delivers(const ConnectionStatus &c) const;
    QString stateOf(const ConnectionStatus &c) const;

    ViewContext &context_;
    Tuner &tuner_;
    QComboBox *kind_, *way_;
    QLineEdit *address_;
    KeyButton *add_, *remove_, *check_left_, *check_right_;
    int selected_ = 0;
    QString refusal_;
};

} // namespace heron::app
