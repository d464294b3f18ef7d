#include "parts/level_box.hpp"

#include "kit/theme.hpp"
#include "units/units.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <map>

namespace heron::app {

LevelBox::LevelBox(WindowState &window, const QString &title, QWidget *parent)
    : QWidget(parent), window_(window), title_(title) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    setToolTip(tr("Levels of the water (pale) and of the bottom. Drag floor and top; press twice to let the "
                  "window follow the levels again"));
    connect(&window_, &WindowState::displayChanged, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

double LevelBox::xOf(double db) const {
    return 16 + (db - low_db_) / (high_db_ - low_db_) * (width() - 32);
}
double LevelBox::dbAt(double x) const {
    return low_db_ + (x - 16) / (width() - 32) * (high_db_ - low_db_);
}

QRectF LevelBox::handleRect(bool top) const {
    const auto &w = window_.displayWindow();
    double floor_x = std::clamp(xOf(w.floor_db), 16.0 + handle_w / 2.0, width() - 16.0 - handle_w / 2.0);
    double top_x =
        std::clamp(xOf(w.floor_db + w.span_db), 16.0 + handle_w / 2.0, width() - 16.0 - handle_w / 2.0);
    if (top_x - floor_x < handle_w + 6) {
        const double middle = (floor_x + top_x) / 2;
        floor_x = middle - handle_w / 2.0 - 3;
        top_x = middle + handle_w / 2.0 + 3;
    }
    return {(top ? top_x : floor_x) - handle_w / 2.0, plot_top + plot_height + bar_height + 6.0, handle_w,
            handle_h};
}

void LevelBox::mousePressEvent(QMouseEvent *event) {
    before_ = window_.displayWindow();
    for (const bool top : {false, true})
        if (!window_.levels().empty() && handleRect(top).contains(event->position()))
            grip_ = top ? Grip::top : Grip::floor;
}

void LevelBox::mouseMoveEvent(QMouseEvent *event) {
    if (grip_ == Grip::none)
        return;
    auto w = window_.displayWindow();
    const double db = std::round(dbAt(event->position().x()));
    const double top = w.floor_db + w.span_db;
    if (grip_ == Grip::floor) {
        w.floor_db = std::min(db, top - 6);
        w.span_db = top - w.floor_db;
    } else {
        w.span_db = std::max(6.0, db - w.floor_db);
    }
    window_.setDisplayWindow(w);
}

void LevelBox::mouseReleaseEvent(QMouseEvent *) {
    if (grip_ == Grip::none)
        return;
    grip_ = Grip::none;
    if (!(before_ == window_.displayWindow()))
        emit dragged(before_, window_.displayWindow());
}

void LevelBox::mouseDoubleClickEvent(QMouseEvent *) {
    window_.followLevels();
}

void LevelBox::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    const auto text = wordsOn(p);
    text(16, 18, title_, 17, true, "ink");
    const auto head = window_.windowFollows() ? tr("levels, dB · follows") : tr("levels, dB · by hand");
    p.setFont(Theme::instance().font(12));
    text(width() - 16 - p.fontMetrics().horizontalAdvance(head), 18, head, 12, false, "ink2");
    paintLevels(p);
    paintHandles(p);
}

// The levels of the water and of the bottom, over what the window makes of them.
void LevelBox::paintLevels(QPainter &p) {
    // The axis holds nearly all of the levels and the window.
    const auto &levels = window_.levels();
    const auto &w = window_.displayWindow();
    if (!levels.empty()) {
        low_db_ = std::min(levels.bottom_quantile_db(0.001) - 6, w.floor_db - 2);
        high_db_ = std::max(levels.bottom_quantile_db(0.9995) + 4, w.floor_db + w.span_db + 2);
    }
    const int n = width() - 32;
    // A bar holds a whole number of the histogram's steps, so that no bar gets one more than its neighbour.
    const double per_bar =
        std::ceil((high_db_ - low_db_) / (n / 3.0) / LevelHistogram::step_db) * LevelHistogram::step_db;
    low_db_ = std::floor(low_db_ / per_bar) * per_bar;
    const auto drawn = [&](const LevelHistogram::Counts &counts, auto ink) {
        std::map<long, double> bars;
        double most = 1e-9;
        for (std::size_t i = 0; i < counts.size(); ++i) {
            const double db =
                LevelHistogram::lowest_db + (static_cast<double>(i) + 0.5) * LevelHistogram::step_db;
            if (db > low_db_ && db < high_db_)
                most = std::max(most, bars[std::lround(std::floor((db - low_db_) / per_bar))] += counts[i]);
        }
        for (const auto &[bar, count] : bars) {
            const double db = low_db_ + static_cast<double>(bar) * per_bar;
            const double h = count / most * (plot_height - 4);
            p.fillRect(QRectF(xOf(db), plot_top + plot_height - h,
                              std::max(1.0, xOf(db + per_bar) - xOf(db) - 1), h),
                       ink(db));
        }
    };
    if (!levels.empty()) {
        drawn(levels.water(), [](double) { return colour("hair"); });
        drawn(levels.bottom(), [&](double db) {
            return colour(db >= w.floor_db && db <= w.floor_db + w.span_db ? "ink" : "mute");
        });
    }
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(16, plot_top + plot_height, width() - 16, plot_top + plot_height);
    for (int x = 0; x < n; ++x)
        p.fillRect(QRectF(16 + x, plot_top + plot_height + 3, 1, bar_height - 3),
                   QColor::fromRgb(Theme::instance().map()[w.level_of(dbAt(16 + x))]));
    p.setRenderHint(QPainter::Antialiasing);
}

// Handles hold a value; without levels there is none.
void LevelBox::paintHandles(QPainter &p) {
    if (window_.levels().empty())
        return;
    auto &theme = Theme::instance();
    const auto &w = window_.displayWindow();
    for (const bool top : {false, true}) {
        const double db = top ? w.floor_db + w.span_db : w.floor_db;
        const auto box = handleRect(top);
        const auto ink = grip_ == (top ? Grip::top : Grip::floor) ? colour("accent") : colour("ink");
        p.setPen(QPen(ink, 1.5));
        p.drawLine(QPointF(xOf(db), plot_top), QPointF(xOf(db), plot_top + plot_height + bar_height));
        p.drawLine(QPointF(xOf(db), plot_top + plot_height + bar_height), {box.center().x(), box.top()});
        p.setBrush(colour("page"));
        p.drawRoundedRect(box, 3, 3);
        p.setFont(theme.font(12));
        p.setPen(colour("ink2"));
        p.drawText(box.adjusted(0, 3, 0, -handle_h / 2.0), Qt::AlignCenter, top ? tr("top") : tr("floor"));
        p.setFont(theme.font(14, true));
        p.setPen(ink);
        p.drawText(box.adjusted(0, handle_h / 2.0 - 2, 0, -2), Qt::AlignCenter,
                   QString::fromStdString(print_number(db, 0)));
    }
    const auto between = handleRect(false).right(), beyond = handleRect(true).left();
    if (beyond - between > 44) {
        p.setFont(theme.font(12));
        p.setPen(colour("ink2"));
        p.drawText(QRectF(between, handleRect(false).top() + 2, beyond - between, 18), Qt::AlignCenter,
                   tr("span"));
        p.setFont(theme.font(14, true));
        p.setPen(colour("ink"));
        p.drawText(QRectF(between, handleRect(false).top() + 20, beyond - between, 20), Qt::AlignCenter,
                   QString::number(std::lround(w.span_db)));
    }
}

} // namespace heron::app
