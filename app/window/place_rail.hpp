// The rail of places at the left edge, and beneath them file, units and light.
#pragma once

#include "parts/place.hpp"

#include <QWidget>

namespace heron::app {

class PlaceRail : public QWidget {
    Q_OBJECT
  public:
    explicit PlaceRail(const Places &places, QWidget *parent = nullptr);
    /// The id of the place that is shown; empty while a page is shown that is no place of the rail.
    QString current() const { return current_; }
    void setCurrent(const QString &id);
    void setUnitsLabel(const QString &label);
    /// Where a place stands, in this widget's coordinates.
    QRect rectOf(const QString &id) const;

  signals:
    void placeChosen(const QString &id);
    void fileAsked();
    void unitsAsked();
    void lightAsked();

  protected:
    void paintEvent(QPaintEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;
    bool event(QEvent *event) override;

  private:
    QRect placeRect(int i) const;
    QRect footRect(int i) const;
    Places places_; ///< those of the rail
    QString current_, units_;
};

} // namespace heron::app
