#include "scan_view.hpp"

#include "gutter.hpp"
#include "picture_view.hpp"
#include "range_ruler.hpp"
#include "scan_panel.hpp"
#include "shell/counted.hpp"
#include "shell/key_button.hpp"
#include "shell/theme.hpp"
#include "trip_strip.hpp"

#include <QKeyEvent>
#include <QPainter>
#include <QTime>

namespace heron::app {
namespace {

constexpr int header = 66, key_row = 96, gap = 12;

} // namespace

ScanView::ScanView(Survey &survey, QWidget *parent) : QWidget(parent), survey_(survey) {
    setFocusPolicy(Qt::StrongFocus);
    picture_ = new PictureView(survey, this);
    ruler_ = new RangeRuler(survey, *picture_, this);
    gutter_ = new Gutter(survey, *picture_, this);
    trip_ = new TripStrip(survey, *picture_, this);
    panel_ = new ScanPanel(survey, *picture_, this);
    picture_->setObjectName(QStringLiteral("picture"));
    const auto marks = tr("Mark what is measured or pointed at as %1; name it later");
    const std::pair<Family, KeyButton *> families[] = {
        {Family::fish,
         addKey("markFish", QStringLiteral("family-fish"), tr("Fish"), Qt::Key_Z, marks.arg(tr("fish")))},
        {Family::structure, addKey("markStructure", QStringLiteral("family-structure"), tr("Structure"),
                                   Qt::Key_X, marks.arg(tr("structure")))},
        {Family::bottom, addKey("markBottom", QStringLiteral("family-bottom"), tr("Bottom"), Qt::Key_C,
                                marks.arg(tr("bottom")))},
        {Family::hazard, addKey("markHazard", QStringLiteral("family-hazard"), tr("Hazard"), Qt::Key_V,
                                marks.arg(tr("a hazard")))}};
    for (const auto &[family, key] : families)
        connect(key, &KeyButton::clicked, this, [this, f = family] { mark(f); });
    freeze_ = addKey("freeze", QStringLiteral("act-freeze"), tr("Freeze"), Qt::Key_F,
                     tr("Hold the picture still; pings keep coming in behind it"));
    measure_ = addKey("measure", QStringLiteral("act-measure"), tr("Measure"), Qt::Key_D,
                      tr("Measure height and distance from an echo and its shadow"));
    undo_ = addKey("undo", QStringLiteral("act-undo"), tr("Undo"), Qt::Key_U,
                   tr("Take back the last change of the marks"));
    freeze_->setCheckable(true);
    measure_->setCheckable(true);
    connect(freeze_, &KeyButton::clicked, this, [this](bool on) { picture_->setFrozen(on); });
    connect(measure_, &KeyButton::clicked, this, [this](bool on) {
        // Handles on a moving picture are a moving target.
        if (on)
            picture_->setFrozen(true);
        picture_->setMeasuring(on);
    });
    connect(undo_, &KeyButton::clicked, &survey_, &Survey::undoMark);
    connect(picture_, &PictureView::frozenChanged, this, &ScanView::refreshKeys);
    connect(picture_, &PictureView::handlesChanged, this, &ScanView::refreshKeys);
    connect(&survey_, &Survey::marksChanged, this, &ScanView::refreshKeys);
    connect(&survey_, &Survey::stateChanged, this, [this] { update(0, 0, width(), header); });
    connect(&survey_, &Survey::scanReplaced, this, [this] { update(); });
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
    connect(&timer_, &QTimer::timeout, this,
            [this] { update(panel_->width(), 0, width() - panel_->width(), header); });
    timer_.start(1000);
    refreshKeys();
}

KeyButton *ScanView::addKey(const char *name, const QString &glyph, const QString &text,
                            const QKeySequence &letter, const QString &tip) {
    auto *key = new KeyButton(glyph, text, letter, tip, this);
    key->setObjectName(QString::fromLatin1(name));
    keys_.push_back(key);
    return key;
}

void ScanView::refreshKeys() {
    freeze_->setChecked(picture_->frozen());
    measure_->setChecked(picture_->measuring());
    undo_->setEnabled(survey_.canUndoMark());
    update(0, 0, width(), header);
}

void ScanView::resizeEvent(QResizeEvent *) {
    const int left = panel_->width() + 12, bottom = height() - key_row;
    panel_->setGeometry(0, 0, panel_->width(), height());
    gutter_->setGeometry(left, header, gutter_->width(), bottom - header);
    const int x = left + gutter_->width(), w = width() - 8 - trip_->width() - gap - x;
    picture_->setGeometry(x, header, w & ~1, bottom - header);
    ruler_->setGeometry(x, header - ruler_->height(), w & ~1, ruler_->height());
    trip_->setGeometry(width() - 8 - trip_->width(), header, trip_->width(), bottom - header);
    const int n = static_cast<int>(keys_.size()), room = width() - 8 - left,
              each = (room - (n - 1) * gap) / n;
    for (int i = 0; i < n; ++i)
        keys_[static_cast<std::size_t>(i)]->setGeometry(left + i * (each + gap), bottom + 16, each, 64);
}

void ScanView::mark(Family family) {
    const auto &scan = survey_.scan();
    if (scan.empty()) {
        emit survey_.faultRaised(QStringLiteral("marks"),
                                 {tr("there is no picture yet, so there is nothing to mark").toStdString(),
                                  "", tr("wait for the first ping, or open a recording").toStdString()});
        return;
    }
    const auto source = survey_.sourceName().toStdString();
    Mark m;
    const auto &handles = picture_->handles();
    std::optional<Measurement> measured;
    if (handles)
        measured = measure(scan, *handles);
    std::size_t row = scan.end() - 1;
    if (measured) {
        m = mark_measured(scan, *handles, *measured, family, source);
        row = handles->row;
    } else if (const auto at = picture_->pointed()) {
        m = mark_at(scan, read_cursor(scan, *at), family, source);
        row = at->row;
    } else {
        m = mark_at_boat(scan, row, family, source);
    }
    const auto side = side_named(m.side).value_or(Side::starboard);
    const double metres_per_pixel = 1 / picture_->pixelsPerMetre();
    m.chip = cut_chip(scan, row, side, m.slant_m + 1.2, survey_.window(), 124, 92, metres_per_pixel);
    if (!survey_.addMark(m))
        return;
    picture_->clearPick();
    auto text =
        tr("%1 marked and saved.")
            .arg(m.side.empty()
                     ? tr("The boat's own place")
                     : tr("%1 at %2 on the %3")
                           .arg(QString::fromUtf8(name_of(family).data(),
                                                  static_cast<qsizetype>(name_of(family).size())),
                                QString::fromStdString(
                                    print_length(m.ground_m > 0 ? m.ground_m : m.slant_m, survey_.units())
                                        .text()),
                                m.side == "port" ? tr("left") : tr("right")));
    if (!m.place)
        text += QLatin1Char(' ') + QString::fromStdString(m.place_remark) + QLatin1Char('.');
    emit survey_.word(QStringLiteral("mark"), text);
}

void ScanView::keyPressEvent(QKeyEvent *event) {
    switch (event->key()) {
    case Qt::Key_Escape:
        if (picture_->measuring())
            picture_->setMeasuring(false);
        else if (picture_->pointed())
            picture_->clearPick();
        else
            picture_->setFrozen(false);
        return;
    case Qt::Key_Left:
    case Qt::Key_Right:
        if (picture_->handles()) {
            const bool outward = (event->key() == Qt::Key_Right) == (picture_->handles()->side != Side::port);
            picture_->nudge(outward ? 1 : -1);
        }
        return;
    case Qt::Key_PageDown:
        picture_->goTo(picture_->topRow() > 400 ? picture_->topRow() - 400 : 0);
        return;
    case Qt::Key_PageUp:
        picture_->goTo(picture_->topRow() + 400);
        return;
    case Qt::Key_Home:
        picture_->setFrozen(false);
        return;
    default:
        QWidget::keyPressEvent(event);
    }
}

void ScanView::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(panel_->width() - 1, 0, panel_->width() - 1, height());
    const int left = panel_->width() + 12;
    p.setFont(theme.font(17, true));
    p.setPen(colour("ink"));
    const auto name = survey_.sourceName();
    p.drawText(QPointF(left, 22), name);
    const int after = left + p.fontMetrics().horizontalAdvance(name) + 12;

