#include "views/scan/readout.hpp"

#include "kit/key_button.hpp"
#include "kit/theme.hpp"
#include "parts/picture_view.hpp"
#include "reading/outline.hpp"

#include <QPainter>
#include <cmath>

namespace heron::app {

Readout::Readout(ViewContext &context, PictureView &picture, QWidget *parent)
    : QWidget(parent), context_(context), picture_(picture) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    floats_ = new KeyButton(QString(), tr("Floats"), Qt::Key_H,
                            tr("The dark stands apart from the echo: the thing floats; put the second handle "
                               "on the middle of its shadow"),
                            this);
    floats_->setCheckable(true);
    floats_->setObjectName(QStringLiteral("floats"));
    wide_ = new KeyButton(
        QString(), tr("Wide"), Qt::Key_Apostrophe,
        tr("The thing is wide: a third handle stands on its near edge, and the mark lies in its middle"),
        this);
    wide_->setCheckable(true);
    wide_->setObjectName(QStringLiteral("wide"));
    outline_ = new KeyButton(QString(), tr("Outline"), Qt::Key_M,
                             tr("Press corner after corner: two give a distance, more an area"), this);
    outline_->setCheckable(true);
    outline_->setObjectName(QStringLiteral("outline"));
    bottom_line_ =
        new KeyButton(QString(), tr("Bottom line"), Qt::Key_Period,
                      tr("Draw the first return where the program has it wrong: draw along the edge "
                         "of the dark strip, on either side"),
                      this);
    bottom_line_->setCheckable(true);
    bottom_line_->setObjectName(QStringLiteral("bottomLine"));
    using Hand = PictureView::Hand;
    connect(outline_, &KeyButton::clicked, this,
            [this](bool on) { picture_.setHand(on ? Hand::outline : Hand::shadow); });
    connect(bottom_line_, &KeyButton::clicked, this,
            [this](bool on) { picture_.setHand(on ? Hand::bottom_line : Hand::shadow); });
    connect(floats_, &KeyButton::toggled, &picture_, &PictureView::setFloating);
    connect(wide_, &KeyButton::toggled, &picture_, &PictureView::setWide);
    connect(&picture_, &PictureView::handlesChanged, this, &Readout::refresh);
    connect(&picture_, &PictureView::pointedChanged, this, &Readout::refresh);
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, &Readout::refresh);
    connect(&context_.session.shown, &ShownScan::replaced, this, &Readout::refresh);
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
    refresh();
}

void Readout::resizeEvent(QResizeEvent *) {
    const int y = height() - 54, w = (width() - 32 - 12) / 2;
    outline_->setGeometry(16, y - 54, w, 48);
    bottom_line_->setGeometry(16 + w + 12, y - 54, w, 48);
    floats_->setGeometry(16, y, w, 48);
    wide_->setGeometry(16 + w + 12, y, w, 48);
}

QString Readout::length(double metres, int decimals) const {
    return QString::fromStdString(
        print_length(metres, context_.session.preferences.units(), decimals).figure);
}
QString Readout::doubt(double sd, int decimals) const {
    return QString::fromStdString(print_doubt(sd, context_.session.preferences.units(), decimals));
}
QString Readout::lengthWithUnit(double metres, int decimals) const {
    return QString::fromStdString(
        print_length(metres, context_.session.preferences.units(), decimals).text());
}

void Readout::refresh() {
    lines_.clear();
    why_.clear();
    measurement_.reset();
    using Hand = PictureView::Hand;
    const auto hand = picture_.hand();
    if (!picture_.measuring())
        readCursor();
    else if (hand == Hand::outline)
        readOutline();
    else if (hand == Hand::bottom_line)
        readBottomLine();
    else
        readMeasure();
    outline_->setVisible(picture_.measuring());
    bottom_line_->setVisible(picture_.measuring());
    outline_->setChecked(hand == Hand::outline);
    bottom_line_->setChecked(hand == Hand::bottom_line);
    const auto &handles = picture_.handles();
    floats_->setVisible(picture_.measuring() && handles.has_value());
    wide_->setVisible(picture_.measuring() && handles.has_value());
    if (handles && wide_->isChecked() != (handles->near_m > 0))
        wide_->setChecked(handles->near_m > 0);
    if (handles && floats_->isChecked() != handles->floating)
        floats_->setChecked(handles->floating);
    update();
}

