// A place that is not filled yet: says what it will hold and what serves meanwhile.
#pragma once

#include "window/place_rail.hpp"

#include <QWidget>

namespace heron::app {

class EmptyView : public QWidget {
    Q_OBJECT
  public:
    explicit EmptyView(Place place, QWidget *parent = nullptr);

  protected:
    void paintEvent(QPaintEvent *event) override;

  private:
    Place place_;
};

} // namespace heron::app
