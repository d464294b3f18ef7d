#include "views/scan/range_ruler.hpp"

#include "kit/theme.hpp"
#include "parts/picture_view.hpp"
#include "reading/measure.hpp"

#include <QPainter>
#include <cmath>

namespace heron::app {

double roundStep(double span, int marks) {
    const double raw = span / marks, power = std::pow(10.0, std::floor(std::log10(raw)));
    for (const double nice : {1.0, 2.0, 2.5, 5.0, 10.0})
        if (nice * power >= raw * 0.999)
            return nice * power;
    return 10 * power;
}

RangeRuler::RangeRuler(ViewContext &context, PictureView &picture, QWidget *parent)
    : QWidget(parent), context_(context), picture_(picture) {
    setFixedHeight(38);
    setAttribute(Qt::WA_OpaquePaintEvent);
    connect(&context_.session.shown, &ShownScan::rowsAdded, this, [this] {
        const auto &scan = context_.session.shown.scan();
        const double now =
            context_.session.shown.empty() ? 0 : scan.bottom(context_.session.shown.newest()).altitude_m;
        if (std::fabs(now - drawn_altitude_) > 0.05)
            update(); // the second line moves with the depth
    });
    connect(&picture_, &PictureView::rangeChanged, this, qOverload<>(&QWidget::update));
    connect(&picture_, &PictureView::frozenChanged, this, qOverload<>(&QWidget::update));
    connect(&picture_, &PictureView::shapeChanged, this, qOverload<>(&QWidget::update));
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, qOverload<>(&QWidget::update));
    connect(&context_.session.shown, &ShownScan::replaced, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

QString RangeRuler::groundText(double slant) const {
    const auto &scan = context_.session.shown.scan();
    if (context_.session.shown.empty())
        return {};
    const auto row = picture_.topRow();
    const auto plane = bottom_at(scan, row);
    if (!plane)
        return {};
    const auto ground = ground_range_m(slant, *plane);
    if (!ground || slant < plane->altitude_m * 1.02)
        return {};
    return QString::fromStdString(
        print_length(*ground, context_.session.preferences.units(),
                     context_.session.preferences.units() == UnitSystem::feet ? 0 : 1)
            .figure);
}

QString RangeRuler::soundText(double ground) const {
    if (context_.session.shown.empty() || !context_.session.shown.scan().bottom(picture_.topRow()).found)
        return {};
    const double slant =
        std::hypot(ground, context_.session.shown.scan().bottom(picture_.topRow()).altitude_m);
    return QString::fromStdString(
        print_length(slant, context_.session.preferences.units(),
                     context_.session.preferences.units() == UnitSystem::feet ? 0 : 1)
            .figure);
}

void RangeRuler::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    const bool feet = context_.session.preferences.units() == UnitSystem::feet;
    const double unit = feet ? metres_per_foot : 1;
    const double range = picture_.range() / unit;
    const double step = roundStep(range, 4);
    const double keel = picture_.keelX(), per_unit = picture_.pixelsPerMetre() * unit;
    const auto &scan = context_.session.shown.scan();
    drawn_altitude_ =
        context_.session.shown.empty() ? 0 : scan.bottom(context_.session.shown.newest()).altitude_m;
    const auto word = [&](double x, int y, const QString &text, bool bold, const QColor &ink) {
        p.setFont(theme.font(bold ? 13 : 12, bold));
        p.setPen(ink);
        const double w = p.fontMetrics().horizontalAdvance(text);
        p.drawText(QPointF(std::clamp(x - w / 2, 0.0, width() - w), y), text);
    };
    const auto along = tr("along the sound"), over = feet ? tr("over ground, ft") : tr("over ground, m");
    const QFontMetricsF small(theme.font(12));
    const double middle =
        std::max(62.0, std::max(small.horizontalAdvance(along), small.horizontalAdvance(over)) / 2 + 16);
    word(keel, 13, along, false, colour("ink2"));
    word(keel, 29, over, false, colour("ink2"));
    const bool ground = picture_.across() == Across::ground;
    for (const int s : {-1, 1}) {
        if (!picture_.shows(s < 0 ? Side::port : Side::starboard))
            continue;
        word(keel + s * 1.5 * step * per_unit, 13, s < 0 ? tr("left") : tr("right"), true, colour("ink"));
        for (double v = step; v <= range * 1.001; v += step) {
            const double x = keel + s * v * per_unit;
            if (std::fabs(x - keel) < middle)
                continue; // the words in the middle stand there
            // The round figures stand on the line that the picture runs along; the other follows from the
            // depth now.
            word(x, 13, ground ? soundText(v * unit) : QString::number(v), !ground,
                 colour(ground ? "ink2" : "ink"));
            word(x, 29, ground ? QString::number(v) : groundText(v * unit), ground,
                 colour(ground ? "ink" : "ink2"));
            p.setPen(QPen(colour("line"), 1));
            const double tick = std::clamp(x, 0.0, width() - 1.0);
            p.drawLine(QPointF(tick, 33), QPointF(tick, 38));
        }
    }
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(0, height() - 1, width(), height() - 1);
}

} // namespace heron::app
