// The picture's hand: pointing, measuring, scrolling.
#include "parts/picture_view.hpp"

#include <QMouseEvent>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr int grip_size = 44;
constexpr int grip_above = 74; // the handle stands this far above what it measures

} // namespace

std::optional<Cursor> PictureView::pointed() const {
    if (pick_ && context_.session.shown.scan().holds(pick_->row))
        return pick_;
    return hover_ ? pointAt(*hover_) : std::nullopt;
}

void PictureView::releaseContact() {
    if (pressed_contact_ == 0)
        return;
    pressed_contact_ = 0;
    emit contactPressed();
    update();
}

void PictureView::clearPick() {
    pick_.reset();
    emit pointedChanged();
    update();
}

void PictureView::setMeasuring(bool measuring) {
    measuring_ = measuring;
    releaseContact();
    handles_.reset();
    corners_.clear();
    drawn_.clear();
    hand_ = Hand::shadow;
    if (measuring) {
        // From what is already pointed at; the end waits a little behind to be drawn out.
        if (const auto at = pointed())
            handles_ =
                MeasureHandles{at->row, at->side, at->slant_m, at->slant_m + range_m_ * 0.08, 0, false};
        pick_.reset();
    }
    emit handlesChanged();
    emit pointedChanged();
    update();
}

void PictureView::setHand(Hand hand) {
    hand_ = hand;
    handles_.reset();
    corners_.clear();
    drawn_.clear();
    // The bottom is drawn on the picture as it is heard.
    if (hand == Hand::bottom_line && across_ != Across::slant)
        setAcross(Across::slant);
    emit handlesChanged();
    update();
}

void PictureView::takeBackCorner() {
    if (!corners_.empty())
        corners_.pop_back();
    emit handlesChanged();
    update();
}

// Rows between two places of the pointer are drawn straight.
void PictureView::drawBottom(QPointF at) {
    const auto point = pointAt(at);
    if (!point)
        return;
    if (!drawn_last_)
        drawn_last_ = {point->row, point->slant_m};
    const auto [row0, slant0] = *drawn_last_;
    const auto row1 = point->row;
    const double slant1 = std::max(0.1, point->slant_m);
    const auto low = std::min(row0, row1), high = std::max(row0, row1);
    for (auto row = low; row <= high; ++row) {
        const double share = row0 == row1 ? 1
                                          : (static_cast<double>(row) - static_cast<double>(row0)) /
                                                (static_cast<double>(row1) - static_cast<double>(row0));
        drawn_[row] = slant0 + share * (slant1 - slant0);
    }
    drawn_last_ = {row1, slant1};
}

void PictureView::setFloating(bool floating) {
    if (!handles_)
        return;
    handles_->floating = floating;
    emit handlesChanged();
    update();
}

void PictureView::setWide(bool wide) {
    if (!handles_ || wide == (handles_->near_m > 0))
        return;
    handles_->near_m = wide ? std::max(0.1, handles_->top_m - range_m_ * 0.04) : 0;
    emit handlesChanged();
    update();
}

std::vector<PictureView::Grip> PictureView::grips() const {
    if (!handles_)
        return {};
    if (handles_->near_m > 0)
        return {Grip::end, Grip::top, Grip::near_edge};
    return {Grip::end, Grip::top};
}

double PictureView::slantOf(Grip grip) const {
    return grip == Grip::top ? handles_->top_m : grip == Grip::near_edge ? handles_->near_m : handles_->end_m;
}

void PictureView::nudge(int samples) {
    if (!handles_ || !context_.session.shown.scan().holds(handles_->row))
        return;
    const double step = samples * context_.session.shown.scan().ping(handles_->row).metres_per_sample();
    auto &h = *handles_;
    (last_grip_ == Grip::top                         ? h.top_m
     : last_grip_ == Grip::near_edge && h.near_m > 0 ? h.near_m
                                                     : h.end_m) += step;
    emit handlesChanged();
    update();
}

QRectF PictureView::gripRect(Grip grip) const {
    if (!handles_)
        return {};
    if (grip == Grip::near_edge) {
        // On the other side of the row, out of the way of the two above.
        const auto at = positionOf(handles_->row, handles_->side, handles_->near_m);
        const double y = at.y() - grip_above > 4 ? at.y() + grip_above - grip_size : at.y() - grip_above;
        return {at.x() - grip_size / 2.0, y, grip_size, grip_size};
    }
    const auto top = positionOf(handles_->row, handles_->side, handles_->top_m),
               end = positionOf(handles_->row, handles_->side, handles_->end_m);
    const double y = top.y() - grip_above > 4 ? top.y() - grip_above : top.y() + grip_above - grip_size;
    // Side by side even where both stand close together.
    double xt = top.x(), xe = end.x();
    const double least = grip_size + 6;
    if (std::fabs(xe - xt) < least) {
        const double middle = (xt + xe) / 2, sign = xe >= xt ? 1 : -1;
        xt = middle - sign * least / 2;
        xe = middle + sign * least / 2;
    }
    const double x = grip == Grip::top ? xt : xe;
    return {x - grip_size / 2.0, y, grip_size, grip_size};
}