void Readout::readCursor() {
    title_ = tr("Pointed at");
    const auto at = picture_.pointed();
    if (!at) {
        title_ = tr("Nothing pointed at");
        return;
    }
    const auto r = read_cursor(context_.session.shown.scan(), *at, context_.session.shown.newest());
    if (r.placed.at)
        context_.window.lightPlace(r.placed.at->place);
    const auto side = at->side == Side::port ? tr("left") : tr("right");
    lines_.push_back({tr("Along the sound"), lengthWithUnit(at->slant_m), side});
    if (r.ground_m)
        lines_.push_back(
            {tr("Over ground"), lengthWithUnit(r.ground_m->value), tr("± %1").arg(doubt(r.ground_m->sd))});
    else
        lines_.push_back({tr("Over ground"), QStringLiteral("–"),
                          r.in_water ? tr("in the water: not known") : tr("bottom not found")});
    if (r.depth_m)
        lines_.push_back(
            {tr("Depth there"), lengthWithUnit(r.depth_m->value), tr("± %1").arg(doubt(r.depth_m->sd))});
    if (r.from_boat_now)
        lines_.push_back({tr("From the boat"), lengthWithUnit(r.from_boat_now->distance_m, 0),
                          QString::fromStdString(print_bearing(r.from_boat_now->bearing_deg))});
    // Before guests no place is told.
    if (r.placed.at && !context_.session.preferences.inCompany()) {
        lines_.push_back({QString::fromStdString(print_position(r.placed.at->place.latitude_deg,
                                                                r.placed.at->place.longitude_deg)),
                          {},
                          {}});
        lines_.push_back(
            {tr("place ± %1").arg(lengthWithUnit(r.placed.at->covariance.radial_sd_m())), {}, {}});
    }
    if (const auto text = say(r.placed.state); !text.empty())
        lines_.push_back({QString::fromStdString(text), {}, {}, !r.placed.at});
    if (context_.session.shown.scan().bottom(at->row).source == BottomSource::sounder)
        lines_.push_back({tr("depth from the sounder: on this slope the first return comes early"), {}, {}});
}

void Readout::readOutline() {
    title_ = tr("Outline");
    Outline o;
    const auto state =
        measure_outline(context_.session.shown.scan(), picture_.corners(), picture_.steadyLimits(), o);
    if (state != OutlineState::measured) {
        auto text = QString::fromStdString(say(state));
        text[0] = text[0].toUpper();
        lines_.push_back({text, {}, {}, state != OutlineState::too_few});
        lines_.push_back({tr("U takes the last corner back."), {}, {}});
        return;
    }
    const auto corners = picture_.corners().size();
    lines_.push_back({corners == 2 ? tr("Distance") : tr("Round it"), lengthWithUnit(o.length_m.value),
                      tr("± %1").arg(doubt(o.length_m.sd))});
    if (corners > 2) {
        const bool feet = context_.session.preferences.units() == UnitSystem::feet;
        const double unit = feet ? metres_per_foot * metres_per_foot : 1;
        lines_.push_back(
            {tr("Area"),
             tr("%1 %2").arg(std::lround(o.area_m2.value / unit)).arg(feet ? tr("ft²") : tr("m²")),
             tr("± %1").arg(std::lround(o.area_m2.sd / unit))});
        lines_.push_back(
            {tr("Along, across"), tr("%1 × %2").arg(length(o.along_m), lengthWithUnit(o.across_m)), {}});
    }
    lines_.push_back(
        {tr("Over ground, on the run along the track: the wander of the positions is not in it."), {}, {}});
}

void Readout::readBottomLine() {
    title_ = tr("Bottom line");
    lines_.push_back(
        {tr("Draw along the edge of the dark strip where the thin line leaves it. Depths, heights, "
            "places and contacts there follow."),
         {},
         {}});
    if (const auto at = picture_.pointed(); at && context_.session.shown.scan().holds(at->row)) {
        const auto &b = context_.session.shown.scan().bottom(at->row);
        lines_.push_back({tr("Taken there"), b.found ? lengthWithUnit(b.altitude_m) : QStringLiteral("–"),
                          b.source == BottomSource::hand      ? tr("by hand")
                          : b.source == BottomSource::sounder ? tr("by the sounder")
                                                              : QString()});
        lines_.push_back({tr("Pointer"), lengthWithUnit(at->slant_m), {}});
    }
    if (context_.session.shown.canUndoBottom())
        lines_.push_back({tr("U takes the last line back."), {}, {}});
}

