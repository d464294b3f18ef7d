// What the chart is made of: which rows, and how looks at one place are put together.
#include "kit/key_button.hpp"
#include "views/chart/chart_sheet_view.hpp"
#include "views/chart/chart_view.hpp"

#include <QDate>
#include <QLocale>

namespace heron::app {

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

} // namespace heron::app
