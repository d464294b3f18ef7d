// What the chart is made of: which rows, and how looks at one place are put together.
#include "kit/key_button.hpp"
#include "views/chart/chart_sheet_view.hpp"
#include "views/chart/chart_view.hpp"

#include <QDate>
#include <QLocale>
#include <cmath>

namespace heron::app {
namespace {

constexpr int late_high = 44, late_wide = 300;

} // namespace

// Which rows the mosaic is made of, and how looks at one place are put together.
void ChartView::addChoices() {
    blend_ = add("blendLooks", {}, tr("mix"), Qt::SHIFT | Qt::Key_A,
                 tr("All looks at a place together instead of the best"));
    blend_->setCheckable(true);
    connect(blend_, &KeyButton::clicked, this, [this](bool on) { context_.chart.setBlend(on); });
    band_of_ = add("chartBand", {}, tr("kHz"), Qt::SHIFT | Qt::Key_B,
                   tr("Pings of one band alone, then of the next, then all"));
    day_ = add("chartDay", {}, tr("day"), Qt::SHIFT | Qt::Key_L,
               tr("What was sounded on one day alone, then on the next, then all"));
    // The next of those there are; after the last all again.
    const auto next = [](const auto &all, auto &chosen) {
        const auto at = chosen ? all.upper_bound(*chosen) : all.begin();
        chosen.reset();
        if (at != all.end())
            chosen = *at;
    };
    late_ = add("positionsLate", {}, {}, Qt::SHIFT | Qt::Key_P, {});
    late_->setCheckable(true);
    connect(late_, &KeyButton::clicked, this, &ChartView::takeLate);
    connect(band_of_, &KeyButton::clicked, this, [this, next] {
        auto choice = context_.chart.choice();
        next(context_.chart.bands(), choice.khz);
        context_.chart.choose(choice);
    });
    connect(day_, &KeyButton::clicked, this, [this, next] {
        auto choice = context_.chart.choice();
        next(context_.chart.days(), choice.day);
        context_.chart.choose(choice);
    });
}

QString ChartView::mosaicMeans() const {
    const auto &laid = context_.chart;
    const auto look = laid.blends() ? tr("mixed") : tr("best look");
    return laid.choice().khz ? tr("%1, %2 kHz").arg(look).arg(*laid.choice().khz) : look;
}

QString ChartView::trackMeans() const {
    const auto &day = context_.chart.choice().day;
    return day ? QLocale().toString(QDate(1970, 1, 1).addDays(*day), QLocale::ShortFormat)
               : tr("where the boat ran");
}

std::optional<ClockCheck::Found> ChartView::lateFound() const {
    constexpr double worth_m = 0.5;
    const auto &sheet = context_.chart.sheet();
    if (!sheet || !sheet->clocks || !context_.chart.finished())
        return std::nullopt;
    const auto &c = *sheet->clocks;
    return c.apart_m / 2 > worth_m && std::fabs(c.positions_late_s) > 3 * c.sd_s ? sheet->clocks
                                                                                 : std::nullopt;
}

// What is offered, or what is taken and can be taken back; nothing where neither is.
void ChartView::refreshLate() {
    const auto found = lateFound();
    const double taken = context_.session.shown.scan().installation.positions_late_s;
    const auto told = [](double s) {
        return tr("%1 s %2").arg(std::fabs(s), 0, 'f', 1).arg(s > 0 ? tr("late") : tr("early"));
    };
    late_->setVisible(found || taken != 0);
    late_->setChecked(!found);
    late_->setText(found ? tr("Positions %1: mend").arg(told(found->positions_late_s))
                         : tr("Positions %1: mended").arg(told(taken)));
    const auto tip =
        found ? tr("Opposite passes saw the same things %1 apart: positions come too %2. A press puts the "
                   "track, what was found and the chart right")
                    .arg(QString::fromStdString(
                             print_length(found->apart_m, context_.session.preferences.units(), 1).text()),
                         found->positions_late_s > 0 ? tr("late") : tr("early"))
              : tr("A press takes positions as they are told again");
    late_->setToolTip(QStringLiteral("%1  [Shift+P]").arg(tip));
    // In the corner of the chart where nothing is written.
    late_->setGeometry(sheet_->x() + 18, sheet_->geometry().bottom() - late_high - 18, late_wide, late_high);
    late_->raise();
}

void ChartView::takeLate() {
    const auto found = lateFound();
    context_.session.setPositionsLate(
        found ? context_.session.shown.scan().installation.positions_late_s + found->positions_late_s : 0);
}

} // namespace heron::app
