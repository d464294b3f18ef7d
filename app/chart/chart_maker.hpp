// The chart of what is shown and of what was added to it: made in a thread of its own as rows come, tile by
// tile, and what follows from it (hardness, transitions, depth) every few seconds.
#pragma once

#include "bottom/clock_check.hpp"
#include "bottom/contours.hpp"
#include "bottom/depth_grid.hpp"
#include "bottom/ground_forms.hpp"
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
#include <set>

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
    std::vector<GroundForm> forms;
    DepthGrid depth;
    std::vector<Contour> contours;
    std::vector<std::vector<EastNorth>> track;
    std::array<double, 4> looks_m2{};        ///< seen well never, once, twice, three times and more
    std::optional<ClockCheck::Found> clocks; ///< of opposite passes, once all was gone through
    double tallest_weeds_m = 0;              ///< over the bottom, of what the boat ran over
};

/// A place of which the guide knows what it is; the scale of hardness hangs on it.
struct KnownGround {
    GeoPoint place;
    bool hard = true;
    bool operator==(const KnownGround &o) const {
        return place.latitude_deg == o.place.latitude_deg && place.longitude_deg == o.place.longitude_deg &&
               hard == o.hard;
    }
};

/// What the sheet hangs on besides the soundings themselves.
struct ChartWishes {
    double contour_m = 0.5;
    double level_m = 0; ///< of the water that is shown over the datum of its lake
    std::vector<KnownGround> known;
    RowChoice choice;   ///< which rows are laid
    bool blend = false; ///< all looks at a place together instead of the best
};

/// What came of one stream.
struct ChartRows {
    Installation installation;
    std::vector<SoundedRow> rows;
    NavSamples nav;
};

struct ChartBatch {
    int scan_number = 0;
    bool begins = false, ends = false;
    bool again = false; ///< begins once more, with the curve that all rows taught
    ChartWishes wishes;
    std::array<ChartRows, 2> streams; ///< of the sides, of the turning head
    bool wants_sheet = false;         ///< at once, whatever came
};

struct ChartAnswer {
    int scan_number = 0;
    bool of_others = false; ///< of what was added, whatever is shown
    bool all_tiles = false; ///< those that are not among them are gone
    std::optional<Fault> fault;
    std::optional<UtmZone> zone;
    double cell_m = 0.25;
    std::vector<std::pair<GroundMap::Key, ChartTile>> tiles;
    std::shared_ptr<const ChartSheet> sheet; ///< null where it was not made anew
    std::set<int> bands_khz;
    std::set<std::int64_t> days; ///< since 1970-01-01, UTC
};

class ChartWorker : public QObject {
    Q_OBJECT
  public:
    void take(const std::shared_ptr<ChartBatch> &batch);
    /// GeoTIFF, GeoPackage, KMZ or PNG with a world file, by the suffix.
    void write(const QString &path, const QString &title);
    /// What was shown is shown no more.
    void forget();
    /// What other trips saw, joined to what is shown; null: nothing any more.
    void join(const std::shared_ptr<const GroundMap> &others, const ChartWishes &wishes);

  signals:
    void made(std::shared_ptr<heron::app::ChartAnswer> answer);
    /// `cell_m`: how wide its cells are; without a fault it was written.
    void written(QString path, double cell_m, std::shared_ptr<heron::Fault> fault);

  private:
    void make(const ChartBatch &batch, ChartAnswer &answer);
    /// Rows of one stream and the curve that they teach.
    struct Laying {
        std::unique_ptr<Scan> scan;
        GroundCurve curve;
        std::size_t learned = 0, laid = 0, settled_at = 0;
    };
    void lay(Laying &of, bool ends);
    void layAll(bool ends);
    std::size_t laid() const { return layings_[0].laid + layings_[1].laid; }
    void layDepths();
    std::shared_ptr<ChartSheet> sheet() const;
    GroundMap all() const; ///< what is shown, under the datum, and the others
    std::vector<HardnessAnchor> anchors(const UtmZone &zone) const;
    ChartTile joined(const GroundMap::Key &key) const;
    void answerTiles(ChartAnswer &answer, bool all);
    void tellOf(ChartAnswer &answer) const;
    const GroundMap *any() const { return map_ ? map_.get() : others_.get(); }

