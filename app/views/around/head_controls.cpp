#include "views/around/head_controls.hpp"

#include "around/own_boat.hpp"
#include "around/turning_budget.hpp"
#include "kit/key_button.hpp"
#include "kit/paragraph.hpp"
#include "kit/theme.hpp"
#include "tuning/gear.hpp"

#include <QCoreApplication>
#include <QMouseEvent>
#include <algorithm>
#include <array>
#include <cmath>

namespace heron::app {
namespace {

constexpr int words_top = 97;
constexpr std::array ranges_ft{20.0, 30.0, 40.0, 50.0, 55.0, 60.0, 70.0, 80.0, 90.0, 100.0, 120.0, 140.0};
constexpr std::array ranges_m{6.0, 8.0, 10.0, 12.0, 15.0, 18.0, 20.0, 25.0, 30.0, 35.0, 40.0, 45.0};
// From slow and fine to fast and coarse.
struct Turn {
    double step_deg;
    int pace;
    const char *name;
};
constexpr std::array turns{Turn{0.9, 2, QT_TRANSLATE_NOOP("HeadControls", "finest")},
                           Turn{1.8, 1, QT_TRANSLATE_NOOP("HeadControls", "slow")},
                           Turn{1.8, 2, QT_TRANSLATE_NOOP("HeadControls", "steady")},
                           Turn{1.8, 4, QT_TRANSLATE_NOOP("HeadControls", "brisk")},
                           Turn{2.7, 5, QT_TRANSLATE_NOOP("HeadControls", "fast")},
                           Turn{4.5, 5, QT_TRANSLATE_NOOP("HeadControls", "fastest")}};

std::size_t turnOf(const Turning &t) {
    std::size_t best = 0;
    double least = 1e9;
    for (std::size_t i = 0; i < turns.size(); ++i)
        if (const double d = std::fabs(turns[i].step_deg - t.step_deg) * 3 + std::abs(turns[i].pace - t.pace);
            d < least) {
            least = d;
            best = i;
        }
    return best;
}

} // namespace

HeadControls::HeadControls(ViewContext &context, WindowState &display, QWidget *parent)
    : QWidget(parent), context_(context), display_(display) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    const auto minus = QStringLiteral("−"), plus = QStringLiteral("+");
    groups_ = {{add("headRangeLess", minus, Qt::Key_BracketLeft, tr("Shorter range")),
                add("headRangeMore", plus, Qt::Key_BracketRight, tr("Longer range"))},
               {add("turnSlower", minus, Qt::Key_Semicolon, tr("Slower and finer")),
                add("turnFaster", plus, Qt::Key_Apostrophe, tr("Faster and coarser"))},
               {add("headBandLess", minus, QKeySequence(), tr("Lower band: reaches farther, shows less")),
                add("headBandMore", plus, Qt::Key_K, tr("Higher band: finer"))},
               {add("headGainLess", minus, Qt::Key_Minus, tr("Less gain")),
                add("headGainMore", plus, Qt::Key_Equal, tr("More gain"))}};
    sector_ = add(
        "sector", tr("all round"), Qt::Key_S,
        tr("All round misses nothing but looks away for a whole turn; a sector ahead comes back three times "
           "as often and misses what passes behind"));
    advise_ = add(
        "adviseHead", tr("advise"), Qt::Key_Q,
        tr("Sets range, step and pace as computed for this depth, your speed and your longest cast, and says "
           "why"));
    connect(advise_, &KeyButton::clicked, this, &HeadControls::takeAdvice);
    tune_ =
        add("tuneHead", tr("tune"), Qt::Key_U, tr("Finds the head's gain from the picture, in a few steps"));
    tune_->setCheckable(true);
    connect(tune_, &KeyButton::clicked, &context_.head_watch, &HeadWatch::tune);
    connect(&context_.head_watch, &HeadWatch::changed, this, &HeadControls::refresh);
    const auto wire = [this](std::size_t group, auto step) {
        connect(groups_[group].less, &KeyButton::clicked, this, [this, step] { (this->*step)(-1); });
        connect(groups_[group].more, &KeyButton::clicked, this, [this, step] { (this->*step)(1); });
    };
    wire(0, &HeadControls::stepRange);
    wire(1, &HeadControls::stepTurn);
    wire(2, &HeadControls::stepBand);
    wire(3, &HeadControls::stepGain);
    connect(sector_, &KeyButton::clicked, this, &HeadControls::nextSector);
    const auto &session = context_.session;
    connect(&session.head, &Sounder::settingsChanged, this, &HeadControls::refresh);
    connect(&session.sources, &Sources::stateChanged, this, &HeadControls::refresh);
    connect(&session.preferences, &Preferences::unitsChanged, this, &HeadControls::refresh);
    connect(&context_.bow, &Bow::raysChanged, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
    refresh();
}

KeyButton *HeadControls::add(const char *name, const QString &text, const QKeySequence &letter,
                             const QString &tip) {
    auto *key = new KeyButton(QString(), text, letter, tip, this);
    key->setObjectName(QString::fromLatin1(name));
    return key;
}

bool HeadControls::live() const {
    return context_.session.sources.live() && context_.session.head.hello().has_value();
}

void HeadControls::refresh() {
    const bool on = live() && context_.session.head.takesRequests();
    for (const auto &g : groups_)
        for (auto *k : {g.less, g.more})
            k->setEnabled(on);
    const auto &turning = context_.session.head.settings().turning;
    for (auto *k : {groups_[1].less, groups_[1].more, sector_, advise_})
        k->setEnabled(on && turning.has_value());
    tune_->setEnabled(on);
    tune_->setChecked(context_.head_watch.tuning());
    const bool offers = context_.head_watch.advice().has_value();
    advise_->setText(offers ? tr("Take it") : tr("advise"));
    advise_->setPrimary(offers);
    if (offers)
        advise_->setEnabled(true);
    sector_->setText(!turning || turning->full() ? tr("all round")
                     : turning->wide_deg > 150   ? tr("ahead, 180°")
                                                 : tr("ahead, 90°"));
    update();
}

void HeadControls::stepRange(int step) {
    auto s = context_.session.head.wanted();
    const bool feet = context_.session.preferences.units() == UnitSystem::feet;
    const double unit = feet ? metres_per_foot : 1;
    const auto &choices = feet ? ranges_ft : ranges_m;
    auto at = std::lower_bound(choices.begin(), choices.end(), s.range_m / unit - 0.5) - choices.begin();
    if (step < 0 || (at < std::ssize(choices) &&
                     std::fabs(choices[static_cast<std::size_t>(at)] - s.range_m / unit) < 0.6))
        at += step;
    s.range_m =
        unit * choices[static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(at, 0, std::ssize(choices) - 1))];
    context_.session.head.ask(s);
}

