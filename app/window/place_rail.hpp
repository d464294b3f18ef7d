// The rail of places at the left edge, and beneath them file, units and light.
#pragma once

#include <QWidget>
#include <array>

namespace heron::app {

enum class Place { prepare, scan, read, around, chart, marks, log, practice };
inline constexpr int place_count = 8;

class PlaceRail : public QWidget {
    Q_OBJECT
  public:
    explicit PlaceRail(QWidget *parent = nullptr);
    static QString title(Place place);
    Place current() const { return current_; }
    void setCurrent(Place place);
    void setNone(); ///< a page that is no place is shown
    void setUnitsLabel(const QString &label);

  signals:
    void placeChosen(heron::app::Place place);
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
    Place current_ = Place::scan;
    bool none_ = false;
    QString units_;
};

} // namespace heron::app
