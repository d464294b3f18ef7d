// A place with nothing in it: says what it holds, and what to do first.
#pragma once

#include <QWidget>

namespace heron::app {

class EmptyView : public QWidget {
    Q_OBJECT
  public:
    EmptyView(const QString &title, const QString &holds, const QString &first, QWidget *parent = nullptr);

  protected:
    void paintEvent(QPaintEvent *event) override;

  private:
    QString title_, holds_, first_;
};

} // namespace heron::app
