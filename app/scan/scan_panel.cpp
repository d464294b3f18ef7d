#include "scan_panel.hpp"

#include "picture_view.hpp"
#include "shell/key_button.hpp"
#include "shell/theme.hpp"

#include <QPainter>
#include <array>
#include <cmath>

namespace heron::app {
namespace {

constexpr int row_height = 61;
constexpr std::array ranges_ft{20.0, 25.0, 30.0,  40.0,  50.0,  60.0, 70.0,
                               80.0, 90.0, 100.0, 120.0, 150.0, 200.0};
constexpr std::array ranges_m{6.0, 8.0, 10.0, 12.0, 15.0, 20.0, 25.0, 30.0, 35.0, 40.0, 50.0, 60.0};
constexpr std::array play_speeds{0.0, 1.0, 2.0, 4.0, 8.0, 16.0, 64.0, 1000.0};

} // namespace

ScanPanel::ScanPanel(Survey &survey, PictureView &picture, QWidget *parent)
    : QWidget(parent), survey_(survey), picture_(picture) {
    setFixedWidth(285);
    setAttribute(Qt::WA_OpaquePaintEvent);
    range_ = addRow(QStringLiteral("−"), QStringLiteral("+"), Qt::Key_BracketLeft, Qt::Key_BracketRight,
                    tr("Shorter range"), tr("Longer range"));
    band_ = addRow(QStringLiteral("−"), QStringLiteral("+"), QKeySequence(), Qt::Key_B,
                   tr("Lower band: reaches farther, shows less"), tr("Next band: finer, reaches less far"));
    gain_ = addRow(QStringLiteral("−"), QStringLiteral("+"), Qt::Key_Minus, Qt::Key_Equal, tr("Less gain"),
                   tr("More gain"));
    map_ = addRow(QStringLiteral("<"), QStringLiteral(">"), QKeySequence(), Qt::Key_K,
                  tr("The colour map before"), tr("The next colour map"));
    floats_ = new KeyButton(QString(), tr("Floats"), Qt::Key_H,
                            tr("The dark stands apart from the echo: the thing floats; put the second handle "
                               "on the middle of its shadow"),
                            this);
    floats_->setCheckable(true);
    floats_->setObjectName(QStringLiteral("floats"));
    wide_ = new KeyButton(
        QString(), tr("Wide"), Qt::Key_W,
        tr("The thing is wide: a third handle stands on its near edge, and the mark lies in its middle"),
        this);
    wide_->setCheckable(true);
    wide_->setObjectName(QStringLiteral("wide"));
    connect(wide_, &KeyButton::toggled, &picture_, &PictureView::setWide);
    pinging_ = new KeyButton(QString(), tr("Pinging"), Qt::Key_P, tr("Let the sounder ping, or rest"), this);
    pinging_->setCheckable(true);
    pinging_->setObjectName(QStringLiteral("pinging"));
    const std::pair<KeyButton *, const char *> names[] = {
        {range_.less, "rangeLess"}, {range_.more, "rangeMore"}, {band_.less, "bandLess"},
        {band_.more, "bandMore"},   {gain_.less, "gainLess"},   {gain_.more, "gainMore"},
        {map_.less, "mapLess"},     {map_.more, "mapMore"}};
    for (const auto &[button, name] : names)
        button->setObjectName(QString::fromLatin1(name));
    connect(range_.less, &KeyButton::clicked, this,
            [this] { survey_.source() == Survey::Source::recording ? stepSpeed(-1) : stepRange(-1); });
    connect(range_.more, &KeyButton::clicked, this,
            [this] { survey_.source() == Survey::Source::recording ? stepSpeed(1) : stepRange(1); });
    connect(band_.less, &KeyButton::clicked, this, [this] { stepBand(-1); });
    connect(band_.more, &KeyButton::clicked, this, [this] { stepBand(1); });
    connect(gain_.less, &KeyButton::clicked, this, [this] { stepGain(-1); });
    connect(gain_.more, &KeyButton::clicked, this, [this] { stepGain(1); });
    connect(map_.less, &KeyButton::clicked, this, [] { Theme::instance().nextMap(-1); });
    connect(map_.more, &KeyButton::clicked, this, [] { Theme::instance().nextMap(1); });
    connect(floats_, &KeyButton::toggled, &picture_, &PictureView::setFloating);
    connect(pinging_, &KeyButton::clicked, this, [this](bool on) {
        auto s = survey_.settings();
        s.pinging = on;
        survey_.ask(s);
    });
    connect(&picture_, &PictureView::pointedChanged, this, &ScanPanel::refresh);
    connect(&picture_, &PictureView::handlesChanged, this, &ScanPanel::refresh);
    connect(&survey_, &Survey::unitsChanged, this, &ScanPanel::refresh);
    connect(&survey_, &Survey::settingsChanged, this, &ScanPanel::refresh);
    connect(&survey_, &Survey::stateChanged, this, &ScanPanel::refresh);
    connect(&survey_, &Survey::scanReplaced, this, &ScanPanel::refresh);
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
    // Figures that change faster than this cannot be read.
    connect(&timer_, &QTimer::timeout, this, &ScanPanel::refresh);
    timer_.start(250);
    refresh();
}

ScanPanel::Row ScanPanel::addRow(const QString &less, const QString &more, const QKeySequence &less_key,
                                 const QKeySequence &more_key, const QString &less_tip,
                                 const QString &more_tip) {
    return {new KeyButton(QString(), less, less_key, less_tip, this),
            new KeyButton(QString(), more, more_key, more_tip, this)};
}

void ScanPanel::resizeEvent(QResizeEvent *) {
    layOut();
}

void ScanPanel::layOut() {
    int y = height() - 4 * row_height - 8;
    for (auto *row : {&range_, &band_, &gain_, &map_}) {
        row->less->setGeometry(width() - 16 - 102, y + 7, 48, 48);
        row->more->setGeometry(width() - 16 - 48, y + 7, 48, 48);
        y += row_height;
    }
    const int middle = height() - 4 * row_height - 8;
    floats_->setGeometry(16, middle - 58, 120, 48);
    wide_->setGeometry(width() - 16 - 120, middle - 58, 120, 48);
    pinging_->setGeometry(width() - 16 - 120, middle - 58, 120, 48);
}

QString ScanPanel::length(double metres, int decimals) const {
    return QString::fromStdString(print_length(metres, survey_.units(), decimals).figure);
}
QString ScanPanel::doubt(double sd, int decimals) const {
    return QString::fromStdString(print_doubt(sd, survey_.units(), decimals));
}
QString ScanPanel::lengthWithUnit(double metres, int decimals) const {
    return QString::fromStdString(print_length(metres, survey_.units(), decimals).text());
}

void ScanPanel::refresh() {
    lines_.clear();
    why_.clear();
    measurement_.reset();
    if (picture_.measuring())
        readMeasure();
    else
        readCursor();
    const bool live = survey_.source() == Survey::Source::sounder && survey_.hello() &&
                      survey_.flow() != Survey::Flow::lost;
    const bool recording = survey_.source() == Survey::Source::recording;
    const auto &handles = picture_.handles();
    floats_->setVisible(picture_.measuring() && handles.has_value());
    wide_->setVisible(picture_.measuring() && handles.has_value());
    if (handles && wide_->isChecked() != (handles->near_m > 0))
        wide_->setChecked(handles->near_m > 0);
    if (handles && floats_->isChecked() != handles->floating)
        floats_->setChecked(handles->floating);
    pinging_->setVisible(!recording && !picture_.measuring());
    pinging_->setEnabled(live);
    pinging_->setChecked(live && survey_.settings().pinging);
    pinging_->setText(survey_.settings().pinging || !live ? tr("Pinging") : tr("Resting"));
    for (auto *b : {range_.less, range_.more})
        b->setEnabled(live || recording);
    for (auto *b : {band_.less, band_.more, gain_.less, gain_.more}) {
        b->setEnabled(live);
        b->setVisible(!recording);
    }
    update();
}

void ScanPanel::readCursor() {
    title_ = tr("Pointed at");
    const auto at = picture_.pointed();
    if (!at) {
        title_ = tr("Nothing pointed at");
        lines_.push_back({tr("Press the picture, or move over it."), {}, {}});
        return;
    }
    const auto r = read_cursor(survey_.scan(), *at);
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
    if (r.placed.at) {
        lines_.push_back({QString::fromStdString(print_position(r.placed.at->place.latitude_deg,
                                                                r.placed.at->place.longitude_deg)),
                          {},
                          {}});
        lines_.push_back(
            {tr("place ± %1").arg(lengthWithUnit(r.placed.at->covariance.radial_sd_m())), {}, {}});
    }
    if (const auto text = say(r.placed.state); !text.empty())
        lines_.push_back({QString::fromStdString(text), {}, {}, !r.placed.at});
}

void ScanPanel::readMeasure() {
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
    const auto &scan = survey_.scan();
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
    const int fine = survey_.units() == UnitSystem::feet ? 1 : 2;
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
    if (m.placed.at)
        lines_.push_back(
            {tr("place ± %1").arg(lengthWithUnit(m.placed.at->covariance.radial_sd_m())), {}, {}});
    if (const auto text = say(m.placed.state); !text.empty())
        lines_.push_back({QString::fromStdString(text), {}, {}, !m.placed.at});
    const double a = scan.row(h->row).bottom.altitude_m;
    why_ = s.at_least ? tr("the shadow is cut at the edge of the range")
                      : tr("%1 × (%2 − %3) ÷ %2").arg(length(a), length(h->end_m), length(h->top_m));
}

void ScanPanel::stepRange(int step) {
    if (!survey_.hello())
        return;
    const auto &hello = *survey_.hello();
    const bool feet = survey_.units() == UnitSystem::feet;
    std::vector<double> choices;
    for (const double v : feet ? std::vector<double>(ranges_ft.begin(), ranges_ft.end())
                               : std::vector<double>(ranges_m.begin(), ranges_m.end())) {
        const double m = feet ? metres_from_feet(v) : v;
        if (m >= hello.shortest_range_m * 0.999 && m <= hello.longest_range_m * 1.001)
            choices.push_back(m);
    }
    auto s = survey_.settings();
    double best = s.range_m;
    for (const double c : choices) {
        if (step > 0 && c > s.range_m * 1.005) {
            best = c;
            break;
        }
        if (step < 0 && c < s.range_m * 0.995)
            best = c;
    }
    s.range_m = best;
    survey_.ask(s);
}

void ScanPanel::stepBand(int step) {
    if (!survey_.hello())
        return;
    const auto &bands = survey_.hello()->bands_hz;
    auto s = survey_.settings();
    std::ptrdiff_t nearest = 0;
    for (std::ptrdiff_t i = 0; i < std::ssize(bands); ++i)
        if (std::fabs(bands[static_cast<std::size_t>(i)] - s.frequency_hz) <
            std::fabs(bands[static_cast<std::size_t>(nearest)] - s.frequency_hz))
            nearest = i;
    // Its one key goes round; the button down stops at the lowest.
    const auto n = std::ssize(bands);
    const auto next = step > 0 ? (nearest + 1) % n : std::max<std::ptrdiff_t>(0, nearest - 1);
    s.frequency_hz = bands[static_cast<std::size_t>(next)];
    survey_.ask(s);
}

void ScanPanel::stepGain(int step) {
    auto s = survey_.settings();
    s.gain = std::clamp(s.gain + 2 * step, 0, survey_.hello() ? survey_.hello()->most_gain : 100);
    survey_.ask(s);
}

void ScanPanel::stepSpeed(int step) {
    std::ptrdiff_t i = 0;
    while (i + 1 < std::ssize(play_speeds) && play_speeds[static_cast<std::size_t>(i)] < survey_.playSpeed())
        ++i;
    i = std::clamp<std::ptrdiff_t>(i + step, 0, std::ssize(play_speeds) - 1);
    survey_.setPlaySpeed(play_speeds[static_cast<std::size_t>(i)]);
}

QString ScanPanel::speedText() const {
    const double v = survey_.playSpeed();
    return v == 0 ? tr("paused") : v >= 1000 ? tr("all at once") : tr("%1 ×").arg(v);
}

void ScanPanel::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    const auto &scan = survey_.scan();
    const int right = width() - 16;
    const auto text = [&](double x, double y, const QString &words, int px, bool bold, const char *ink) {
        p.setFont(theme.font(px, bold));
        p.setPen(colour(ink));
        p.drawText(QPointF(x, y), words);
        return p.fontMetrics().horizontalAdvance(words);
    };
    const auto rule = [&](int y, const char *ink, qreal w = 1) {
        p.setPen(QPen(colour(ink), w));
        p.drawLine(16, y, right, y);
    };

