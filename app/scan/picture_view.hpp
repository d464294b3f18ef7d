// The live picture: newest row at the top, left is left. One ping a row.
#pragma once

#include "feed/survey.hpp"
#include "reading/measure.hpp"

#include <QImage>
#include <QWidget>
#include <optional>

namespace heron::app {

class PictureView : public QWidget {
    Q_OBJECT
  public:
    explicit PictureView(Survey &survey, QWidget *parent = nullptr);

    /// Number of the row at the top; rows go down from there.
    std::size_t topRow() const { return top_; }
    bool frozen() const { return frozen_; }
    void setFrozen(bool frozen);
    /// Shows the rows from `row` down; freezes.
    void goTo(std::size_t row);
    std::size_t rowsWaiting() const; ///< newer than the top, while frozen
    double range() const { return range_m_; }
    double pixelsPerMetre() const { return width() / 2.0 / range_m_; }

    std::optional<Cursor> pointAt(QPointF position) const;
    QPointF positionOf(std::size_t row, Side side, double slant_m) const;
    bool rowVisible(std::size_t row) const;

    /// What is pointed at: the pick that was pressed, or what lies under the pointer.
    std::optional<Cursor> pointed() const;
    void clearPick();

    bool measuring() const { return measuring_; }
    void setMeasuring(bool measuring);
    const std::optional<MeasureHandles> &handles() const { return handles_; }
    void setFloating(bool floating);
    void setWide(bool wide); ///< a third handle, on the near edge of the echo
    /// Moves the handle in hand by samples (keys).
    void nudge(int samples);

  signals:
    void pointedChanged();
    void handlesChanged();
    void frozenChanged();
    void topChanged();
    void rangeChanged();
    void painted();

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;
    void mouseMoveEvent(QMouseEvent *event) override;
    void mouseReleaseEvent(QMouseEvent *event) override;
    void leaveEvent(QEvent *event) override;
    void wheelEvent(QWheelEvent *event) override;

  private:
    enum class Grip { none, near_edge, top, end, fresh };
    std::vector<Grip> grips() const;
    double slantOf(Grip grip) const;
    void advance();
    void repaintAll();
    void paintLine(std::size_t row);
    int lineOf(std::size_t row) const {
        return image_.height() - 1 - static_cast<int>(row % static_cast<std::size_t>(image_.height()));
    }
    QRectF gripRect(Grip grip) const;
    void paintMarks(QPainter &p);
    void paintPick(QPainter &p);
    void paintHandles(QPainter &p);
    void dragTo(QPointF position);

    Survey &survey_;
    QImage image_;                     // a ring of rows; row n stands at lineOf(n)
    std::vector<std::size_t> painted_; // which row stands in each line
    std::vector<std::uint8_t> levels_;
    double range_m_ = 25;
    std::size_t top_ = 0;
    bool frozen_ = false;
    std::optional<QPointF> hover_;
    std::optional<Cursor> pick_;
    bool measuring_ = false;
    std::optional<MeasureHandles> handles_;
    Grip grip_ = Grip::none, last_grip_ = Grip::end;
    double grip_offset_ = 0;
};

} // namespace heron::app
