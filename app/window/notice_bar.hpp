// A standing fault over the view: what happened, what was kept, what to do. It pushes the view down and is
// hidden by nothing but its passing, or the guide's hand.
#pragma once

#include "session/notices.hpp"

#include <QWidget>

namespace heron::app {

class NoticeBar : public QWidget {
    Q_OBJECT
  public:
    explicit NoticeBar(Notices &notices, QWidget *parent = nullptr);
    static constexpr int high = 52;
    QString text() const;
    std::size_t waiting() const { return notices_.waiting(); }

  signals:
    void shownChanged();

  protected:
    void paintEvent(QPaintEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;

  private:
    void refresh();
    Notices &notices_;
    QString topic_, head_, rest_;
};

} // namespace heron::app