    // Depth and speed: read in two seconds from a moving boat.
    const bool feet = survey_.units() == UnitSystem::feet;
    text(16, 26, tr("Depth under the boat"), 14, false, "ink2");
    const bool found = !scan.empty() && scan.newest().bottom.found;
    const auto depth =
        print_length(found ? scan.newest().bottom.altitude_m + scan.installation.draught_m() : std::nan(""),
                     survey_.units());
    auto big = theme.font(88, true);
    big.setLetterSpacing(QFont::AbsoluteSpacing, -4);
    p.setFont(big);
    p.setPen(colour("ink"));
    p.drawText(QPointF(12, 106), QString::fromStdString(depth.figure));
    const double w = p.fontMetrics().horizontalAdvance(QString::fromStdString(depth.figure));
    text(20 + w, 106, QString::fromStdString(depth.unit), 24, false, "ink2");
    rule(122, "hair");
    text(16, 144, tr("Speed"), 14, false, "ink2");
    text(150, 144, tr("Heading"), 14, false, "ink2");
    const auto speed = print_speed(survey_.speedNow().value_or(std::nan("")), survey_.units());
    const double sw = text(16, 180, QString::fromStdString(speed.figure), 34, true, "ink");
    text(22 + sw, 180, QString::fromStdString(speed.unit), 14, false, "ink2");
    const auto heading = survey_.headingNow();
    text(150, 180, QString::fromStdString(heading ? print_bearing(*heading) : "–"), 34, true, "ink");
    rule(194, "line", 1.5);

