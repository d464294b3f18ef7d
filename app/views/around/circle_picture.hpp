// The circle at the bow: rays where they truly lay, paler with age, the boat and its seats to scale in it.
#pragma once

#include "around/bow.hpp"
#include "around/circle_raster.hpp"
#include "around/rings.hpp"
#include "parts/view_context.hpp"
#include "reading/measure.hpp"

#include <QImage>
#include <QTimer>
#include <QWidget>
#include <deque>
#include <optional>

namespace heron::app {

class CirclePicture : public QWidget {
    Q_OBJECT
  public:
    CirclePicture(ViewContext &context, QWidget *parent = nullptr);

    /// What is up: the bow, north, or the bow with nothing but what lies ahead, as large as it goes.
    enum class Up { bow, north, ahead };
    Up up() const { return up_; }
    void setUp(Up up);
    Across across() const { return across_; }
    void setAcross(Across across);
    RingStyle ringStyle() const { return ring_style_; }
    void setRingStyle(RingStyle style);
    bool rod() const { return rod_; }
    void setRod(bool on);
    /// The seat from which the rod points.
    std::size_t seat() const { return seat_; }
    void setSeat(std::size_t seat);
    bool frozen() const { return last_row_.has_value(); }
    void setFrozen(bool frozen);
    /// Shows an earlier (−1) or later (+1) turn; freezes.
    void stepTurn(int turns);
    /// How many turns back it is, while frozen.
    int turnsBack() const { return turns_back_; }
    /// The samples about the pointer, three times as large.
    bool loupe() const { return loupe_; }
    void setLoupe(bool on);
    /// For guests: a large pointer, and in large letters what lies at it.
    bool guests() const { return guests_; }
    void setGuests(bool on);
    /// What stands beside the guests' pointer; empty where nothing is known there.
    QString guestWords() const;
    /// From the head to the pointer, true (off the bow while no heading is known), on and off the circle.
    std::optional<double> pointedBearing() const;
    /// Measuring: the first press puts a handle on the top of an echo, the second on the end of its shadow.
    bool measures() const { return measures_; }
    void setMeasures(bool on);
    /// What is measured: from the first press on; the shadow's end follows the pointer until the second.
    const std::optional<MeasureHandles> &handles() const { return handles_; }
    std::optional<Measurement> measurement() const;
    /// A press while measuring; false where it was none of measuring's.
    bool pressMeasure(QPointF position);

    /// How levels become colours here: the circle has its own.
    WindowState &display() { return display_; }

    /// A spot of the picture: its place, how it lies from the head, and the sample of the ray that showed it.
    struct Spot {
        EastNorth at;
        FromHead from_head;
        std::optional<Cursor> seen;
    };
    std::optional<Spot> spotAt(QPointF position) const;
    std::optional<Spot> pointed() const;
    QPointF positionOf(const EastNorth &place) const;
    double pixelsPerMetre() const { return scale_; }
    /// The picture around a sample as it is shown, for a mark to keep.
    Chip chipAt(const Cursor &at) const;
    /// What was read that is drawn there; 0: none.
    int contactAt(QPointF position) const;
    /// What swims that is drawn there; 0: none.
    int swimmerAt(QPointF position) const;
    /// The mark that is drawn there; empty: none.
    QString markAt(QPointF position) const;

  signals:
    void pointedChanged();
    void pressed(QPointF position);
    void frozenChanged();
    void shapeChanged();

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;
    void mouseMoveEvent(QMouseEvent *event) override;
    void leaveEvent(QEvent *event) override;

  private:
    void rebuild();
    void layFrom(std::size_t first);
    void lay(const PlacedRay &ray);
    /// Ends before the rays that are not shown while frozen.
    std::size_t shownRays() const;
    const PlacedRay &newest() const;
    BowPose pose() const;
    double upDeg() const;
    void place();
    void paintGround(QPainter &p);
    void paintRim(QPainter &p);
    void paintRings(QPainter &p);
    void paintBoat(QPainter &p);
    void paintReach(QPainter &p);
    void paintMarks(QPainter &p);
    void paintContacts(QPainter &p);
    void paintSwimmers(QPainter &p);
    bool isMarked(const EastNorth &at) const;
    void paintAim(QPainter &p);
    void paintHold(QPainter &p);
    void paintMeasure(QPainter &p);
    void paintLoupe(QPainter &p);
    void paintGuests(QPainter &p);
    void paintWind(QPainter &p);
    const PlacedRay *rayOf(std::size_t row) const;
    void paintRod(QPainter &p);
    void paintAges(QPainter &p);
    void paintCorners(QPainter &p);
    QPointF at(const FromHead &spot) const;
    QPointF direction(double bearing_deg) const; ///< of one pixel, on the screen

    ViewContext &context_;
    WindowState display_;
    CircleRaster raster_{2048, 0.05};
    std::deque<std::pair<std::size_t, std::uint32_t>> numbers_; ///< of rows, as they were laid
    QImage image_;
    Up up_ = Up::bow;
    Across across_ = Across::ground;
    RingStyle ring_style_ = RingStyle::round;
    bool rod_ = false, loupe_ = false, guests_ = false, measures_ = false, end_set_ = false;
    std::optional<MeasureHandles> handles_;
    std::size_t seat_ = 0;
    std::optional<std::size_t> last_row_; ///< while frozen
    int turns_back_ = 0;
    double range_m_ = 0, scale_ = 20, radius_px_ = 300;
    QPointF head_px_;
    std::optional<QPointF> hover_;
    std::vector<float> levels_;
};

} // namespace heron::app