void Readout::readMeasure() {
    title_ = tr("Measure");
    const auto &h = picture_.handles();
    if (!h) {
        lines_.push_back({tr("Press on the echo's top and draw to the end of its shadow."), {}, {}});
        lines_.push_back({tr("The top of a post or wall is the near edge of the bright; of a round stone, "
                             "where bright turns dark."),
                          {},
                          {}});
        return;
    }
    const auto &scan = context_.session.shown.scan();
    measurement_ = measure(scan, *h);
    if (!measurement_) {
        lines_.push_back({!scan.holds(h->row) ? tr("That row is no longer held.")
                          : !bottom_at(scan, h->row)
                              ? tr("The bottom was not found there; nothing can be computed.")
                              : tr("The shadow's end lies before its beginning, or short of the bottom."),
                          {},
                          {}});
        return;
    }
    const auto &m = *measurement_;
    const auto &s = m.shadow;
    const int fine = context_.session.preferences.units() == UnitSystem::feet ? 1 : 2;
    lines_.push_back({h->floating ? tr("Off the bottom") : tr("Height"),
                      (s.at_least ? tr("at least ") : QString()) + lengthWithUnit(s.height_m.value, fine),
                      tr("± %1").arg(doubt(s.height_m.sd, fine))});
    lines_.push_back(
        {tr("Aside"), lengthWithUnit(m.ground_m.value),
         tr("± %1 %2").arg(doubt(m.ground_m.sd), h->side == Side::port ? tr("left") : tr("right"))});
    lines_.push_back({tr("Depth there"), lengthWithUnit(m.water_depth_m.value),
                      tr("± %1").arg(doubt(m.water_depth_m.sd))});
    lines_.push_back(
        {h->floating ? tr("It hangs at") : tr("Its top at"), lengthWithUnit(m.top_depth_m), tr("down")});
    lines_.push_back({tr("Shadow"), lengthWithUnit(m.nearest_shadow_m), tr("long")});
    if (m.across_m > 0)
        lines_.push_back({tr("Across"), lengthWithUnit(m.across_m), tr("near edge to top")});
    const auto strike = strike_of(scan.facts(h->row), picture_.steadyLimits());
    if (strike != Strike::none)
        lines_.push_back({strike == Strike::turning
                              ? tr("The boat turned there: lengths along the track are not measured.")
                          : strike == Strike::stopped
                              ? tr("The boat stood there: lengths along the track are not measured.")
                          : strike == Strike::too_fast
                              ? tr("Too fast there for the pings: lengths along the track are not measured.")
                              : tr("Too slow there: lengths along the track are not measured."),
                          {},
                          {}});
    if (m.placed.at)
        lines_.push_back(
            {tr("place ± %1").arg(lengthWithUnit(m.placed.at->covariance.radial_sd_m())), {}, {}});
    if (const auto text = say(m.placed.state); !text.empty())
        lines_.push_back({QString::fromStdString(text), {}, {}, !m.placed.at});
    const double a = scan.bottom(h->row).altitude_m;
    why_ = s.at_least ? tr("the shadow is cut at the edge of the range")
                      : tr("%1 × (%2 − %3) ÷ %2").arg(length(a), length(h->end_m), length(h->top_m));
}

QString Readout::oneLine() const {
    QStringList parts;
    for (const auto &l : lines_)
        if (!l.figure.isEmpty() && parts.size() < 4)
            parts << QStringLiteral("%1 %2 %3").arg(l.label.toLower(), l.figure, l.rest).trimmed();
    return parts.join(QStringLiteral(" · "));
}

void Readout::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    const int right = width() - 16;
    const auto text = wordsOn(p);
    double y = 22;
    text(16, y, title_, 17, true, "ink");
    y += 6;
    const int end = height() - (outline_->isVisibleTo(this) ? 114 : 4);
    for (const auto &line : lines_) {
        if (y + 22 > end)
            break;
        if (line.figure.isEmpty()) {
            p.setFont(theme.font(13));
            p.setPen(colour(line.alarming ? "accent" : "ink2"));
            const QRectF box(16, y + 7, right - 16, std::min(60.0, end - y - 7));
            QRectF used;
            p.drawText(box, Qt::TextWordWrap | Qt::AlignTop | Qt::AlignLeft, line.label, &used);
            y += used.height() + 5;
            continue;
        }
        y += 23;
        text(16, y, line.label, 13, false, "ink2");
        const double x = text(128, y, line.figure, 17, true, "ink");
        p.setFont(theme.font(13));
        p.setPen(colour("ink2"));
        p.drawText(QPointF(134 + x, y),
                   p.fontMetrics().elidedText(line.rest, Qt::ElideRight, static_cast<int>(right - 134 - x)));
    }
    if (!why_.isEmpty() && y + 24 < end) {
        const double x = text(16, y + 24, tr("why: "), 13, false, "ink2");
        text(16 + x, y + 24, why_, 13, false, "ink");
    }
}

} // namespace heron::app
