// The line over every place: which water, whether pings flow, and what was last said. A word stands here for
// some seconds and covers nothing else.
#pragma once

#include "session/session.hpp"

#include <QTimer>
#include <QWidget>

namespace heron::app {

class StatusLine : public QWidget {
    Q_OBJECT
  public:
    explicit StatusLine(Session &session, QWidget *parent = nullptr);
    static constexpr int high = 30;
    /// The word that is shown now; empty without one.
    QString word() const { return word_; }
    /// What stands there while nothing is said: "live · kept since 07:12 · 1 h 46 · 4.9 mi".
    QString state() const;
    /// The picture of this window is held still.
    void setFrozen(bool frozen);

  protected:
    void paintEvent(QPaintEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;

  private:
    void say(const QString &text);
    QString kept() const;
    Session &session_;
    QString word_;
    QTimer gone_, tick_;
    bool frozen_ = false;
};

} // namespace heron::app
