#include "kit/item_list.hpp"

#include "kit/glyphs.hpp"
#include "kit/theme.hpp"

#include <QPainter>
#include <utility>

namespace heron::app {
namespace {

constexpr int gap = 8, header_high = 34, title_high = 20, subtitle_high = 18, bar_high = 9, row_least = 60;

} // namespace

ItemDelegate::ItemDelegate(Shape shape, QSize size, QObject *parent)
    : QStyledItemDelegate(parent), shape_(shape), picture_(size) {}

QSize ItemDelegate::sizeHint(const QStyleOptionViewItem &option, const QModelIndex &index) const {
    const auto *list = qobject_cast<const QListView *>(option.widget);
    const int wide = list != nullptr ? list->viewport()->width() : 200;
    if (index.data(header_role).toBool())
        return {wide, header_high};
    if (shape_ == Shape::row)
        return {wide, std::max(row_least, picture_.height() + 8)};
    int high = picture_.height() + 6 + title_high;
    if (index.data(subtitle_role).isValid())
        high += subtitle_high;
    if (index.data(doubt_role).isValid())
        high += bar_high;
    return {picture_.width() + gap, high + gap};
}

void ItemDelegate::paint(QPainter *painter, const QStyleOptionViewItem &option,
                         const QModelIndex &index) const {
    QPainter &p = *painter;
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    const bool selected = option.state.testFlag(QStyle::State_Selected);
    if (index.data(header_role).toBool())
        paintHeader(p, option.rect, index);
    else if (shape_ == Shape::chip)
        paintChip(p, option.rect, index, selected);
    else
        paintRow(p, option.rect, index, selected);
    p.restore();
}

void ItemDelegate::paintHeader(QPainter &p, const QRect &box, const QModelIndex &index) const {
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(box.left(), box.top(), box.right(), box.top());
    p.setFont(Theme::instance().font(15, true));
    p.setPen(colour("ink"));
    p.drawText(box, Qt::AlignVCenter, index.data().toString());
}

void ItemDelegate::paintChip(QPainter &p, const QRect &box, const QModelIndex &index, bool selected) const {
    const QRect image_box(box.topLeft() + QPoint(3, 3), picture_ - QSize(2, 2));
    const auto image = picture ? picture(index.data(id_role).toString()) : QImage();
    if (image.isNull())
        p.fillRect(image_box, colour("sunk"));
    else
        p.drawImage(image_box, image);
    if (selected) {
        p.setPen(QPen(colour("accent"), 3));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(image_box).adjusted(-1.5, -1.5, 1.5, 1.5));
    }
    const int x = image_box.left(), wide = image_box.width();
    int y = image_box.bottom() + 4;
    int left = x;
    if (const auto glyph = index.data(glyph_role).toString(); !glyph.isEmpty()) {
        paintGlyph(p, glyph, QRectF(x, y - 1, 20, 20), colour("ink"));
        left += 24;
    }
    const auto title = index.data().toString();
    const int room = x + wide - left;
    auto font = Theme::instance().font(14, true);
    if (QFontMetrics(font).horizontalAdvance(title) > room)
        font = Theme::instance().font(13);
    p.setFont(font);
    p.setPen(colour("ink"));
    p.drawText(QRect(left, y, room, title_high), Qt::AlignVCenter,
               p.fontMetrics().elidedText(title, Qt::ElideRight, room));
    y += title_high;
    if (const auto subtitle = index.data(subtitle_role); subtitle.isValid()) {
        p.setFont(Theme::instance().font(13));
        p.setPen(colour("ink2"));
        p.drawText(QRect(x, y, wide, subtitle_high), Qt::AlignVCenter,
                   p.fontMetrics().elidedText(subtitle.toString(), Qt::ElideRight, wide));
        y += subtitle_high;
    }
    if (const auto doubt = index.data(doubt_role); doubt.isValid()) {
        p.setPen(QPen(colour("ink"), 1));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(x + 0.5, y + 2.5, wide - 1, 4));
        p.fillRect(QRectF(x, y + 2, wide * doubt.toDouble(), 5), colour("ink"));
    }
}

