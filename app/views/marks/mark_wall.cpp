#include "views/marks/mark_wall.hpp"

#include "kit/glyphs.hpp"
#include "kit/kind_words.hpp"
#include "kit/theme.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>

namespace heron::app {
namespace {

constexpr int chip_w = 124, chip_h = 92, cell_w = 132, cell_h = 140, head_h = 34;

} // namespace

MarkWall::MarkWall(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    connect(&context_.marks, &MarkLibrary::marksChanged, this, &MarkWall::arrange);
    connect(&context_.window, &WindowState::selectionChanged, this, [this] {
        update();
        if (const auto r = chipRect(context_.window.selectedMark()); r.isValid())
            emit shown(r);
    });
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void MarkWall::resizeEvent(QResizeEvent *) {
    arrange();
}

// One group for each family, newest marks first.
void MarkWall::arrange() {
    cells_.clear();
    heads_.clear();
    const int columns = std::max(1, (width() + cell_w - chip_w) / cell_w);
    int y = 0;
    for (const auto family :
         {Family::structure, Family::fish, Family::bottom, Family::hazard, Family::unsure}) {
        std::vector<const Mark *> group;
        for (const auto &m : context_.marks.all())
            if (m.family == family)
                group.push_back(&m);
        if (group.empty())
            continue;
        std::reverse(group.begin(), group.end());
        heads_.push_back({y, tr("%1  %2").arg(capital(wordFor(family))).arg(group.size())});
        y += head_h;
        for (std::size_t i = 0; i < group.size(); ++i) {
            const int c = static_cast<int>(i) % columns, r = static_cast<int>(i) / columns;
            cells_.push_back({QRect(3 + c * cell_w, y + r * cell_h, chip_w, chip_h),
                              QString::fromStdString(group[i]->id)});
        }
        y += (static_cast<int>(group.size()) + columns - 1) / columns * cell_h;
    }
    setMinimumHeight(y);
    update();
}

QRect MarkWall::chipRect(const QString &id) const {
    for (const auto &c : cells_)
        if (c.id == id)
            return c.rect;
    return {};
}

void MarkWall::step(int by) {
    if (cells_.empty())
        return;
    std::ptrdiff_t at = by > 0 ? -1 : std::ssize(cells_);
    for (std::ptrdiff_t i = 0; i < std::ssize(cells_); ++i)
        if (cells_[static_cast<std::size_t>(i)].id == context_.window.selectedMark())
            at = i;
    at = std::clamp<std::ptrdiff_t>(at + by, 0, std::ssize(cells_) - 1);
    context_.window.selectMark(cells_[static_cast<std::size_t>(at)].id);
}

void MarkWall::mousePressEvent(QMouseEvent *event) {
    for (const auto &c : cells_)
        if (c.rect.adjusted(0, 0, 0, cell_h - chip_h - 4).contains(event->position().toPoint()))
            context_.window.selectMark(c.id);
}

void MarkWall::paintEvent(QPaintEvent *event) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(event->rect(), colour("page"));
    p.setFont(theme.font(15, true));
    for (const auto &h : heads_) {
        p.setPen(QPen(colour("line"), 1));
        p.drawLine(0, h.y, width(), h.y);
        p.setPen(colour("ink"));
        p.drawText(QRect(0, h.y, width(), head_h), Qt::AlignVCenter, h.text);
    }
    p.setRenderHint(QPainter::Antialiasing);
    for (const auto &c : cells_) {
        if (!event->rect().intersects(c.rect.adjusted(-4, -4, 4, 50)))
            continue;
        const auto *m = context_.marks.find(c.id);
        if (m == nullptr)
            continue;
        const bool selected = c.id == context_.window.selectedMark();
        const auto image = imageOf(m->chip);
        if (image.isNull())
            p.fillRect(c.rect, colour("sunk"));
        else
            p.drawImage(c.rect, image);
        const auto ink = image.isNull() ? colour("ink") : colour(selected ? "pick" : "paper");
        const QRectF glyph(c.rect.x() + 6, c.rect.y() + 6, 24, 24);
        if (!image.isNull()) {
            QColor disc = colour("casing");
            disc.setAlphaF(0.72F);
            p.setPen(Qt::NoPen);
            p.setBrush(disc);
            p.drawEllipse(glyph.center(), 16, 16);
        }
        paintGlyph(p, markGlyph(m->family, m->kind), glyph, ink);
        if (selected) {
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(colour("accent"), 3));
            p.drawRect(QRectF(c.rect).adjusted(-1.5, -1.5, 1.5, 1.5));
        }
        p.setFont(theme.font(14, true));
        p.setPen(colour("ink"));
        const QRect words(c.rect.x(), c.rect.bottom() + 4, cell_w - 4, 18);
        p.drawText(words, Qt::AlignVCenter,
                   p.fontMetrics().elidedText(QString::fromStdString(plain_name(*m)), Qt::ElideRight,
                                              words.width()));
        QStringList parts;
        if (m->depth_m)
            parts << QString::fromStdString(
                print_length(m->depth_m->value, context_.session.preferences.units()).text());
        if (m->height_m)
            parts << (m->height_m->value < 0 ? tr("%1%2 hollow") : tr("%1%2 tall"))
                         .arg(m->height_at_least ? QStringLiteral("≥ ") : QString(),
                              QString::fromStdString(print_length(std::fabs(m->height_m->value),
                                                                  context_.session.preferences.units())
                                                         .figure));
        if (!m->place)
            parts << tr("no place");
        p.setFont(theme.font(13));
        p.setPen(colour("ink2"));
        p.drawText(
            words.translated(0, 18), Qt::AlignVCenter,
            p.fontMetrics().elidedText(parts.join(QStringLiteral(" · ")), Qt::ElideRight, words.width()));
    }
}

} // namespace heron::app