void HeadControls::stepTurn(int step) {
    auto s = context_.session.head.wanted();
    if (!s.turning)
        return;
    const auto at = std::clamp<std::ptrdiff_t>(static_cast<std::ptrdiff_t>(turnOf(*s.turning)) + step, 0,
                                               std::ssize(turns) - 1);
    s.turning->step_deg = turns[static_cast<std::size_t>(at)].step_deg;
    s.turning->pace = turns[static_cast<std::size_t>(at)].pace;
    context_.session.head.ask(s);
}

void HeadControls::stepBand(int step) {
    auto s = context_.session.head.wanted();
    auto bands = context_.session.head.hello()->bands_hz;
    std::sort(bands.begin(), bands.end());
    std::ptrdiff_t at = 0;
    for (std::size_t i = 0; i < bands.size(); ++i)
        if (std::fabs(bands[i] - s.frequency_hz) <
            std::fabs(bands[static_cast<std::size_t>(at)] - s.frequency_hz))
            at = static_cast<std::ptrdiff_t>(i);
    s.frequency_hz =
        bands[static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(at + step, 0, std::ssize(bands) - 1))];
    context_.session.head.ask(s);
}

void HeadControls::stepGain(int step) {
    auto s = context_.session.head.wanted();
    s.gain = std::clamp(s.gain + 2 * step, 0, context_.session.head.hello()->most_gain);
    context_.session.head.ask(s);
}

