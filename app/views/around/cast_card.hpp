// The cast card: what is aimed at from each seat, as a clock, degrees and a distance; readable from two
// metres.
#pragma once

#include "parts/view_context.hpp"

#include <QWidget>

namespace heron::app {

class CastCard : public QWidget {
    Q_OBJECT
  public:
    CastCard(ViewContext &context, QWidget *parent = nullptr);
    /// Over the whole window, in the largest figures that fit.
    bool large() const { return large_; }
    void setLarge(bool large);
    /// What it says of a seat, as one line: for the voice, for tests, and for whoever cannot see it.
    QString said(std::size_t seat) const;

    /// Where to hold and how to get there from here; empty while no spot is wanted.
    QString holdWords() const;

  signals:
    void closed(); ///< pressed while large

  protected:
    void paintEvent(QPaintEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;

  private:
    void paintSeat(QPainter &p, const QRectF &room, std::size_t seat, const Cast &cast);
    void paintClock(QPainter &p, const QRectF &square, std::size_t seat, const Cast &cast);
    QString length(double metres, int decimals = 0) const;
    QString lengthUnit() const;
    QString whyTheyDiffer(const std::vector<Cast> &casts) const;

    ViewContext &context_;
    bool large_ = false;
};

} // namespace heron::app