    // What is pointed at or measured.
    double y = 218;
    text(16, y, title_, 17, true, "ink");
    y += 8;
    const int end = height() - 4 * row_height - 8 - (floats_->isVisible() || pinging_->isVisible() ? 64 : 8);
    for (const auto &line : lines_) {
        if (y + 22 > end)
            break;
        if (line.figure.isEmpty()) {
            p.setFont(theme.font(14));
            p.setPen(colour(line.alarming ? "accent" : "ink2"));
            const QRectF box(16, y + 9, right - 16, std::min(60.0, end - y - 9));
            QRectF used;
            p.drawText(box, Qt::TextWordWrap | Qt::AlignTop | Qt::AlignLeft, line.label, &used);
            y += used.height() + 6;
            continue;
        }
        y += 24;
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

    // Controls of the sounder, or of the recording.
    int top = height() - 4 * row_height - 8;
    rule(top - 2, "line", 1.5);
    const auto row = [&](const QString &label, const QString &figure, const QString &unit) {
        text(16, top + 24, label, 13, false, "ink2");
        const double x = text(16, top + 50, figure, 24, true, "ink");
        text(22 + x, top + 50, unit, 13, false, "ink2");
        top += row_height;
        if (top < height() - 20)
            rule(top, "hair");
    };
    const bool recording = survey_.source() == Survey::Source::recording;
    const double range = !recording && survey_.hello() ? survey_.settings().range_m : picture_.range();
    const auto r = print_length(range, survey_.units(), feet || range >= 10 ? 0 : 1);
    if (recording) {
        row(tr("Playing"), speedText(), {});
        row(tr("Range"), QString::fromStdString(r.figure),
            tr("%1 each side").arg(QString::fromStdString(r.unit)));
    } else {
        row(tr("Range"), QString::fromStdString(r.figure),
            tr("%1 each side").arg(QString::fromStdString(r.unit)));
    }
    const double khz =
        (recording && !scan.empty() ? scan.newest().ping.frequency_hz : survey_.settings().frequency_hz) /
        1000;
    const bool known = recording ? !scan.empty() : survey_.hello().has_value();
    row(tr("Band"), known ? QString::number(std::lround(khz)) : QStringLiteral("–"), tr("kHz"));
    if (!recording)
        row(tr("Gain"), known ? QString::number(survey_.settings().gain) : QStringLiteral("–"),
            survey_.hello() ? tr("of %1").arg(survey_.hello()->most_gain) : QString());
    row(tr("Map"), theme.mapName(), {});
}

} // namespace heron::app
