// The chart of what is shown: made in a thread of its own as rows come, tile by tile, and what follows from
// it (hardness, transitions, depth) every few seconds.
#pragma once

#include "bottom/contours.hpp"
#include "bottom/depth_grid.hpp"
#include "bottom/hardness.hpp"
#include "bottom/transitions.hpp"
#include "session/nav_since.hpp"
#include "session/session.hpp"

#include <QElapsedTimer>
#include <QObject>
#include <QThread>
#include <QTimer>
#include <array>
#include <map>
#include <memory>

namespace heron::app {

/// A tile of the mosaic as it is drawn: one byte a cell, row by row from the north; 0 where nothing was seen.
struct ChartTile {
    std::vector<std::uint8_t> level, looks;
};

/// What follows from all that was seen.
struct ChartSheet {
    UtmZone zone;
    Hardness hardness;
    std::vector<Transition> transitions;
    DepthGrid depth;
    std::vector<Contour> contours;
    std::vector<std::vector<EastNorth>> track;
    std::array<double, 4> looks_m2{}; ///< seen well never, once, twice, three times and more
};

struct ChartBatch {
    int scan_number = 0;
    bool begins = false, ends = false;
    bool again = false; ///< begins once more, with the curve that all rows taught
    double contour_m = 0.5;
    Installation installation;
    std::vector<SoundingSettings> settings;
    std::vector<SoundedRow> rows;
    NavSamples nav;
    bool wants_sheet = false; ///< at once, whatever came
};

struct ChartAnswer {
    int scan_number = 0;
    std::optional<Fault> fault;
    std::optional<UtmZone> zone;
    double cell_m = 0.25;
    std::vector<std::pair<GroundMap::Key, ChartTile>> tiles;
    std::shared_ptr<const ChartSheet> sheet; ///< null where it was not made anew
};

class ChartWorker : public QObject {
    Q_OBJECT
  public:
    void take(const std::shared_ptr<ChartBatch> &batch);
    void write(const QString &path);

  signals:
    void made(std::shared_ptr<heron::app::ChartAnswer> answer);
    void written(QString path, std::shared_ptr<heron::Fault> fault); ///< null: it was written

  private:
    void make(const ChartBatch &batch, ChartAnswer &answer);
    void lay(bool ends);
    std::shared_ptr<ChartSheet> sheet(double contour_m) const;

    std::unique_ptr<Scan> scan_;
    std::unique_ptr<GroundMap> map_;
    GroundCurve curve_;
    bool learns_ = true;
    std::size_t learned_ = 0, laid_ = 0, settled_at_ = 0;
    std::map<GroundMap::Key, std::uint32_t> told_;
    QElapsedTimer since_sheet_;
    std::size_t sheet_rows_ = 0;
    double contour_m_ = 0.5;
};

class ChartMaker : public QObject {
    Q_OBJECT
  public:
    explicit ChartMaker(Session &session, QObject *parent = nullptr);
    ~ChartMaker() override;

    const std::optional<UtmZone> &zone() const { return zone_; }
    double cellM() const { return cell_m_; }
    const std::map<GroundMap::Key, ChartTile> &tiles() const { return tiles_; }
    /// Null until enough was seen.
    const std::shared_ptr<const ChartSheet> &sheet() const { return sheet_; }
    /// Rows of the shown scan that are on the chart.
    std::size_t handed() const { return handed_; }
    /// All that there is was gone through for good: of a recording or a trip.
    bool finished() const { return ended_ && second_time_ && !busy_; }
    /// Writes the chart beside the window: GeoTIFF (.tif) or GeoPackage (.gpkg) by its suffix.
    void write(const QString &path);

  signals:
    void begun();
    void tilesChanged();
    void sheetChanged();

  private:
    void feed();

    Session &session_;
    QThread thread_;
    ChartWorker *worker_;
    QTimer timer_;
    std::optional<UtmZone> zone_;
    double cell_m_ = 0.25;
    std::map<GroundMap::Key, ChartTile> tiles_;
    std::shared_ptr<const ChartSheet> sheet_;
    int scan_number_ = -1;
    std::size_t handed_ = 0;
    NavSince nav_since_;
    bool busy_ = false, ended_ = false, contours_changed_ = false, again_ = false, second_time_ = false;
};

} // namespace heron::app