    // The state, with a dot that is full when pings flow.
    const bool flows = survey_.flow() == Survey::Flow::flowing;
    auto state = survey_.stateText();
    if (picture_->frozen())
        state = tr("frozen · %1").arg(state);
    if (survey_.lostPings() > 0)
        state += tr(" · %1 lost").arg(counted(survey_.lostPings(), tr("ping"), tr("pings")));
    p.setFont(theme.font(14));
    const auto clock =
        survey_.scan().empty()
            ? QString()
            : QString::fromStdString(print_rfc3339(survey_.scan().newest().ping.time, 0)).mid(11, 8) +
                  QStringLiteral(" UTC");
    const int clock_width = p.fontMetrics().horizontalAdvance(clock);
    p.setPen(colour("ink"));
    p.drawText(QPointF(width() - 12 - clock_width, 22), clock);
    const int w = p.fontMetrics().horizontalAdvance(state);
    const int x = std::max(after + 16, width() - 12 - clock_width - 24 - w);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(colour(flows ? "reed" : "accent"), 2));
    p.setBrush(flows ? QBrush(colour("reed")) : QBrush(Qt::NoBrush));
    p.drawEllipse(QPointF(x - 10, 17), 4, 4);
    p.setPen(colour(flows ? "ink2" : "accent"));
    p.drawText(QPointF(x, 22), state);

    // Heads of the gutter.
    p.setFont(theme.font(12));
    p.setPen(colour("ink2"));
    const bool feet = survey_.units() == UnitSystem::feet;
    p.drawText(QPointF(left, 58), feet ? tr("depth ft") : tr("depth m"));
    p.drawText(QRectF(left + 58, 44, 44, 18), Qt::AlignCenter, feet ? tr("mph") : tr("km/h"));
    p.drawText(QRectF(left + 98, 44, 32, 18), Qt::AlignCenter, tr("turn"));
    p.drawText(QPointF(width() - 34, 60), tr("trip"));
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(left, header - 1, width() - 8, header - 1);
}

} // namespace heron::app