// All round, the half ahead, the quarter ahead.
void HeadControls::nextSector() {
    auto s = context_.session.head.wanted();
    if (!s.turning)
        return;
    const double wide = s.turning->full() ? 180 : s.turning->wide_deg > 150 ? 90 : 360;
    s.turning->wide_deg = wide;
    s.turning->from_deg = wide < 360 ? -wide / 2 : 0;
    context_.session.head.ask(s);
}

void HeadControls::takeAdvice() {
    if (context_.head_watch.advice()) {
        context_.head_watch.take(display_);
        return;
    }
    auto s = context_.session.head.wanted();
    if (!s.turning)
        return;
    const auto &boat = context_.session.boats.boat();
    TurningQuestion q;
    q.depth_m = context_.bow.depthUnderBow().value_or(q.depth_m);
    q.speed_m_s = context_.bow.speed().value_or(0);
    q.purpose = q.speed_m_s > 0.5 ? CirclePurpose::along_a_bank : CirclePurpose::objects;
    for (const auto &seat : boat.seats) {
        const auto at = from_head(boat, seat.at);
        q.longest_cast_m = std::max(q.longest_cast_m, seat.reach_m + std::max(0.0, at.ahead_m));
    }
    if (!context_.bow.empty())
        if (const auto &scan = context_.session.around.scan();
            scan.holds(context_.bow.rays().rays().back().row))
            if (const auto *beam = scan.ping(context_.bow.rays().rays().back().row).beam(Side::around))
                q.width_deg = beam->width_along_deg;
    const auto advice = advise_turning(q);
    s.range_m = advice.range_m;
    s.turning->step_deg = advice.turning.step_deg;
    s.turning->pace = advice.turning.pace;
    context_.session.head.ask(s);
    context_.session.notices.say(
        QStringLiteral("advice"),
        tr("%1, a ray each %2°, pace %3: %4; %5.")
            .arg(QString::fromStdString(
                print_length(advice.range_m, context_.session.preferences.units(), 0).text()))
            .arg(advice.turning.step_deg, 0, 'f', 1)
            .arg(advice.turning.pace)
            .arg(QString::fromStdString(advice.why), QString::fromStdString(advice.trade)));
}

QString HeadControls::buys() const {
    const auto &rays = context_.bow.rays();
    if (rays.rays().size() < 20)
        return {};
    const auto units = context_.session.preferences.units();
    const auto &last = rays.rays().back();
    const auto &before = rays.rays()[rays.rays().size() - 20];
    Turning turning = context_.session.head.settings().turning.value_or(Turning());
    turning.step_deg = std::max(0.1, std::fabs(rays.step_deg()));
    const auto &scan = context_.session.around.scan();
    double width = 1.3;
    if (scan.holds(last.row))
        if (const auto *beam = scan.ping(last.row).beam(Side::around))
            width = beam->width_along_deg;
    const auto b = turning_budget(turning, last.range_m, seconds_between(before.time, last.time) / 19, width,
                                  context_.bow.speed().value_or(0));
    const auto text = [&](double m, int decimals) {
        return QString::fromStdString(print_length(m, units, decimals).text());
    };
    return tr("%1 s a turn, each %2°; at the rim %3 apart, %4 wide; the boat goes %5")
        .arg(b.turn_s, 0, 'f', 0)
        .arg(turning.step_deg, 0, 'f', 1)
        .arg(text(b.step_at_rim_m, 1), text(b.ray_at_rim_m, 1), text(b.moved_a_turn_m, 1));
}

