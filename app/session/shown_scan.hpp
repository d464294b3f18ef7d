// The scan of one stream as far as it is shown: it grows live, plays as a recording, or is an old trip that
// is looked at. Also the guide's corrections of its bottom line.
#pragma once

#include "ingest/ingest_queue.hpp"
#include "picture/overview.hpp"
#include "picture/scan.hpp"
#include "trip/bottom_by_hand.hpp"

#include <QObject>
#include <memory>
#include <optional>
#include <vector>

namespace heron::app {

class ShownScan : public QObject {
    Q_OBJECT
  public:
    explicit ShownScan(StreamId stream, QObject *parent = nullptr);

    StreamId stream() const { return stream_; }
    const Scan &scan() const { return *scan_; }
    /// Rows that are shown end before this one: in a trip that is played, where the play has come.
    std::size_t end() const { return std::min(limit_.value_or(scan_->end()), scan_->end()); }
    bool empty() const { return end() <= scan_->first(); }
    std::size_t newest() const { return end() - 1; }
    /// Counts scans: a new one begins with each source.
    int number() const { return number_; }
    const Overview &overview() const { return overview_; }
    std::optional<double> headingNow() const;
    std::optional<double> speedNow() const;
    std::size_t lostPings() const { return lost_pings_; }

    /// The guide's word on the bottom, from row `first` on: metres under the transducer. All that follows
    /// from the bottom follows it. The undo takes the last stroke back.
    void correctBottom(std::size_t first, const std::vector<double> &altitudes);
    bool canUndoBottom() const { return !strokes_.empty(); }
    /// False where the bottom under the stroke is only found again when the trip is opened anew.
    bool undoBottom();
    const std::vector<BottomStroke> &strokes() const { return strokes_; }
    /// How late the receiver tells positions, seconds. All that follows from places is begun anew.
    void setPositionsLate(double seconds);

    // For what brings rows.
    void begin(std::unique_ptr<Scan> scan = std::make_unique<Scan>(), Overview overview = {},
               std::vector<BottomStroke> strokes = {});
    void setFetch(Scan::Fetch fetch) { scan_->set_fetch(std::move(fetch)); }
    void setNav(NavTrack nav) { scan_->set_nav(std::move(nav)); }
    void setInstallation(const Installation &installation) { scan_->set_installation(installation); }
    void setCourseServes(bool on) { scan_->nav.course_serves_where_compass_fails = on; }
    void setCompassLate(double seconds) { scan_->nav.compass_late_s = seconds; }
    void take(RowTaken row);
    void addNav(const NavTrack &samples);
    /// The sounder was connected anew: its count of pings begins anew.
    void forgetCount() { last_transmission_.reset(); }
    void setLimit(std::optional<std::size_t> end);
    /// A row that is there already is shown, as when an old trip is played.
    void show(std::size_t row) { emit rowArrived(row); }
    /// The play goes on from another row.
    void jump(std::size_t row) { emit jumped(row); }
    void trim() { scan_->trim(); }
    void tellRows() { emit rowsAdded(); }

  signals:
    void replaced();                  ///< another source began
    void rowArrived(std::size_t row); ///< each row, as it comes or is played
    void jumped(std::size_t row);
    void rowsAdded(); ///< rows came, or bottoms of recent rows changed
    void bottomCorrected(std::size_t first, std::size_t end);

  private:
    StreamId stream_;
    std::unique_ptr<Scan> scan_ = std::make_unique<Scan>();
    Overview overview_;
    std::optional<std::size_t> limit_;
    int number_ = 0;
    std::optional<std::uint64_t> last_transmission_;
    std::size_t lost_pings_ = 0;
    std::vector<BottomStroke> strokes_;
    std::vector<std::vector<BottomPick>> before_strokes_; ///< what they covered, of those of this sitting
};

} // namespace heron::app
