// The rail of places at the left edge, and beneath them file, units, light and the alarm.
#pragma once

#include "parts/place.hpp"

#include <QWidget>
#include <array>

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
    QRect overboardRect() const { return footRect(3); }

  signals:
    void placeChosen(const QString &id);
    void fileAsked();
    void unitsAsked();
    void lightAsked();
    void overboardAsked();

  protected:
    void paintEvent(QPaintEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;
    bool event(QEvent *event) override;

  private:
    QRect placeRect(int i) const;
    QRect footRect(int i) const;
    /// What stands under the places.
    struct Foot {
        QString word, letter, tip;
        void (PlaceRail::*asked)();
        bool alarm;
    };
    std::array<Foot, 4> feet() const;
    Places places_; ///< those of the rail
    QString current_, units_;
};

} // namespace heron::app
