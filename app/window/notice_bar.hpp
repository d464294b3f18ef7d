// One message at a time, in the window and never over the picture. A fault (what happened, what was kept,
// what to do) takes a place of its own until it is put away; what concerns things kept stands before what
// concerns a cable, and putting one away shows the next. A word that all went well lies over the head of the
// view for some seconds.
#pragma once

#include "fault/fault.hpp"

#include <QWidget>
#include <vector>

namespace heron::app {

class NoticeBar : public QWidget {
    Q_OBJECT
  public:
    explicit NoticeBar(QWidget *parent = nullptr);
    /// Shows a fault until it is dismissed or withdrawn; `topic` names what it is about ("sounder", "marks",
    /// …).
    void showFault(const QString &topic, const Fault &fault);
    /// A word that needs no action; goes by itself.
    void showWord(const QString &topic, const QString &text);
    /// Takes the message back if it is about this.
    void withdraw(const QString &topic);
    QString text() const { return head_ + (rest_.isEmpty() ? QString() : QStringLiteral(" ") + rest_); }

    std::size_t waiting() const { return standing_.size() > 1 ? standing_.size() - 1 : 0; }

    bool isFault() const { return fault_; }
    /// How high it wants to be: one line for a word, two for a fault; 0 when there is nothing to say.
    int lineHeight() const { return !isVisibleTo(parentWidget()) ? 0 : fault_ ? 52 : 30; }

  signals:
    void dismissed();
    void shapeChanged();

  protected:
    void paintEvent(QPaintEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;
    void showEvent(QShowEvent *event) override;
    void hideEvent(QHideEvent *event) override;

  private:
    struct Standing {
        QString topic;
        Fault fault;
    };
    void showFirst();

    std::vector<Standing> standing_; ///< the one that is shown first
    QString topic_, head_, rest_;
    bool fault_ = false;
    int serial_ = 0;
};

} // namespace heron::app
