// The way to a place, over whatever is shown: large enough for a glance, put away with a press.
#pragma once

#include "kit/key_button.hpp"
#include "way/way.hpp"

#include <QWidget>

namespace heron::app {

class WayBar : public QWidget {
    Q_OBJECT
  public:
    WayBar(Way &way, const Boats &boats, QWidget *parent = nullptr);
    static constexpr int high = 48;
    QString text() const { return way_.words(); }

  signals:
    void shownChanged();

  protected:
    void paintEvent(QPaintEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;

  private:
    void refresh();
    void nextSeat();
    Way &way_;
    const Boats &boats_;
    KeyButton *side_, *buoy_;
};

} // namespace heron::app
