// The levels of a picture with its display window on them: floor and top are dragged, twice pressed it
// follows the levels again.
#pragma once

#include "session/window_state.hpp"

#include <QWidget>

namespace heron::app {

class LevelBox : public QWidget {
    Q_OBJECT
  public:
    static constexpr int plot_top = 30, plot_height = 66, bar_height = 10, handle_w = 52, handle_h = 44;
    static constexpr int high = plot_top + plot_height + bar_height + handle_h + 14;

    LevelBox(WindowState &window, const QString &title, QWidget *parent = nullptr);

  signals:
    /// A handle was let go of elsewhere than it was taken.
    void dragged(const heron::DisplayWindow &before, const heron::DisplayWindow &after);

  protected:
    void paintEvent(QPaintEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;
    void mouseMoveEvent(QMouseEvent *event) override;
    void mouseReleaseEvent(QMouseEvent *event) override;
    void mouseDoubleClickEvent(QMouseEvent *event) override;

  private:
    double xOf(double db) const;
    double dbAt(double x) const;
    QRectF handleRect(bool top) const;
    void paintLevels(QPainter &p);
    void paintHandles(QPainter &p);

    WindowState &window_;
    QString title_;
    enum class Grip { none, floor, top } grip_ = Grip::none;
    double low_db_ = 0, high_db_ = 80; // ends of the histogram's axis
    DisplayWindow before_;
};

} // namespace heron::app