void HeadControls::resizeEvent(QResizeEvent *) {
    const int n = static_cast<int>(groups_.size()), gap = 8, each = (width() - 30 - (n - 1) * gap) / n,
              key = (each - 6) / 2;
    for (int i = 0; i < n; ++i) {
        const int x = 14 + i * (each + gap);
        groups_[static_cast<std::size_t>(i)].less->setGeometry(x, 46, key, 48);
        groups_[static_cast<std::size_t>(i)].more->setGeometry(x + key + 6, 46, key, 48);
    }
    sector_->setGeometry(width() - 16 - 120, 102, 120, 46);
    advise_->setGeometry(sector_->x() - 6 - 76, 102, 76, 46);
    tune_->setGeometry(advise_->x() - 6 - 62, 102, 62, 46);
}

void HeadControls::mousePressEvent(QMouseEvent *event) {
    const QRect words(0, words_top, tune_->x() - 6, height() - words_top);
    if (context_.head_watch.advice() && words.contains(event->pos()))
        context_.head_watch.putOff();
}

void HeadControls::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    const auto write = wordsOn(p);
    const auto &head = context_.session.head;
    const auto &rays = context_.bow.rays();
    const bool known = live() || !context_.bow.empty();
    const auto units = context_.session.preferences.units();
    const auto &scan = context_.session.around.scan();
    const auto *ping = !context_.bow.empty() && scan.holds(rays.rays().back().row)
                           ? &scan.ping(rays.rays().back().row)
                           : nullptr;
    const double range = live()                 ? head.settings().range_m
                         : context_.bow.empty() ? 0
                                                : rays.rays().back().range_m;
    const double band = live() ? head.settings().frequency_hz : ping != nullptr ? ping->frequency_hz : 0;
    const auto printed = print_length(range, units, 0);
    const auto turn = rays.turn_s() ? tr("%1 s").arg(std::lround(*rays.turn_s())) : QString();
    const auto &turning = head.settings().turning;
    struct {
        QString label, figure, unit;
    } const words[] = {
        {tr("Range"), QString::fromStdString(printed.figure), QString::fromStdString(printed.unit)},
        {tr("Turn"),
         turning && live() ? QCoreApplication::translate("HeadControls", turns[turnOf(*turning)].name) : turn,
         turning && live() ? turn : QString()},
        {tr("Band"), QString::number(std::lround(band / 1000)), tr("kHz")},
        {tr("Gain"),
         live() && head.takesRequests() ? QString::number(head.settings().gain) : QStringLiteral("–"),
         {}}};
    for (std::size_t i = 0; i < groups_.size(); ++i) {
        const double x = groups_[i].less->x();
        write(x, 14, words[i].label, 13, false, "ink2");
        const double wide = write(x, 38, known ? words[i].figure : QStringLiteral("–"), 20, true, "ink");
        const double next = i + 1 < groups_.size() ? groups_[i + 1].less->x() : width();
        if (known && x + wide + 5 + p.fontMetrics().horizontalAdvance(words[i].unit) * 0.7 < next)
            write(x + wide + 5, 38, words[i].unit, 13, false, "ink2");
    }
    const auto &advice = context_.head_watch.advice();
    const auto said = context_.head_watch.tuning() ? tr("Tuning the gain: %1 …").arg(head.settings().gain)
                      : advice ? tr("%1 (press: not now)").arg(QString::fromStdString(advice->text))
                               : buys();
    const QRectF words_room(14.0, words_top, tune_->x() - 22.0, 56);
    int px = 13;
    while (px > 10 && paragraphHeight(theme.font(px, advice.has_value()), words_room.width(), said) >
                          words_room.height())
        --px;
    p.setFont(theme.font(px, advice.has_value()));
    p.setPen(colour(advice ? "ink" : "ink2"));
    paintParagraph(p, words_room, said);
    if (advice)
        advise_->setToolTip(QString::fromStdString(advice->why));
}

} // namespace heron::app
