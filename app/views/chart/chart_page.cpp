// The sheet as a page to print or to give away.
#include "kit/pdf_file.hpp"
#include "kit/theme.hpp"
#include "views/chart/chart_sheet_view.hpp"

#include <QDateTime>
#include <QPageLayout>
#include <QPageSize>
#include <algorithm>

namespace heron::app {

// What the window shows, as wide as the page; under it what it is, when it was made, and that it is no chart
// to steer by.
void ChartSheetView::writePdf(const QString &path) {
    const auto written = writePdfFile(
        path,
        [this](QPdfWriter &page) {
            page.setPageLayout(QPageLayout(QPageSize(QPageSize::A4), QPageLayout::Landscape,
                                           QMarginsF(12, 12, 12, 12), QPageLayout::Millimeter));
            page.setResolution(300);
            page.setTitle(context_.session.sources.name());
            page.setCreator(tr("Young Heron"));
        },
        [this](QPainter &p, QPdfWriter &page) {
            constexpr double footer = 46;
            const double scale =
                std::min(page.width() / static_cast<double>(width()), page.height() / (height() + footer));
            p.scale(scale, scale);
            const auto hover = hover_;
            hover_.reset();
            p.fillRect(rect(), colour("page"));
            whole_ = true;
            paintSheet(p);
            whole_ = false;
            hover_ = hover;
            p.setFont(Theme::instance().font(13));
            p.setPen(Qt::black);
            p.drawText(QPointF(4, height() + 20),
                       tr("%1, made %2 from own passes. Not for navigation: depths and hazards change, and "
                          "what was not "
                          "seen is not here.")
                           .arg(context_.session.sources.name(), QDate::currentDate().toString(Qt::ISODate)));
            p.drawText(
                QPointF(4, height() + 38),
                tr("Lookout first, life jackets on; local rules and authorities hold before this page."));
        });
    if (!written) {
        context_.session.notices.raise(QStringLiteral("chart"), written.error());
        return;
    }
    context_.session.notices.say(QStringLiteral("chart"),
                                 tr("Chart written to %1. Not for navigation.").arg(path));
}

} // namespace heron::app
