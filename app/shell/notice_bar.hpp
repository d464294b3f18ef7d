// One message at a time, in the window and never over the picture: what happened, what was kept, what to do.
#pragma once

#include "fault/fault.hpp"

#include <QWidget>

namespace heron::app {

class NoticeBar : public QWidget {
    Q_OBJECT
  public:
    explicit NoticeBar(QWidget *parent = nullptr);
    /// Shows a fault until it is dismissed or withdrawn; `topic` names what it is about ("sounder", "marks", …).
    void showFault(const QString &topic, const Fault &fault);
    /// A word that needs no action; goes by itself.
    void showWord(const QString &topic, const QString &text);
    /// Takes the message back if it is about this.
    void withdraw(const QString &topic);
    QString text() const { return head_ + (rest_.isEmpty() ? QString() : QStringLiteral(" ") + rest_); }

  signals:
    void dismissed();

  protected:
    void paintEvent(QPaintEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;

  private:
    QString topic_, head_, rest_;
    bool fault_ = false;
    int serial_ = 0;
};

} // namespace heron::app