void ItemDelegate::paintRow(QPainter &p, const QRect &box, const QModelIndex &index, bool selected) const {
    if (selected) {
        p.fillRect(box.adjusted(0, 0, 0, -2), colour("sunk"));
        p.fillRect(QRect(box.left(), box.top(), 4, box.height() - 2), colour("accent"));
    }
    p.setPen(QPen(colour("hair"), 1));
    p.drawLine(box.left(), box.bottom() - 1, box.right(), box.bottom() - 1);
    int x = box.left() + 14;
    if (!picture_.isEmpty()) {
        const QRect image_box(x, box.top() + (box.height() - 2 - picture_.height()) / 2, picture_.width(),
                              picture_.height());
        const auto image = picture ? picture(index.data(id_role).toString()) : QImage();
        if (image.isNull())
            p.fillRect(image_box, colour("sunk"));
        else
            p.drawImage(image_box, image);
        x += picture_.width() + 16;
    }
    const auto detail = index.data(detail_role).toString();
    auto &theme = Theme::instance();
    int right = box.right() - 12;
    if (!detail.isEmpty()) {
        p.setFont(theme.font(14));
        const int wide = std::min((right - x) / 2, p.fontMetrics().horizontalAdvance(detail) + 4);
        p.setPen(colour("ink"));
        p.drawText(QRect(right - wide, box.top(), wide, box.height() - 2), Qt::AlignVCenter | Qt::AlignRight,
                   p.fontMetrics().elidedText(detail, Qt::ElideRight, wide));
        right -= wide + 16;
    }
    const int top = box.top() + box.height() / 2 - title_high - 2;
    p.setFont(theme.font(17, true));
    p.setPen(colour("ink"));
    p.drawText(QRect(x, top, right - x, title_high + 2), Qt::AlignVCenter,
               p.fontMetrics().elidedText(index.data().toString(), Qt::ElideRight, right - x));
    p.setFont(theme.font(13));
    p.setPen(colour(index.data(alarm_role).toBool() ? "accent" : "ink2"));
    p.drawText(QRect(x, top + title_high + 4, right - x, subtitle_high), Qt::AlignVCenter,
               p.fontMetrics().elidedText(index.data(subtitle_role).toString(), Qt::ElideRight, right - x));
}

ItemList::ItemList(Shape shape, QSize picture, QWidget *parent)
    : QListView(parent), delegate_(new ItemDelegate(shape, picture, this)) {
    setItemDelegate(delegate_);
    setFrameShape(QFrame::NoFrame);
    setSelectionMode(QAbstractItemView::SingleSelection);
    setEditTriggers(QAbstractItemView::NoEditTriggers);
    setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setResizeMode(QListView::Adjust);
    if (shape == Shape::chip) {
        setFlow(QListView::LeftToRight);
        setWrapping(true);
    }
    connect(this, &QAbstractItemView::doubleClicked, this,
            [this](const QModelIndex &index) { emit opened(index.data(id_role).toString()); });
    const auto dress = [this] {
        setStyleSheet(Theme::instance().scrollBarStyle() +
                      QStringLiteral("QListView { background: %1; border: none; outline: none; }")
                          .arg(colour("page").name()));
        viewport()->update();
    };
    connect(&Theme::instance(), &Theme::changed, this, dress);
    dress();
}

void ItemList::setPictures(std::function<QImage(const QString &id)> picture) {
    delegate_->picture = std::move(picture);
}

void ItemList::setItems(IdListModel *model) {
    items_ = model;
    setModel(model);
}

QString ItemList::currentId() const {
    return items_ != nullptr ? items_->idAt(currentIndex().row()) : QString();
}

void ItemList::selectId(const QString &id) {
    if (items_ == nullptr || id == currentId())
        return;
    selecting_ = true;
    const int row = items_->rowOf(id);
    if (row >= 0) {
        setCurrentIndex(items_->index(row));
        scrollTo(items_->index(row));
    } else {
        clearSelection();
        setCurrentIndex({});
    }
    selecting_ = false;
}

void ItemList::step(int by) {
    if (items_ == nullptr || items_->rowCount() == 0)
        return;
    int row = currentIndex().isValid() ? currentIndex().row() : by > 0 ? -1 : items_->rowCount();
    do
        row += by > 0 ? 1 : -1;
    while (row >= 0 && row < items_->rowCount() && items_->index(row).data(header_role).toBool());
    if (row >= 0 && row < items_->rowCount())
        setCurrentIndex(items_->index(row));
}

void ItemList::rowsAboutToBeRemoved(const QModelIndex &parent, int first, int last) {
    const bool was = std::exchange(selecting_, true);
    QListView::rowsAboutToBeRemoved(parent, first, last);
    selecting_ = was;
}

void ItemList::currentChanged(const QModelIndex &current, const QModelIndex &previous) {
    QListView::currentChanged(current, previous);
    if (!selecting_ && current.isValid() && !current.data(header_role).toBool())
        emit chosen(current.data(id_role).toString());
}

} // namespace heron::app
