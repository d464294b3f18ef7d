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
constexpr int head_height = 188;
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
        update(0, 0, width(), head_height);
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
    const int controls = ControlPages::wantedHeight();
    const QRect middle(0, head_height + 4, width() - 1, height() - head_height - 4 - controls);
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
    const auto &scan = context_.session.shown.scan();
    const bool found = !context_.session.shown.empty() && scan.bottom(context_.session.shown.newest()).found;
    const bool by_sounder =
        found && scan.bottom(context_.session.shown.newest()).source == BottomSource::sounder;
    text(16, 24, by_sounder ? tr("Depth, by the sounder") : tr("Depth under the boat"), 14, false, "ink2");
    const auto depth = print_length(found ? scan.bottom(context_.session.shown.newest()).altitude_m +
                                                scan.installation.draught_m()
                                          : std::nan(""),
                                    context_.session.preferences.units());
    auto big = theme.font(88, true);
    big.setLetterSpacing(QFont::AbsoluteSpacing, -4);
    p.setFont(big);
    p.setPen(colour("ink"));
    p.drawText(QPointF(12, 102), QString::fromStdString(depth.figure));
    const double w = p.fontMetrics().horizontalAdvance(QString::fromStdString(depth.figure));
    text(20 + w, 102, QString::fromStdString(depth.unit), 24, false, "ink2");
    rule(116, "hair");
    text(16, 138, tr("Speed"), 14, false, "ink2");
    text(150, 138, tr("Heading"), 14, false, "ink2");
    const auto speed = print_speed(context_.session.shown.speedNow().value_or(std::nan("")),
                                   context_.session.preferences.units());
    const double sw = text(16, 174, QString::fromStdString(speed.figure), 34, true, "ink");
    text(22 + sw, 174, QString::fromStdString(speed.unit), 14, false, "ink2");
    const auto heading = context_.session.shown.headingNow();
    text(150, 174, QString::fromStdString(heading ? print_bearing(*heading) : "–"), 34, true, "ink");
    rule(head_height, "line", 1.5);
}

} // namespace heron::app
