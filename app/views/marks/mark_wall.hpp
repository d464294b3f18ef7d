// Marks as a wall of chips.
#pragma once

#include "kit/chip_image.hpp"
#include "parts/view_context.hpp"

#include <QWidget>

namespace heron::app {

class MarkWall : public QWidget {
    Q_OBJECT
  public:
    explicit MarkWall(ViewContext &context, QWidget *parent = nullptr);
    /// Where a mark's chip stands, in this widget's coordinates.
    QRect chipRect(const QString &id) const;
    /// Moves the selection by so many chips.
    void step(int by);

  signals:
    void shown(QRect chip); ///< should be scrolled into view

  protected:
    void paintEvent(QPaintEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;

  private:
    struct Cell {
        QRect rect;
        QString id;
    };
    struct Head {
        int y;
        QString text;
    };
    void arrange();

    ViewContext &context_;
    std::vector<Cell> cells_;
    std::vector<Head> heads_;
};

} // namespace heron::app
