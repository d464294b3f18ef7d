// What is connected: each source, what it delivers, how old its last word is; adding and taking away.
#pragma once

#include "session/survey.hpp"

#include <QComboBox>
#include <QLineEdit>
#include <QWidget>

namespace heron::app {

class KeyButton;
class Tuner;

class ConnectionsView : public QWidget {
    Q_OBJECT
  public:
    ConnectionsView(Survey &survey, Tuner &desk, QWidget *parent = nullptr);
    /// The lines of the table, for tests and the eye alike.
    QStringList lines() const;

  signals:
    void sourcesChosen(std::vector<heron::app::SourceConfig> sources);

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;

  private:
    void add();
    void removeSelected();
    QString delivers(const ConnectionStatus &c) const;
    QString stateOf(const ConnectionStatus &c) const;

    Survey &survey_;
    Tuner &desk_;
    QComboBox *kind_, *way_;
    QLineEdit *address_;
    KeyButton *add_, *remove_, *check_left_, *check_right_;
    int selected_ = 0;
    QString refusal_;
};

} // namespace heron::app
