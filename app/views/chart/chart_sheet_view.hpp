// The sheet: north up, printed and not lit; mosaic, hardness, depths, transitions, track, marks, the boat.
#pragma once

#include "chart/chart_maker.hpp"
#include "parts/view_context.hpp"
#include "plan/lanes.hpp"

#include <QImage>
#include <QTimer>
#include <QWidget>
#include <map>
#include <optional>
#include <set>

namespace heron::app {

class ChartSheetView : public QWidget {
    Q_OBJECT
  public:
    ChartSheetView(ViewContext &context, QWidget *parent = nullptr);

    enum class Layer : std::uint8_t {
        mosaic,
        hardness,
        contours,
        band,
        transitions,
        looks,
        track,
        marks,
        contacts,
        backdrop
    };
    static constexpr std::size_t layer_count = 10;
    bool shows(Layer layer) const { return shown_[static_cast<std::size_t>(layer)]; }
    void setShown(Layer layer, bool on);

    /// Depths that are hatched, metres; none before something was sounded.
    bool bandKnown() const { return band_to_m_ > 0; }
    double bandFrom() const { return band_from_m_; }
    double bandTo() const { return band_to_m_; }
    void shiftBand(int steps);

    /// Places on the sheet's plane (UTM, metres).
    EastNorth placeAt(QPointF position) const;
    QPointF positionOf(const EastNorth &place) const;
    std::optional<EastNorth> onSheet(const GeoPoint &place) const;
    std::optional<GeoPoint> onGlobe(const EastNorth &place) const;
    std::optional<EastNorth> boat() const;
    double metresPerPixel() const { return metres_a_pixel_; }

    void toTheBoat();
    void fitAll();
    void zoom(double times, QPointF about);
    /// A second press ends it; between both the length follows the pointer.
    bool measures() const { return measures_; }
    void setMeasures(bool on);
    std::optional<double> measured() const;
    /// Lanes: presses are the corners of an area until it is switched off again; then they are planned, as
    /// far apart as is advised for this water.
    bool plans() const { return plans_; }
    void setPlans(bool on);
    /// The corners that were pressed.
    const std::vector<EastNorth> &corners() const { return corners_; }
    const LaneProgress &lanes() const { return lanes_; }
    void clearLanes();
    double laneSpacing() const;
    /// The other way round: across, along, …
    void turnLanes(double degrees);
    /// Lanes, or a zigzag.
    bool zigzags() const { return zigzags_; }
    void setZigzags(bool on);
    /// A pass along the transition or contour that is nearest to what was picked, on the side of it that was
    /// picked.
    bool passAlong();
    /// Which way is up: north, or where the bow points.
    bool headUp() const { return head_up_; }
    void setHeadUp(bool on);
    /// What is wished of contacts and marks; what does not meet it is drawn as a dot.
    void setWish(const SpotFilter &wish);
    const SpotFilter &wish() const { return wish_; }
    /// How many contacts and marks on the chart meet it, of how many.
    std::pair<std::size_t, std::size_t> met();

    /// What is picked: the place last pressed.
    const std::optional<EastNorth> &picked() const { return picked_; }
    void clearPick();
    std::optional<EastNorth> pointed() const;
    QString markAt(QPointF position) const;
    int contactAt(QPointF position) const; ///< its id; 0: none
    /// The sheet as a page of its own, with title, scale, date and caution.
    void writePdf(const QString &path);

  signals:
    void pointedChanged();
    void viewChanged();

