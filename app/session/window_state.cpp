#include "session/window_state.hpp"

#include <QSettings>
#include <algorithm>
#include <cmath>

namespace heron::app {

WindowState::WindowState(ShownScan &shown, QObject *parent) : QObject(parent), shown_(shown) {
    connect(&shown_, &ShownScan::rowArrived, this, &WindowState::add);
    connect(&shown_, &ShownScan::rowsAdded, this, &WindowState::settle);
    connect(&shown_, &ShownScan::replaced, this, &WindowState::begin);
    connect(&shown_, &ShownScan::jumped, this, &WindowState::levelAt);
    rings_contacts_ = QSettings().value(QStringLiteral("ring_contacts"), true).toBool();
}

void WindowState::begin() {
    levels_ = LevelHistogram();
    learned_angles_.clear();
    angles_.clear();
    angles_settled_ = 0;
    window_rows_ = 0;
    window_follows_ = true;
    selectContact(0);
    if (!shown_.scan().empty())
        levelAt(shown_.scan().end() - 1);
}

void WindowState::add(std::size_t row) {
    const auto &scan = shown_.scan();
    const auto &ping = scan.ping(row);
    levels_.add(ping, scan.bottom(row));
    learned_angles_.add(ping, scan.bottom(row));
}

// What sets in late is painted anew: every line of the picture stands in one light.
void WindowState::settle() {
    if (shown_.empty())
        return;
    const bool window = settleWindow(), angles = settleAngles();
    if (window || angles)
        emit displayChanged();
}

// Evening out by angle follows what is learned, but in steps too small to see, and for all lines at once.
bool WindowState::settleAngles() {
    constexpr double seen_db = 0.6;
    constexpr std::size_t every = 10;
    if (shown_.end() < angles_settled_ + every)
        return false;
    angles_settled_ = shown_.end();
    if (learned_angles_.farthest_from(angles_) < seen_db)
        return false;
    angles_ = learned_angles_;
    return filters_.flatten;
}

// The window follows the levels while they are new (a new scan, band or gain) and then every few seconds, and
// only moves when it has strayed, so that the picture does not flicker.
bool WindowState::settleWindow() {
    if (!window_follows_)
        return false;
    const auto &scan = shown_.scan();
    const auto row = shown_.newest();
    const double frequency = scan.settings(row).frequency_hz;
    if (frequency != window_frequency_) {
        // Another band: its levels are its own, and the angles too.
        if (window_frequency_ != 0) {
            levels_ = LevelHistogram();
            learned_angles_.clear();
            add(row);
        }
        window_frequency_ = frequency;
        window_rows_ = shown_.end(); // look closely for the next hundred rows
    }
    const auto since = shown_.end() - std::min(shown_.end(), window_rows_);
    static constexpr std::size_t steps[] = {2, 8, 30, 60, 100};
    const bool due = std::find(std::begin(steps), std::end(steps), since) != std::end(steps) ||
                     since % 200 == 0 || shown_.end() == 1;
    if (!due)
        return false;
    const auto fitting = levels_.fitting_window();
    if (std::fabs(fitting.floor_db - window_.floor_db) < 1.5 &&
        std::fabs(fitting.span_db - window_.span_db) < 2.5)
        return false;
    window_ = fitting;
    return true;
}

void WindowState::levelAt(std::size_t row) {
    const auto &scan = shown_.scan();
    if (!window_follows_ || scan.empty())
        return;
    levels_ = LevelHistogram();
    learned_angles_.clear();
    const auto first = row > 150 ? row - 150 : scan.first();
    for (auto n = std::max(first, scan.first()); n < std::min(first + 300, scan.end()); ++n)
        add(n);
    shown_.trim();
    angles_ = learned_angles_;
    window_ = levels_.fitting_window();
    emit displayChanged();
}

void WindowState::setDisplayWindow(const DisplayWindow &window) {
    window_ = window;
    window_follows_ = false;
    emit displayChanged();
}

void WindowState::raiseFloor(double floor_db) {
    constexpr double least_span_db = 10;
    auto w = window_;
    const double top = w.floor_db + w.span_db;
    w.floor_db = floor_db;
    w.span_db = std::max(least_span_db, top - w.floor_db);
    setDisplayWindow(w);
}

void WindowState::followLevels() {
    window_follows_ = true;
    selectContact(0);
    if (!levels_.empty())
        window_ = levels_.fitting_window();
    emit displayChanged();
}

void WindowState::setFilters(const PictureFilters &filters) {
    if (filters == filters_)
        return;
    filters_ = filters;
    emit displayChanged();
}

void WindowState::setRingsContacts(bool on) {
    rings_contacts_ = on;
    QSettings().setValue(QStringLiteral("ring_contacts"), on);
    emit displayChanged();
}

void WindowState::selectContact(int id) {
    if (id == selected_contact_)
        return;
    selected_contact_ = id;
    emit contactSelected();
}

void WindowState::setDepthBand(const std::optional<DepthBand> &band) {
    if (band == depth_band_)
        return;
    depth_band_ = band;
    emit depthBandChanged();
}

void WindowState::lightPlace(const std::optional<GeoPoint> &place) {
    lit_place_ = place;
    emit placeLit();
}

void WindowState::selectMark(const QString &id) {
    if (id == selected_mark_)
        return;
    selected_mark_ = id;
    emit selectionChanged();
}

} // namespace heron::app
