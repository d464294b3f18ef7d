#include "views/scan/scan_panel.hpp"

#include "kit/theme.hpp"
#include "parts/picture_view.hpp"
#include "views/scan/conditions_box.hpp"
#include "views/scan/contact_box.hpp"
#include "views/scan/control_pages.hpp"
#include "views/scan/tuning_box.hpp"

#include <QPainter>
#include <cmath>

namespace heron::app {
namespace {
constexpr int low = 740; // windows lower than this have a flatter head and closer controls
}

int ScanPanel::headHeight() const {
    return height() < low ? 112 : 188;
}

ScanPanel::ScanPanel(ViewContext &context, PictureView &picture, QWidget *parent)
    : QWidget(parent), context_(context), picture_(picture) {
    setFixedWidth(285);
    setAttribute(Qt::WA_OpaquePaintEvent);
    tuning_ = new TuningBox(context, this);
    readout_ = new Readout(context, picture, this);
    controls_ = new ControlPages(context, picture, this);
    conditions_ = new ConditionsBox(context, this);
    contact_ = new ContactBox(context, picture, this);
    connect(&picture_, &PictureView::contactPressed, this, &ScanPanel::choose);
    connect(conditions_, &ConditionsBox::askingChanged, this, &ScanPanel::choose);
    connect(&picture_, &PictureView::pointedChanged, this, &ScanPanel::choose);
    connect(&picture_, &PictureView::handlesChanged, this, &ScanPanel::choose);
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, qOverload<>(&QWidget::update));
    connect(&context_.session.shown, &ShownScan::replaced, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
    // Figures that change faster than this cannot be read.
    connect(&timer_, &QTimer::timeout, this, [this] {
        update(0, 0, width(), headHeight());
        readout_->refresh();
    });
    timer_.start(250);
    choose();
}

void ScanPanel::choose() {
    const bool reading = picture_.measuring() || picture_.picked();
    const bool contact = !reading && picture_.pressedContact() != 0;
    const bool asking = conditions_->asking() && !reading && !contact;
    readout_->setVisible(reading);
    conditions_->setVisible(asking);
    contact_->setVisible(contact);
    tuning_->setVisible(!reading && !asking && !contact);
}

void ScanPanel::resizeEvent(QResizeEvent *) {
    const int controls = ControlPages::heightOf(height() < low), head = headHeight();
    const QRect middle(0, head + 4, width() - 1, height() - head - 4 - controls);
    readout_->setGeometry(middle);
    tuning_->setGeometry(middle);
    conditions_->setGeometry(middle);
    contact_->setGeometry(middle);
    controls_->setGeometry(0, height() - controls, width() - 1, controls);
}

void ScanPanel::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(width() - 1, 0, width() - 1, height());
    const int right = width() - 16;
    const auto text = wordsOn(p);
    const auto rule = [&](int y, const char *ink, qreal w = 1) {
        p.setPen(QPen(colour(ink), w));
        p.drawLine(16, y, right, y);
    };
    // Depth and speed: read in two seconds from a moving boat.
    const auto &shown = context_.session.shown;
    const auto &scan = shown.scan();
    const bool found = !shown.empty() && scan.bottom(shown.newest()).found;
    const bool by_sounder = found && scan.bottom(shown.newest()).source == BottomSource::sounder;
    const bool flat = height() < low;
    wordsWithin(p, 16, flat ? 20 : 24, by_sounder ? tr("Depth, by the sounder") : tr("Depth under the boat"),
                flat ? 160 : width() - 24, flat ? 13 : 14, false, "ink2");
    const auto depth = print_length(
        found ? scan.bottom(shown.newest()).altitude_m + scan.installation.draught_m() : std::nan(""),
        context_.session.preferences.units());
    auto big = theme.font(flat ? 60 : 88, true);
    big.setLetterSpacing(QFont::AbsoluteSpacing, flat ? -2 : -4);
    p.setFont(big);
    p.setPen(colour("ink"));
    const int base = flat ? 80 : 102;
    p.drawText(QPointF(12, base), QString::fromStdString(depth.figure));
    const double w = p.fontMetrics().horizontalAdvance(QString::fromStdString(depth.figure));
    text(20 + w, base, QString::fromStdString(depth.unit), flat ? 17 : 24, false, "ink2");
    const auto speed =
        print_speed(shown.speedNow().value_or(std::nan("")), context_.session.preferences.units());
    const auto heading = shown.headingNow();
    const auto figure = [&](double x, double y, const QString &label, const QString &value,
                            const QString &unit) {
        text(x, y - (flat ? 22 : 36), label, flat ? 12 : 14, false, "ink2");
        const double n = text(x, y, value, flat ? 20 : 34, true, "ink");
        text(x + n + 5, y, unit, 14, false, "ink2");
    };
    const auto speed_figure = QString::fromStdString(speed.figure),
               speed_unit = QString::fromStdString(speed.unit);
    const auto heading_figure = QString::fromStdString(heading ? print_bearing(*heading) : "–");
    if (flat) {
        figure(186, 48, tr("Speed"), speed_figure, speed_unit);
        figure(186, 96, tr("Heading"), heading_figure, {});
    } else {
        rule(116, "hair");
        figure(16, 174, tr("Speed"), speed_figure, speed_unit);
        figure(150, 174, tr("Heading"), heading_figure, {});
    }
    rule(headHeight(), "line", 1.5);
}

} // namespace heron::app
