#include "pass_compare.hpp"

#include "shell/glyphs.hpp"
#include "shell/theme.hpp"

#include <QPainter>
#include <algorithm>
#include <cmath>

namespace heron::app {

PassCompare::PassCompare(Survey &survey, QWidget *parent) : QWidget(parent), survey_(survey) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    setVisible(false);
    connect(&survey_, &Survey::scanReplaced, this, [this] { setVisible(false); });
    connect(&survey_, &Survey::windowChanged, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

bool PassCompare::show(const GeoPoint &place, std::size_t row) {
    place_ = place;
    looks_ = looks_at(survey_.scan(), place, survey_.end());
    const auto nearest = std::min_element(looks_.begin(), looks_.end(), [row](const Look &a, const Look &b) {
        const auto off = [row](const Look &l) { return l.row > row ? l.row - row : row - l.row; };
        return off(a) < off(b);
    });
    if (looks_.size() < 2 || nearest == looks_.end())
        return false;
    here_ = static_cast<std::size_t>(nearest - looks_.begin());
    other_ = here_ == looks_.size() - 1 ? here_ - 1 : looks_.size() - 1;
    setVisible(true);
    raise();
    update();
    return true;
}

void PassCompare::next() {
    do
        other_ = (other_ + 1) % looks_.size();
    while (other_ == here_);
    update();
}

QString PassCompare::words(const Look &look) const {
    const auto &f = survey_.scan().facts(look.row);
    return tr("%1 UTC · %2 on the %3 · heading %4")
        .arg(QString::fromStdString(print_rfc3339(f.time, 0)).mid(11, 8),
             QString::fromStdString(print_length(look.ground_m, survey_.units(), 0).text()),
             look.side == Side::port ? tr("left") : tr("right"),
             QString::fromStdString(print_bearing(look.heading_deg)));
}

void PassCompare::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    if (looks_.size() < 2)
        return;
    const int gap = 8, head = 44, w = (width() - gap) / 2;
    const int side = std::min(w, height() - head - 30);
    p.setFont(theme.font(15, true));
    p.setPen(colour("ink"));
    p.drawText(QPointF(0, 18), tr("The same place, two passes"));
    p.setFont(theme.font(13));
    p.setPen(colour("ink2"));
    p.drawText(QPointF(0, 36),
               looks_.size() > 2 ? tr("%1 passes saw it; E shows the next, press to close").arg(looks_.size())
                                 : tr("press to close"));
    for (const bool right : {false, true}) {
        const auto &look = looks_[right ? other_ : here_];
        const auto chip = plan_patch(survey_.scan(), look, place_, size_m_, 256, survey_.window(),
                                     survey_.filters(), survey_.angles());
        QImage image(256, 256, QImage::Format_RGB32);
        for (int y = 0; y < 256; ++y)
            for (int x = 0; x < 256; ++x)
                image.setPixel(x, y, theme.map()[chip.level[static_cast<std::size_t>(y * 256 + x)]]);
        const QRectF box(right ? w + gap : 0, head, side, side);
        p.drawImage(box, image);
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(colour("casing"), 4));
        p.drawEllipse(box.center(), 9, 9);
        p.setPen(QPen(colour("pick"), 1.8));
        p.drawEllipse(box.center(), 9, 9);
        // The way the sound came: shadows point away from it.
        const double from = (look.heading_deg + (look.side == Side::port ? 90 : -90)) / degrees_per_radian;
        const QPointF toward(std::sin(from), -std::cos(from));
        const QPointF tip = box.center() + toward * (side * 0.36),
                      tail = box.center() + toward * (side * 0.46);
        for (const auto &[ink, width_px] : {std::pair{colour("casing"), 4.0}, {colour("paper"), 1.8}}) {
            p.setPen(QPen(ink, width_px));
            p.drawLine(tail, tip);
            const QPointF across(-toward.y(), toward.x());
            p.drawLine(tip, tip + toward * 8 + across * 5);
            p.drawLine(tip, tip + toward * 8 - across * 5);
        }
        paintCased(p, box.topLeft() + QPointF(8, 20), words(look), theme.font(13, true), colour("paper"));
        const bool feet = survey_.units() == UnitSystem::feet;
        const double bar_m = feet ? metres_from_feet(10) : 3, bar = bar_m / size_m_ * side;
        p.setPen(QPen(colour("paper"), 2));
        p.drawLine(QPointF(box.left() + 10, box.bottom() - 12),
                   QPointF(box.left() + 10 + bar, box.bottom() - 12));
        paintCased(p, {box.left() + 10, box.bottom() - 18},
                   QString::fromStdString(print_length(bar_m, survey_.units(), 0).text()), theme.font(13),
                   colour("paper"));
        paintCased(p, {box.right() - 60, box.bottom() - 12}, tr("north up"), theme.font(12), colour("paper"));
    }
}

void PassCompare::mousePressEvent(QMouseEvent *) {
    setVisible(false);
    emit closed();
}

} // namespace heron::app
