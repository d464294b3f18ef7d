// The same place as two passes saw it, side by side, north up, at one scale; and below, what the look down
// saw where a pass ran over it.
#pragma once

#include "parts/view_context.hpp"
#include "picture/plan_patch.hpp"

#include <QWidget>

namespace heron::app {

class PassCompare : public QWidget {
    Q_OBJECT
  public:
    PassCompare(ViewContext &context, QWidget *parent = nullptr);
    /// Shows a place as seen at `row`, and the latest other pass beside it. False when no other pass saw it.
    bool show(const GeoPoint &place, std::size_t row);
    /// The same, also where only one pass saw it.
    void showAny(const GeoPoint &place, std::size_t row);
    /// The next of the other passes.
    void next();
    const std::vector<Pass> &looks() const { return looks_; }

  signals:
    void closed();

  protected:
    void paintEvent(QPaintEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;

  private:
    QString words(const Pass &look) const;
    void find(const GeoPoint &place, std::size_t row);
    void paintPass(QPainter &p, const QRectF &box, const Pass &pass) const;
    void paintBelow(QPainter &p, const QRectF &box) const;
    ViewContext &context_;
    GeoPoint place_;
    std::vector<Pass> looks_;
    std::size_t here_ = 0, other_ = 0;
    std::optional<Pass> over_; ///< the pass that ran nearest to over it, if within the cone
    double size_m_ = 16;
};

} // namespace heron::app