  protected:
    void paintEvent(QPaintEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;
    void mouseMoveEvent(QMouseEvent *event) override;
    void mouseReleaseEvent(QMouseEvent *event) override;
    void wheelEvent(QWheelEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void leaveEvent(QEvent *event) override;

  private:
    // A print of 2ʰ by 2ʰ tiles, their sides halved h times: as many pixels as a tile has cells, however far
    // off one looks.
    struct Printed {
        QImage image;
        std::set<GroundMap::Key> stale; ///< tiles of it that changed since
        std::uint64_t painted = 0;      ///< counts paints: what was not seen lately goes
    };
    using PrintKey = std::pair<int, GroundMap::Key>; ///< halvings; column and row in prints of that size
    static constexpr int most_halvings = 6;
    static GroundMap::Key printOf(const GroundMap::Key &tile, int halvings);
    bool anyTile(const PrintKey &key) const;
    /// Null while it waits for its turn.
    const QImage *imageOf(const PrintKey &key, int &tiles_left);
    void printTile(QImage &on, const PrintKey &key, const GroundMap::Key &tile_key,
                   const ChartTile &tile) const;
    void tilesChanged();
    void dropImages();
    /// All that the ground's picture hangs on, besides from where it is looked at.
    struct GroundState {
        std::uint64_t charted = 0;
        std::array<bool, layer_count> shown{};
        double band_from_m = 0, band_to_m = 0, level_m = 0;
        UnitSystem units = UnitSystem::metres;
        std::int64_t backdrop = 0;
        const void *backdrop_lines = nullptr;
        bool operator==(const GroundState &) const = default;
    };
    /// The ground as it was painted last, and from where.
    struct GroundPicture {
        QImage image;
        GroundState of;
        EastNorth middle;
        double metres_a_pixel = 0, up_deg = 0;
        QSize around; ///< the window it was made for
    };
    GroundState groundState() const;
    bool moving() const { return dragged_ || settle_.isActive(); }
    QRect canvas() const { return canvas_.isNull() ? rect() : canvas_; }
    void showGround(QPainter &p);
    void paintGroundPicture();
    void paintGround(QPainter &p);
    std::pair<EastNorth, EastNorth> seen() const;
    void paintSheet(QPainter &p);
    void paintBackdrop(QPainter &p);
    void askBackdrop();
    void paintMosaic(QPainter &p);
    void paintLooks(QPainter &p);
    void paintBand(QPainter &p);
    void paintShoals(QPainter &p);
    void paintHardness(QPainter &p);
    QPolygonF drawn(const std::vector<EastNorth> &line) const;
    bool worthDrawing(const QPolygonF &line) const;
    void paintContours(QPainter &p);
    void paintTransitions(QPainter &p);
    void paintForms(QPainter &p);
    void tellBand();
    void paintTrack(QPainter &p);
    void paintContacts(QPainter &p);
    void paintMarks(QPainter &p);
    void paintBoat(QPainter &p);
    void paintLanes(QPainter &p);
    void planAnew(std::optional<double> bearing_deg);
    void follow(LanePlan plan);
    std::vector<NoGo> noGo() const;
    void turnUp();
    void paintPick(QPainter &p);
    void paintNeatline(QPainter &p);
    void paintTitle(QPainter &p);
    void paintScale(QPainter &p);

    ViewContext &context_;
    std::array<bool, layer_count> shown_{true, true, true, false, true, false, true, true, false, true};
    double band_from_m_ = 0, band_to_m_ = 0;
    EastNorth middle_;
    double metres_a_pixel_ = 0.25;
    bool placed_ = false, follows_ = true;
    std::optional<QPointF> hover_, pressed_;
    EastNorth middle_before_;
    bool dragged_ = false, measures_ = false, plans_ = false, zigzags_ = false, head_up_ = false;
    double up_deg_ = 0; ///< what points up
    SpotFilter wish_;
    QTimer backdrop_pause_;
    std::vector<EastNorth> corners_;
    LaneProgress lanes_;
    std::optional<EastNorth> picked_, from_, to_;
    std::map<PrintKey, Printed> images_;
    std::uint64_t paints_ = 0;
    bool whole_ = false; ///< a page to keep: all of it is printed at once
    bool waits_ = false; ///< some prints have their turn at the next paint
    GroundPicture ground_;
    std::uint64_t charted_ = 0; ///< grows with every change of tiles, sheet and colours
    QTimer settle_;             ///< runs while one zooms
    QRect canvas_;              ///< what is painted of the ground, the window's or more; null: the window's
};

} // namespace heron::app
