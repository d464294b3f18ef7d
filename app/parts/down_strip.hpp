// What the sounder sees below, line by line with the picture: a thin fan for detail, a cone as a plain
// sounder sees.
#pragma once

#include "parts/view_context.hpp"

#include <QImage>
#include <QWidget>
#include <functional>
#include <optional>

namespace heron::app {

class DownStrip : public QWidget {
    Q_OBJECT
  public:
    /// Which row of the sides stands in a line; nothing where none does.
    using RowAt = std::function<std::optional<std::size_t>(int y)>;
    DownStrip(ViewContext &context, RowAt row_at, QWidget *parent = nullptr);
    static constexpr int wide = 190;

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;

  private:
    void paintLine(int y, std::size_t row);
    void paintHelp(QPainter &p);
    void mousePressEvent(QMouseEvent *event) override;

    ViewContext &context_;
    RowAt row_at_;
    QImage image_;
    std::vector<std::size_t> shown_; // which row stands in each line
    double deepest_m_ = 0;
    bool help_ = false;
    DisplayWindow window_;
};

} // namespace heron::app
