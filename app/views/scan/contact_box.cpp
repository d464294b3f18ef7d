#include "views/scan/contact_box.hpp"

#include "kit/glyphs.hpp"
#include "kit/key_button.hpp"
#include "kit/kind_words.hpp"
#include "kit/theme.hpp"
#include "parts/picture_view.hpp"
#include "reading/contact_words.hpp"

#include <QPainter>

namespace heron::app {

ContactBox::ContactBox(ViewContext &context, PictureView &picture, QWidget *parent)
    : QWidget(parent), context_(context), picture_(picture) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    read_ = new KeyButton(QStringLiteral("place-read"), tr("Read it"), Qt::Key_Return,
                          tr("Open it in Read, with its section and its reasons"), this);
    read_->setObjectName(QStringLiteral("contactRead"));
    mark_ = new KeyButton(QStringLiteral("act-mark"), tr("Mark it"), Qt::Key_M,
                          tr("Mark it where it lies, as what it was read"), this);
    mark_->setObjectName(QStringLiteral("contactMark"));
    mark_->setPrimary(true);
    connect(read_, &KeyButton::clicked, this, &ContactBox::readAsked);
    connect(mark_, &KeyButton::clicked, this, &ContactBox::markAsked);
    const auto again = qOverload<>(&QWidget::update);
    connect(&picture_, &PictureView::contactPressed, this, again);
    connect(&context_.reader, &ContactReader::contactsChanged, this, again);
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, again);
    connect(&Theme::instance(), &Theme::changed, this, again);
}

void ContactBox::resizeEvent(QResizeEvent *) {
    const int y = height() - 54, w = (width() - 32 - 8) / 2;
    read_->setGeometry(16, y, w, 48);
    mark_->setGeometry(16 + w + 8, y, w, 48);
}

void ContactBox::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), colour("page"));
    lines_.clear();
    const auto *c = context_.reader.find(picture_.pressedContact());
    if (c == nullptr)
        return;
    const auto text = wordsOn(p);
    const int right = width() - 16, end = height() - 62;
    const auto units = context_.session.preferences.units();
    const auto title = capital(contactTitle(*c));
    paintGlyph(p, contactGlyph(c->family, c->kind), QRectF(16, 4, 26, 26), colour("ink"));
    p.setFont(Theme::instance().font(17, true));
    text(48, 23, p.fontMetrics().elidedText(title, Qt::ElideRight, right - 48), 17, true, "ink");
    // Doubt is one plain bar.
    const auto sure = inHundred(c->confidence);
    text(16, 48, sure, 13, true, "ink");
    const QRectF bar(96, 38, right - 96, 9);
    p.setPen(QPen(colour("ink"), 1));
    p.setBrush(Qt::NoBrush);
    p.drawRect(bar.adjusted(0.5, 0.5, -0.5, -0.5));
    p.fillRect(QRectF(bar.left(), bar.top(), bar.width() * c->confidence, bar.height()), colour("ink"));
    lines_ << title << sure;
    double y = 54;
    for (const auto &f : contactFacts(*c, units)) {
        y += 23;
        if (y > end)
            return;
        text(16, y, f.label, 13, false, "ink2");
        const double x = text(116, y, f.figure, 17, true, "ink");
        text(122 + x, y, f.doubt, 13, false, "ink2");
        lines_ << f.label + QLatin1Char(' ') + f.figure + QLatin1Char(' ') + f.doubt;
    }
    auto told = *c;
    give_reasons(told, units);
    y += 6;
    p.setFont(Theme::instance().font(13));
    const auto reason = [&](const std::string &words, const QString &sign) {
        const auto line = sign + QLatin1Char(' ') + capital(QString::fromStdString(words));
        QRectF used;
        p.setPen(colour("ink2"));
        const QRectF room(16, y, right - 16, 400);
        if (p.boundingRect(room, Qt::TextWordWrap, line).bottom() > end)
            return;
        p.drawText(room, Qt::TextWordWrap, line, &used);
        y = used.bottom() + 3;
        lines_ << line;
    };
    for (const auto &r : told.reasons)
        reason(r, QStringLiteral("+"));
    for (const auto &r : told.doubts)
        reason(r, QStringLiteral("−"));
}

} // namespace heron::app
