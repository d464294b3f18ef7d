#include "range_ruler.hpp"

#include "picture_view.hpp"
#include "reading/measure.hpp"
#include "shell/theme.hpp"

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

RangeRuler::RangeRuler(Survey &survey, PictureView &picture, QWidget *parent)
    : QWidget(parent), survey_(survey), picture_(picture) {
    setFixedHeight(38);
    setAttribute(Qt::WA_OpaquePaintEvent);
    connect(&survey_, &Survey::rowsAdded, this, [this] {
        const auto &scan = survey_.scan();
        const double now = scan.empty() ? 0 : scan.newest().bottom.altitude_m;
        if (std::fabs(now - drawn_altitude_) > 0.05)
            update(); // the second line moves with the depth
    });
    connect(&picture_, &PictureView::rangeChanged, this, qOverload<>(&QWidget::update));
    connect(&picture_, &PictureView::frozenChanged, this, qOverload<>(&QWidget::update));
    connect(&survey_, &Survey::unitsChanged, this, qOverload<>(&QWidget::update));
    connect(&survey_, &Survey::scanReplaced, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

QString RangeRuler::groundText(double slant) const {
    const auto &scan = survey_.scan();
    if (scan.empty())
        return {};
    const auto row = std::clamp(picture_.topRow(), scan.first(), scan.end() - 1);
    const auto plane = bottom_at(scan, row);
    if (!plane)
        return {};
    const auto ground = ground_range_m(slant, *plane);
    if (!ground || slant < plane->altitude_m * 1.02)
        return {};
    return QString::fromStdString(
        print_length(*ground, survey_.units(), survey_.units() == UnitSystem::feet ? 0 : 1).figure);
}

void RangeRuler::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    const bool feet = survey_.units() == UnitSystem::feet;
    const double unit = feet ? metres_per_foot : 1;
    const double range = picture_.range() / unit;
    const double step = roundStep(range, 4);
    const double middle = width() / 2.0;
    const auto &scan = survey_.scan();
    drawn_altitude_ = scan.empty() ? 0 : scan.newest().bottom.altitude_m;
    const auto word = [&](double x, int y, const QString &text, bool bold, const QColor &ink) {
        p.setFont(theme.font(bold ? 13 : 12, bold));
        p.setPen(ink);
        const double w = p.fontMetrics().horizontalAdvance(text);
        p.drawText(QPointF(std::clamp(x - w / 2, 0.0, width() - w), y), text);
    };
    word(middle, 13, tr("along the sound"), false, colour("ink2"));
    word(middle, 29, feet ? tr("over ground, ft") : tr("over ground, m"), false, colour("ink2"));
    for (const int s : {-1, 1}) {
        const double words = middle + s * 1.5 * step / range * middle;
        word(words, 13, s < 0 ? tr("left") : tr("right"), true, colour("ink"));
        for (double v = step; v <= range * 1.001; v += step) {
            const double x = middle + s * v / range * middle;
            if (std::fabs(x - middle) < 62)
                continue; // the words in the middle stand there
            word(x, 13, QString::number(v), true, colour("ink"));
            word(x, 29, groundText(v * unit), false, colour("ink2"));
            p.setPen(QPen(colour("line"), 1));
            p.drawLine(QPointF(std::min(x, width() - 1.0), 33), QPointF(std::min(x, width() - 1.0), 38));
        }
    }
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(0, height() - 1, width(), height() - 1);
}

} // namespace heron::app