    std::array<Laying, 2> layings_;
    std::unique_ptr<GroundMap> map_;
    std::shared_ptr<const GroundMap> others_;
    double others_shift_db_ = 0; ///< of what is shown over the others, where both saw
    std::size_t depths_laid_ = 0;
    bool learns_ = true;
    ClockCheck clocks_;
    std::optional<ClockCheck::Found> clocks_found_;
    std::map<GroundMap::Key, std::uint32_t> told_;
    QElapsedTimer since_sheet_;
    std::size_t sheet_rows_ = 0;
    ChartWishes wishes_;
};

class ChartMaker : public QObject {
    Q_OBJECT
  public:
    explicit ChartMaker(Session &session, QObject *parent = nullptr);
    ~ChartMaker() override;

    const std::optional<UtmZone> &zone() const { return zone_; }
    double cellM() const { return cell_m_; }
    const std::map<GroundMap::Key, ChartTile> &tiles() const { return tiles_; }
    /// Those that came with the last `tilesChanged`.
    const std::vector<GroundMap::Key> &changed() const { return changed_; }
    /// Null until enough was seen.
    const std::shared_ptr<const ChartSheet> &sheet() const { return sheet_; }
    /// Rows of the shown scan that are on the chart.
    std::size_t handed() const { return handed_[0]; }
    /// All that there is was gone through for good: of a recording or a trip.
    bool finished() const { return ended_ && second_time_ && !busy_; }
    /// Writes the chart beside the window: GeoTIFF (.tif), GeoPackage (.gpkg), KMZ (.kmz) or PNG with a world
    /// file
    /// (.png) by its suffix.
    void write(const QString &path);

    /// Adds what other trips, recordings and logs of sentences saw, one after the other, beside the window.
    void addFiles(const QStringList &paths);
    void dropFiles(); ///< back to what is shown alone
    QStringList files() const { return added_names_; }
    bool adding() const { return !waiting_.isEmpty() || adding_; }
    /// How far the file that is being added has come, 0 to 1.
    double added() const { return adding_ ? adding_->done() : 1; }

    /// The water's level over the datum of its lake, taken off all depths of what is shown.
    double level() const { return wishes_.level_m; }
    void setLevel(double metres);
    const std::vector<KnownGround> &known() const { return wishes_.known; }
    /// The guide's word on a place; a second word within four metres takes the place of the first, the same
    /// word takes it back.
    void know(const KnownGround &ground);

    /// What of it is laid: all, pings of one band, those of one day. It is laid anew, files that were added
    /// too.
    const RowChoice &choice() const { return wishes_.choice; }
    void choose(const RowChoice &choice);
    /// The bands and days that there are, chosen or not.
    const std::set<int> &bands() const { return bands_khz_; }
    const std::set<std::int64_t> &days() const { return days_; }
    /// All looks at a place together instead of the best.
    bool blends() const { return wishes_.blend; }
    void setBlend(bool on);

  signals:
    void begun();
    void tilesChanged();
    void tilesReplaced(); ///< all of them, before `tilesChanged`
    void sheetChanged();

  private:
    void feed();
    void clear();
    void addNext();
    void join();
    void wish();

    Session &session_;
    QThread thread_;
    ChartWorker *worker_;
    QTimer timer_;
    QStringList waiting_, added_names_, added_paths_;
    std::shared_ptr<JobControl> adding_;
    QString adding_path_;
    std::shared_ptr<GroundMap> others_;
    ChartWishes wishes_;
    std::optional<UtmZone> zone_;
    double cell_m_ = 0.25;
    std::map<GroundMap::Key, ChartTile> tiles_;
    std::vector<GroundMap::Key> changed_;
    std::shared_ptr<const ChartSheet> sheet_;
    std::set<int> bands_khz_;
    std::set<std::int64_t> days_;
    int scan_number_ = -1;
    std::array<std::size_t, 2> handed_{};
    std::size_t depths_handed_ = 0;
    std::array<NavSince, 2> nav_since_;
    bool busy_ = false, ended_ = false, wishes_changed_ = false, again_ = false, second_time_ = false;
};

} // namespace heron::app
