// How a screen that is made measurable is drawn: the picture with its handles, and what is known of it
// beside.
#include "views/screen/screen_view.hpp"

#include "kit/paragraph.hpp"
#include "kit/theme.hpp"
#include "screen/circle.hpp"

#include <QPainter>
#include <array>
#include <cmath>

namespace heron::app {

void ScreenView::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setRenderHint(QPainter::Antialiasing);
    paintPicture(p);
    paintColumn(p);
}

void ScreenView::paintPicture(QPainter &p) const {
    if (showsKept()) {
        p.setPen(colour("ink"));
        p.setFont(Theme::instance().font(17, true));
        p.drawText(QRectF(40, 0, width() - column_wide - 80.0, height()), Qt::AlignCenter | Qt::TextWordWrap,
                   tr("No screen was read yet."));
        return;
    }
    if (picture_.empty()) {
        const auto box = pictureBox();
        p.setPen(QPen(colour("line"), 1.5, Qt::DashLine));
        p.drawRoundedRect(box, 4, 4);
        p.setPen(colour("ink"));
        p.setFont(Theme::instance().font(17, true));
        p.drawText(box.adjusted(40, 0, -40, -30), Qt::AlignCenter | Qt::TextWordWrap,
                   tr("Drop a picture or a film of a unit's screen here, or press to choose one."));
        return;
    }
    p.drawImage(pictureBox(), image_);
    QPolygonF panel;
    for (const auto &c : calibration_.corners)
        panel << toView(c);
    p.setBrush(Qt::NoBrush);
    for (const auto &[ink, wide] : {std::pair{QColor(0, 0, 0, 160), 4.0}, {QColor(255, 255, 255), 1.8}}) {
        p.setPen(QPen(ink, wide));
        p.drawPolygon(panel);
        p.setPen(QPen(ink, wide, Qt::DashLine));
        if (circle()) {
            QPolygonF rim;
            for (int deg = 0; deg <= 360; deg += 3)
                rim << toView(on_circle(calibration_, deg, calibration_.range_m));
            p.drawPolyline(rim);
            p.drawLine(toView(on_circle(calibration_, 0, 0)), toView(bowAtRim()));
        } else {
            const auto line = middleLine();
            p.drawLine(toView(line[0]), toView(line[1]));
        }
    }
    paintFigures(p);
    for (const auto &corner : panel) {
        p.setPen(QPen(QColor(0, 0, 0, 200), 2));
        p.setBrush(colour("accent"));
        p.drawEllipse(corner, 11, 11);
    }
    if (circle()) {
        p.setBrush(colour("reed"));
        p.drawEllipse(toView(bowAtRim()), 13, 13);
        return;
    }
    const auto line = middleLine();
    const auto grip = (toView(line[0]) + toView(line[1])) / 2;
    p.drawRect(QRectF(grip.x() - 9, grip.y() - 9, 18, 18));
    // The newest row.
    const std::size_t ends[4][2] = {{0, 1}, {3, 2}, {0, 3}, {1, 2}};
    const auto &edge = ends[static_cast<std::size_t>(calibration_.newest)];
    p.setPen(QPen(colour("accent"), 5));
    p.drawLine(panel[static_cast<qsizetype>(edge[0])], panel[static_cast<qsizetype>(edge[1])]);
}

void ScreenView::paintColumn(QPainter &p) const {
    const int x = width() - column_wide, w = column_wide - 16;
    if (showsKept()) {
        p.setPen(colour("ink"));
        p.setFont(Theme::instance().font(14));
        paintParagraph(
            p, QRectF(x, 84, w, height() - 170.0),
            tr("What was read of a screen is shown as it was read. Its original, where it still is, comes "
               "here with its calibration, to be set anew."));
        return;
    }
    const auto text = [&](int y, const QString &words, int px, bool bold, const char *ink) {
        wordsWithin(p, x, y, words, w, px, bold, ink);
    };
    if (circle())
        text(134, tr("The bow points to %1° on the picture").arg(std::lround(*calibration_.circle_bow_deg)),
             15, true, "ink");
    else
        text(94, tr("The newest row stands at the"), 13, false, "ink2");
    const QString labels[] = {circle() ? tr("Range, to the rim") : tr("Range, each side"),
                              tr("Way from row to row"), tr("Depth under the transducer")};
    const QString values[] = {range_said_ ? length(calibration_.range_m, 0) : tr("say it: − or +"),
                              circle()                   ? tr("none: it turns")
                              : calibration_.along_m > 0 ? length(calibration_.along_m, 2)
                                                         : tr("unknown: no lengths"),
                              calibration_.depth_m ? length(*calibration_.depth_m, 1)
                                                   : tr("from the first return")};
    for (int i = 0; i < 3; ++i) {
        const int y = 214 + i * 58;
        p.setFont(Theme::instance().font(13));
        p.setPen(colour("ink2"));
        p.drawText(QPointF(x, y + 17), labels[i]);
        wordsWithin(p, x, y + 41, values[i], w - 112, 17, true, "ink");
    }
    int y = 454;
    if (!picture_.empty() && ramp_.colours.size() > 1) {
        text(y, tr("Its colours, from weak to strong"), 13, false, "ink2");
        const double each = static_cast<double>(w) / static_cast<double>(ramp_.colours.size());
        for (std::size_t i = 0; i < ramp_.colours.size(); ++i) {
            const auto &c = ramp_.colours[i];
            p.fillRect(QRectF(x + static_cast<double>(i) * each, y + 8, each + 1, 22),
                       QColor(c.red, c.green, c.blue));
        }
        y += 50;
    }
    // In a low window the last ones have no room: first what was just told.
    QStringList words;
    if (!told_.isEmpty())
        words << told_;
    if (!picture_.empty()) {
        if (!ramp_.rises)
            words << tr(
                "They do not grow lighter all the way: levels are guessed. Places and heights stand.");
        words << (remembered_ && calibration_.pixel_sd > saved_pixels
                      ? tr("As it was set for the last photograph of this size; see that the corners fit "
                           "this one.")
                  : remembered_ ? tr("As it was set for the last screen of this size.")
                  : circle() ? tr("Pull the corners to the square about the circle, and the ball at its rim "
                                  "to where the bow is.")
                  : symmetry_ > sure_symmetry
                      ? tr("Suggested: both sides are most alike about the dashed line. See whether the boat "
                           "ran there.")
                      : tr("Pull the corners to the sonar's picture and the dashed line to the boat's way."));
        if (film_)
            words << (circle() ? tr("A film: its first picture. What is swept anew is taken once.")
                               : tr("A film: its first picture. What scrolls in is taken once."));
        words << tr("Marks of it have no place unless a receiver's is known; heights and distances stand.");
    }
    const auto font = Theme::instance().font(14);
    for (const auto &paragraph : words) {
        p.setFont(font);
        p.setPen(colour("ink"));
        const double high = paragraphHeight(font, w, paragraph);
        if (y + high > height() - 84)
            break;
        paintParagraph(p, QRectF(x, y, w, high + 2), paragraph);
        y += static_cast<int>(high) + 8;
    }
}

} // namespace heron::app