void PictureView::mousePressEvent(QMouseEvent *event) {
    if (event->button() != Qt::LeftButton)
        return;
    const auto at = event->position();
    if (measuring_ && handles_) {
        for (const auto g : grips()) {
            if (!gripRect(g).contains(at))
                continue;
            grip_ = last_grip_ = g;
            const auto &h = *handles_;
            grip_offset_ = positionOf(h.row, h.side, slantOf(g)).x() - at.x();
            return;
        }
    }
    if (const int contact = measuring_ ? 0 : contactAt(at)) {
        pick_.reset();
        pressed_contact_ = contact;
        context_.window.selectContact(contact);
        emit pointedChanged();
        emit contactPressed();
        update();
        return;
    }
    releaseContact();
    const auto point = pointAt(at);
    if (!point)
        return;
    if (measuring_ && hand_ == Hand::outline) {
        corners_.push_back(*point);
        emit handlesChanged();
    } else if (measuring_ && hand_ == Hand::bottom_line) {
        drawn_.clear();
        drawn_last_.reset();
        drawing_ = true;
        drawBottom(at);
    } else if (measuring_) {
        handles_ = MeasureHandles{point->row,     point->side, point->slant_m,
                                  point->slant_m, 0,           handles_ && handles_->floating};
        grip_ = Grip::fresh;
        last_grip_ = Grip::end;
        grip_offset_ = 0;
        emit handlesChanged();
    } else {
        pick_ = point;
        emit pointedChanged();
    }
    update();
}

void PictureView::dragTo(QPointF at) {
    if (!handles_)
        return;
    auto &h = *handles_;
    const double x = at.x() + grip_offset_ - keelX();
    const double across = std::max(0.0, (h.side == Side::port ? -x : x) / pixelsPerMetre());
    const double slant = std::min(slantAt(h.row, across),
                                  static_cast<double>(context_.session.shown.scan().facts(h.row).range_m));
    if (grip_ == Grip::top)
        h.top_m = std::clamp(slant, h.near_m, h.end_m);
    else if (grip_ == Grip::near_edge)
        h.near_m = std::clamp(slant, 0.1, h.top_m);
    else
        h.end_m = std::max(slant, h.top_m);
    emit handlesChanged();
}

void PictureView::mouseMoveEvent(QMouseEvent *event) {
    hover_ = event->position();
    if (grip_ != Grip::none)
        dragTo(event->position());
    if (drawing_)
        drawBottom(event->position());
    emit pointedChanged();
    update();
}

void PictureView::mouseReleaseEvent(QMouseEvent *event) {
    if (drawing_) {
        drawing_ = false;
        // A press alone is no line.
        if (drawn_.size() > 2) {
            std::vector<double> altitudes;
            for (const auto &[row, altitude] : drawn_)
                altitudes.push_back(altitude);
            context_.session.correctBottom(drawn_.begin()->first, altitudes);
        }
        drawn_.clear();
        emit handlesChanged();
        update();
        return;
    }
    if (event->button() != Qt::LeftButton || grip_ == Grip::none)
        return;
    dragTo(event->position());
    // A press without a drag: the end is put down a little behind, ready to be drawn out.
    if (grip_ == Grip::fresh && handles_ && (handles_->end_m - handles_->top_m) * pixelsPerMetre() < 4) {
        handles_->end_m = std::min(range_m_, handles_->top_m + range_m_ * 0.08);
        emit handlesChanged();
    }
    grip_ = Grip::none;
    update();
}

void PictureView::mouseDoubleClickEvent(QMouseEvent *event) {
    if (const int contact = measuring_ ? 0 : contactAt(event->position()))
        emit contactOpened(contact);
    else
        mousePressEvent(event);
}

void PictureView::leaveEvent(QEvent *) {
    hover_.reset();
    emit pointedChanged();
    update();
}

void PictureView::wheelEvent(QWheelEvent *event) {
    // Up is towards now.
    scrollLines(event->angleDelta().y() / 4);
}

} // namespace heron::app
