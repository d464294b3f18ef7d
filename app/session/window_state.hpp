// What one window has of its own: what is selected, and how it shows the levels. The scan is the session's;
// two windows look at it in two ways.
#pragma once

#include "picture/angle_levels.hpp"
#include "picture/display_window.hpp"
#include "picture/row_levels.hpp"
#include "session/shown_scan.hpp"

#include <QObject>
#include <QString>

namespace heron::app {

/// Depths of the bottom as the chart tells them, metres.
struct DepthBand {
    double from_m = 0, to_m = 0;
    bool operator==(const DepthBand &) const = default;
};

class WindowState : public QObject {
    Q_OBJECT
  public:
    explicit WindowState(ShownScan &shown, QObject *parent = nullptr);

    const DisplayWindow &displayWindow() const { return window_; }
    bool windowFollows() const { return window_follows_; }
    void setDisplayWindow(const DisplayWindow &window); ///< by hand; it stays
    void raiseFloor(double floor_db);                   ///< by hand likewise; the top stays
    void followLevels();                                ///< lets it follow the levels again
    /// Fits the window to what is shown around a row, as after a jump.
    void levelAt(std::size_t row);
    const LevelHistogram &levels() const { return levels_; }
    /// What is taken off by angle, the same for every line of the picture.
    const AngleLevels &angles() const { return angles_; }
    const PictureFilters &filters() const { return filters_; }
    void setFilters(const PictureFilters &filters);

    /// Whether contacts are ringed on the live picture.
    bool ringsContacts() const { return rings_contacts_; }
    void setRingsContacts(bool on);

    // One place asks for another in the same window.
    void askPlace(const QString &id) { emit placeAsked(id); }
    void askRow(std::size_t row) { emit rowAsked(row); }
    void askRead(const GeoPoint &place, std::size_t row) { emit readAsked(place, row); }

    /// Of what was read (ContactReader::idOf); 0: none.
    int selectedContact() const { return selected_contact_; }
    void selectContact(int id);

    /// The place that the pointer lay on last, in whichever view that knows places: the others light it up.
    const std::optional<GeoPoint> &litPlace() const { return lit_place_; }
    void lightPlace(const std::optional<GeoPoint> &place);

    /// The band of depth that is hatched on the chart and in the picture; nothing: none.
    const std::optional<DepthBand> &depthBand() const { return depth_band_; }
    void setDepthBand(const std::optional<DepthBand> &band);

    QString selectedMark() const { return selected_mark_; }
    void selectMark(const QString &id);

  signals:
    void displayChanged(); ///< the display window, the filters, the rings
    void selectionChanged();
    void contactSelected();
    void placeLit();
    void depthBandChanged();
    void placeAsked(const QString &id);
    void rowAsked(std::size_t row);                                ///< to be shown in Scan
    void readAsked(const heron::GeoPoint &place, std::size_t row); ///< what lies there, to be read

  private:
    void add(std::size_t row);
    void settle();
    bool settleAngles();
    bool settleWindow();
    void begin();

    ShownScan &shown_;
    DisplayWindow window_;
    bool window_follows_ = true, rings_contacts_ = true;
    LevelHistogram levels_;
    AngleLevels learned_angles_; ///< of all rows so far
    AngleLevels angles_;         ///< those that the picture is painted with
    PictureFilters filters_;
    std::size_t window_rows_ = 0, angles_settled_ = 0;
    double window_frequency_ = 0;
    QString selected_mark_;
    std::optional<GeoPoint> lit_place_;
    std::optional<DepthBand> depth_band_;
    int selected_contact_ = 0;
};

} // namespace heron::app
