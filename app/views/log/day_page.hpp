// A day in hand: its conditions, what the boat was at and over which depth, marks and visits on one line of
// time; what came of the visits, and with which settings things were read that proved to be so.
#pragma once

#include "parts/view_context.hpp"
#include "story/log_book.hpp"

#include <QLineEdit>
#include <QWidget>
#include <functional>

namespace heron::app {

class ConditionsForm;
class KeyButton;

class DayPage : public QWidget {
    Q_OBJECT
  public:
    DayPage(ViewContext &context, LogBook &book, QWidget *parent);
    void show(std::size_t day);
    /// What the page says, a line each.
    QStringList lines() const;
    /// Where a stretch of what the boat was at is drawn.
    QRectF spanRect(std::size_t span) const;
    /// The picture of the day in a room, in inks by their meaning.
    using Inks = std::function<QColor(const char *)>;
    void paintAfloat(QPainter &p, const QRectF &room, const Inks &ink) const;

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;

  private:
    static constexpr int head_high = 52, tiles_high = 50, picture_high = 252, keys_high = 56,
                         step_keys_wide = 196, conditions_wide = 132;
    static constexpr double label_wide = 64, doing_high = 26, depth_high = 84, speed_high = 34,
                            events_high = 42;
    static QString clockOf(UnixNs time);
    static QString wordOf(Outcome::What what);
    static QString wordOf(Doing doing);
    static UnixNs endOf(const TripSummary &trip);
    // From which to which time the picture goes, and where that lies.
    struct Axis {
        UnixNs from = 0, to = 0, tick = 0;
        double left = 0, wide = 1;
        double x(UnixNs time) const;
    };
    const LogDay *day() const;
    Axis axis(const QRectF &room) const;
    std::optional<GeoPoint> place() const;
    QRectF picture() const;
    void choose(std::ptrdiff_t span);
    void put(std::optional<Doing> what);
    void layKeys();
    QString visitWords(const LogDay::Visit &visit) const;
    QString settingsWords(const SettingsTried &tried) const;
    void paintConditions(QPainter &p, const QRectF &room) const;
    void paintDoings(QPainter &p, const QRectF &room, const Axis &axis, const Inks &ink) const;
    void paintProfile(QPainter &p, const QRectF &depth, const QRectF &speed, const Axis &axis,
                      const Inks &ink) const;
    void paintEvents(QPainter &p, const QRectF &room, const Axis &axis, const Inks &ink) const;
    void paintAxis(QPainter &p, const QRectF &room, const Axis &axis, const Inks &ink) const;
    double paintVisits(QPainter &p, const QRectF &room) const;
    void paintSettings(QPainter &p, const QRectF &room) const;

    ViewContext &context_;
    LogBook &book_;
    std::size_t day_ = 0;
    QString date_; ///< of the day that is shown
    QLineEdit *aboard_;
    std::vector<KeyButton *> doing_keys_;
    KeyButton *before_, *next_, *conditions_;
    ConditionsForm *form_;
    std::optional<std::size_t> chosen_;
};

} // namespace heron::app
