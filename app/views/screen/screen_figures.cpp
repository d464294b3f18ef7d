// Figures that stand on a screen: the boxes round them, and the receiver beside a film.
#include "views/screen/screen_view.hpp"

#include "kit/glyphs.hpp"
#include "kit/key_button.hpp"
#include "kit/theme.hpp"
#include "reading/contact_words.hpp"

#include <QPainter>
#include <algorithm>
#include <utility>

namespace heron::app {

QString ScreenView::wordOf(FigureBox::Of of) {
    switch (of) {
    case FigureBox::Of::depth:
        return tr("depth");
    case FigureBox::Of::speed:
        return tr("speed");
    case FigureBox::Of::heading:
        return tr("heading");
    case FigureBox::Of::position:
        return tr("position");
    case FigureBox::Of::range:
        break;
    }
    return tr("range");
}

void ScreenView::nextFigure() {
    using Of = FigureBox::Of;
    figure_ = !figure_                ? std::optional(Of::depth)
              : *figure_ == Of::range ? std::nullopt
                                      : std::optional(static_cast<Of>(static_cast<int>(*figure_) + 1));
    told_ = figure_ ? tr("Draw a box round the %1 on the screen; a press in its box takes it away.")
                          .arg(wordOf(*figure_))
                    : QString();
    changed();
}

// A box of that sort takes the place of the one before; what it reads now is told.
void ScreenView::takeFigure(const QPointF &from, const QPointF &to) {
    auto &all = calibration_.figures;
    std::erase_if(all, [this](const FigureBox &b) { return b.of == *figure_; });
    const auto a = toPicture(from), b = toPicture(to);
    const double w = calibration_.width, h = calibration_.height;
    FigureBox box;
    box.of = *figure_;
    box.from = {std::clamp(std::min(a.x, b.x), 0.0, w), std::clamp(std::min(a.y, b.y), 0.0, h)};
    box.to = {std::clamp(std::max(a.x, b.x), 0.0, w), std::clamp(std::max(a.y, b.y), 0.0, h)};
    const bool feet = context_.session.preferences.units() == UnitSystem::feet;
    if (box.of == FigureBox::Of::depth || box.of == FigureBox::Of::range)
        box.unit = feet ? "ft" : "m";
    else if (box.of == FigureBox::Of::speed)
        box.unit = feet ? "mph" : "km/h";
    constexpr double least_px = 6;
    told_ = tr("No box of the %1 now.").arg(wordOf(box.of));
    if (box.to.x - box.from.x >= least_px && box.to.y - box.from.y >= least_px) {
        all.push_back(box);
        auto reader = FigureReader::create({});
        const auto read = reader ? reader->words(picture_, box) : FigureWords();
        if (!reader)
            context_.session.notices.raise(QStringLiteral("screen"), reader.error());
        else if (!read.figure)
            told_ = tr("Nothing that is a %1 is read there: “%2”.")
                        .arg(wordOf(box.of), QString::fromStdString(read.words));
        else
            told_ = tr("Read there: “%1”, %2.")
                        .arg(QString::fromStdString(read.words), inHundred(read.sureness / 100.0));
    }
    remembered_ = false;
    changed();
}

void ScreenView::setTrack(const QString &path) {
    track_ = path;
    changed();
}

// Boxes round figures, each with its word.
void ScreenView::paintFigures(QPainter &p) const {
    p.setFont(Theme::instance().font(13, true));
    const auto box = [&](const QRectF &at, const QString &word, bool chosen) {
        for (const auto &[ink, wide] : {std::pair{QColor(0, 0, 0, 170), 4.4}, {QColor(255, 255, 255), 2.0}}) {
            p.setPen(QPen(ink, wide, chosen ? Qt::DashLine : Qt::SolidLine));
            p.drawRect(at);
        }
        // Beside it: the next figure often stands right under it.
        paintCased(p, QPointF(at.right() + 8, at.center().y() + 5), word, p.font(), QColor(255, 255, 255));
    };
    for (const auto &f : calibration_.figures)
        box(QRectF(toView(f.from), toView(f.to)), wordOf(f.of), figure_ == f.of);
    if (drawn_from_ && drawn_to_)
        box(QRectF(*drawn_from_, *drawn_to_).normalized(), wordOf(*figure_), true);
}

} // namespace heron::app
