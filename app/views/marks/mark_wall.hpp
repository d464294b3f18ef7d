// Marks as a wall of chips.
#pragma once

#include "session/survey.hpp"
#include "kit/chip_image.hpp"

#include <QWidget>

namespace heron::app {

class MarkWall : public QWidget {
    Q_OBJECT
  public:
    explicit MarkWall(Survey &survey, QWidget *parent = nullptr);
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

    Survey &survey_;
    std::vector<Cell> cells_;
    std::vector<Head> heads_;
};

} // namespace heron::app
