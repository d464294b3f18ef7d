// The way to a place, over whatever is shown: large enough for a glance, put away with a press.
#pragma once

#include "way/way.hpp"

#include <QWidget>

namespace heron::app {

class WayBar : public QWidget {
    Q_OBJECT
  public:
    explicit WayBar(Way &way, QWidget *parent = nullptr);
    static constexpr int high = 48;
    QString text() const { return way_.words(); }

  signals:
    void shownChanged();

  protected:
    void paintEvent(QPaintEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;

  private:
    void refresh();
    Way &way_;
};

} // namespace heron::app
