// A day as pages to keep or to hand on: what was done, and what the whole record supports.
#include "kit/counted.hpp"
#include "kit/day_words.hpp"
#include "kit/kind_words.hpp"
#include "kit/pdf_file.hpp"
#include "kit/theme.hpp"
#include "views/log/day_page.hpp"
#include "views/log/log_view.hpp"

#include <QPageSize>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

// Words down a page, a new page where one is full; each ends with what holds before it.
class Pages {
  public:
    Pages(QPainter &p, QPdfWriter &page) : p_(p), page_(page) { begin(); }
    void say(const QString &words, int px, bool bold = false, double indent = 0) {
        const QRectF room(indent, y_, page_.width() - indent, page_.height());
        p_.setFont(Theme::instance().font(px, bold));
        const auto needs = p_.boundingRect(room, Qt::TextWordWrap, words);
        if (y_ + needs.height() > bottom()) {
            page_.newPage();
            begin();
            p_.setFont(Theme::instance().font(px, bold));
        }
        p_.setPen(Qt::black);
        p_.drawText(QRectF(indent, y_, room.width(), needs.height() + 4), Qt::TextWordWrap, words);
        y_ += needs.height() + 6;
    }
    void space(double high) { y_ += high; }
    /// Room for a drawing; on the next page where it does not fit here.
    QRectF room(double high) {
        if (y_ + high > bottom()) {
            page_.newPage();
            begin();
        }
        const QRectF r(0, y_, page_.width(), high);
        y_ += high + 8;
        return r;
    }

  private:
    double bottom() const { return page_.height() - 48; }
    void begin() {
        y_ = 0;
        p_.setPen(Qt::black);
        p_.setFont(Theme::instance().font(11));
        p_.drawText(
            QPointF(0, page_.height() - 20.0),
            LogView::tr("Told from what was written down; few tries say little. Places of fish are yours to "
                        "share or to keep."));
        p_.drawText(
            QPointF(0, page_.height() - 4.0),
            LogView::tr("Not for navigation. Closed seasons, protected places and local rules hold before "
                        "this page."));
    }
    QPainter &p_;
    QPdfWriter &page_;
    double y_ = 0;
};

// Inks by their meaning, on white.
QColor onPaper(const char *meaning) {
    const std::string_view m = meaning;
    if (m == "page" || m == "lift")
        return Qt::white;
    if (m == "ink2")
        return QColor(0x50, 0x50, 0x50);
    if (m == "water")
        return QColor(0xdc, 0xe6, 0xea);
    return m == "line" || m == "hair" ? QColor(0xc4, 0xc4, 0xc4) : QColor(Qt::black);
}

} // namespace

void LogView::writeReport(const QString &path) {
    if (day_ >= book_.days().size())
        return;
    const auto &d = book_.days()[day_];
    const auto date = dayInWords(QDate::fromString(d.date, Qt::ISODate));
    const auto written = writePdfFile(
        path,
        [&](QPdfWriter &page) {
            page.setPageSize(QPageSize(QPageSize::A4));
            page.setPageMargins(QMarginsF(18, 16, 18, 16), QPageLayout::Millimeter);
            page.setResolution(96);
            page.setTitle(date);
            page.setCreator(tr("Young Heron"));
        },
        [&](QPainter &p, QPdfWriter &page) {
            Pages pages(p, page);
            pages.say(date, 20, true);
            if (!d.waters.isEmpty())
                pages.say(d.waters.join(QStringLiteral(", ")), 15);
            pages.space(8);
            day_page_->paintAfloat(p, pages.room(252), onPaper);
            pages.space(8);
            for (const auto &line : day_page_->lines())
                pages.say(line, 13);
            pages.space(14);
            const auto &r = book_.record();
            pages.say(tr("What the whole record supports"), 16, true);
            pages.say(tr("%1, %2 with a bite or a fish; %3 made.")
                          .arg(counted(r.visits, tr("visit"), tr("visits")))
                          .arg(r.bitten)
                          .arg(counted(r.comparisons, tr("comparison"), tr("comparisons"))),
                      13);
            for (const auto &f : r.findings) {
                const auto what =
                    tr("%1: %2").arg(QString::fromStdString(f.factor), QString::fromStdString(f.value));
                if (f.too_few) {
                    pages.say(tr("%1 · too few to say (%2 of %3)").arg(what).arg(f.k).arg(f.n), 12);
                    continue;
                }
                const auto hundred = [](double share) { return std::lround(100 * share); };
                pages.say(what, 13, true);
                pages.say(tr("%1 of %2 (%3 to %4 in 100), elsewhere %5 of %6 (%7 to %8 in 100).")
                              .arg(f.k)
                              .arg(f.n)
                              .arg(hundred(f.share.low))
                              .arg(hundred(f.share.high))
                              .arg(f.rest_k)
                              .arg(f.rest_n)
                              .arg(hundred(f.rest.low))
                              .arg(hundred(f.rest.high)),
                          12, false, 14);
                pages.say(chanceWords(f), 12, false, 14);
            }
        });
    if (!written) {
        context_.session.notices.raise(QStringLiteral("log"), written.error());
        return;
    }
    context_.session.notices.say(QStringLiteral("log"), tr("The day is written to %1.").arg(path));
}

} // namespace heron::app
