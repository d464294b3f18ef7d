#include "session/shown_scan.hpp"

#include <algorithm>

namespace heron::app {

ShownScan::ShownScan(StreamId stream, QObject *parent) : QObject(parent), stream_(stream) {}

void ShownScan::begin(std::unique_ptr<Scan> scan, Overview overview, std::vector<BottomStroke> strokes) {
    scan_ = std::move(scan);
    overview_ = std::move(overview);
    strokes_ = std::move(strokes);
    before_strokes_.assign(strokes_.size(), {});
    limit_.reset();
    last_transmission_.reset();
    lost_pings_ = 0;
    ++number_;
    emit replaced();
}

void ShownScan::take(RowTaken taken) {
    if (last_transmission_ && taken.host_time != 0 && taken.transmission > *last_transmission_ + 1)
        lost_pings_ += static_cast<std::size_t>(taken.transmission - *last_transmission_ - 1);
    last_transmission_ = taken.transmission;
    // Rows that this thread was too slow for are in the trip.
    while (scan_->end() < taken.number)
        scan_->push_gap();
    overview_.add(taken.row.ping);
    scan_->push(std::move(taken.row));
    emit rowArrived(scan_->end() - 1);
}

void ShownScan::addNav(const NavTrack &samples) {
    auto &nav = scan_->nav;
    for (const auto &p : samples.positions())
        nav.add(p);
    for (const auto &a : samples.attitudes())
        nav.add(a);
    for (const auto &d : samples.depths())
        nav.add(d);
    for (const auto &s : samples.speeds())
        nav.add_speed(s.time, s.m_s);
}

void ShownScan::setLimit(std::optional<std::size_t> end) {
    limit_ = end;
}

std::optional<double> ShownScan::headingNow() const {
    if (empty())
        return std::nullopt;
    if (const auto fix = scan_->nav.fix_at(scan_->facts(newest()).time))
        return fix->pose.heading_deg;
    return std::nullopt;
}

std::optional<double> ShownScan::speedNow() const {
    if (empty())
        return std::nullopt;
    return scan_->nav.speed_at(scan_->facts(newest()).time);
}

void ShownScan::correctBottom(std::size_t first, const std::vector<double> &altitudes) {
    if (altitudes.empty() || !scan_->holds(first))
        return;
    BottomStroke stroke{first, altitudes};
    stroke.altitude_m.resize(std::min(altitudes.size(), scan_->end() - first));
    std::vector<BottomPick> before;
    for (std::size_t i = 0; i < stroke.altitude_m.size(); ++i)
        before.push_back(scan_->bottom(first + i));
    draw_bottom(*scan_, {stroke});
    const auto end = first + stroke.altitude_m.size();
    strokes_.push_back(std::move(stroke));
    before_strokes_.push_back(std::move(before));
    emit bottomCorrected(first, end);
    emit rowsAdded();
}

void ShownScan::setPositionsLate(double seconds) {
    auto installation = scan_->installation;
    installation.positions_late_s = seconds;
    scan_->set_installation(installation);
    if (scan_->end() == 0)
        return;
    ++number_;
    emit replaced();
    emit rowsAdded();
}

bool ShownScan::undoBottom() {
    if (strokes_.empty())
        return true;
    const auto stroke = strokes_.back();
    const auto before = before_strokes_.back();
    strokes_.pop_back();
    before_strokes_.pop_back();
    if (!before.empty())
        scan_->restore_bottom(stroke.first_row, before);
    emit bottomCorrected(stroke.first_row, stroke.first_row + stroke.altitude_m.size());
    emit rowsAdded();
    return !before.empty();
}

} // namespace heron::app
