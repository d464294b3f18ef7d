#include "kit/key_button.hpp"

#include "kit/glyphs.hpp"
#include "kit/theme.hpp"

#include <QEvent>
#include <QFontMetricsF>
#include <QKeyEvent>
#include <QPainter>
#include <QShortcutEvent>

namespace heron::app {
namespace {

bool presses(const QEvent *event) {
    const int key = static_cast<const QKeyEvent *>(event)->key();
    return key == Qt::Key_Space || key == Qt::Key_Return || key == Qt::Key_Enter;
}
// From line to line of two, closer than in running words.
double lineOf(const QFontMetricsF &m) {
    return m.ascent() + 0.5 * m.descent();
}

} // namespace

KeyButton::KeyButton(const QString &glyph, const QString &text, const QKeySequence &letter,
                     const QString &tip, QWidget *parent)
    : QAbstractButton(parent), glyph_(glyph), letter_(letter) {
    setText(text);
    setToolTip(letter.isEmpty()
                   ? tip
                   : QStringLiteral("%1  [%2]").arg(tip, letter.toString(QKeySequence::NativeText)));
    setShortcut(letter);
    // Letters stay with the view: Tab goes round what has none.
    setFocusPolicy(letter.isEmpty() ? Qt::TabFocus : Qt::NoFocus);
    setMinimumSize(44, 44);
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void KeyButton::setText(const QString &text) {
    if (text == this->text())
        return;
    QAbstractButton::setText(text);
    setShortcut(letter_);
}

// At once: the base class plays a press of a tenth of a second first, two rows of the picture late.
bool KeyButton::event(QEvent *event) {
    if (event->type() == QEvent::Shortcut && !static_cast<QShortcutEvent *>(event)->isAmbiguous()) {
        if (isEnabled())
            click();
        return true;
    }
    // Before the key that Enter or Space is elsewhere.
    if (event->type() == QEvent::ShortcutOverride && presses(event)) {
        event->accept();
        return true;
    }
    return QAbstractButton::event(event);
}

void KeyButton::keyPressEvent(QKeyEvent *event) {
    if (presses(event) && !event->isAutoRepeat())
        click();
    else
        event->ignore(); // arrows and all else are the view's
}

// What a view keeps out of sight for its letter's sake is no stop for Tab.
void KeyButton::moveEvent(QMoveEvent *) {
    setFocusPolicy(letter_.isEmpty() && x() >= 0 && y() >= 0 ? Qt::TabFocus : Qt::NoFocus);
}

void KeyButton::setPrimary(bool primary) {
    primary_ = primary;
    update();
}

void KeyButton::setGlyph(const QString &glyph) {
    glyph_ = glyph;
    update();
}

void KeyButton::setStacked(bool stacked) {
    stacked_ = stacked;
    update();
}

QSize KeyButton::sizeHint() const {
    const QFontMetricsF m(Theme::instance().font(14, true));
    qreal w = 24 + m.horizontalAdvance(text());
    if (!glyph_.isEmpty())
        w += 30;
    if (!letter_.isEmpty())
        w += 28;
    return {static_cast<int>(w), 64};
}

int KeyButton::roomForWords() const {
    return width() - 6 - (glyph_.isEmpty() || stacked_ ? 0 : 24 + 3);
}

// A glance reads two short lines sooner than one that is cut.
KeyButton::Setting KeyButton::settingFor(int wide, int tall, int largest) const {
    constexpr int smallest = 11;
    const auto words = text().split(QLatin1Char(' '), Qt::SkipEmptyParts);
    Setting s;
    for (int px = largest; px >= 12; --px) {
        s.font = Theme::instance().font(px, true);
        s.width = QFontMetricsF(s.font).horizontalAdvance(text());
        s.lines = QStringList{text()};
        if (s.width <= wide)
            return s;
    }
    for (int px = std::min(largest, 13); px >= smallest; --px) {
        const auto font = Theme::instance().font(px, true);
        const QFontMetricsF m(font);
        if (2 * lineOf(m) > tall)
            continue;
        for (qsizetype first = 1; first < words.size(); ++first) {
            const QStringList lines{words.mid(0, first).join(QLatin1Char(' ')),
                                    words.mid(first).join(QLatin1Char(' '))};
            const double longest = std::max(m.horizontalAdvance(lines[0]), m.horizontalAdvance(lines[1]));
            if (longest <= wide)
                return {font, lines, true, longest};
        }
    }
    // One long word is parted in its middle, as its language may hyphenate it elsewhere.
    if (words.size() == 1)
        for (int px = std::min(largest, 12); px >= 9; --px) {
            const auto font = Theme::instance().font(px, true);
            const QFontMetricsF m(font);
            if (2 * lineOf(m) > tall)
                continue;
            const auto half = (text().size() + 1) / 2;
            const QStringList lines{text().left(half) + QLatin1Char('-'), text().mid(half)};
            const double longest = std::max(m.horizontalAdvance(lines[0]), m.horizontalAdvance(lines[1]));
            if (longest <= wide)
                return {font, lines, true, longest};
        }
    for (int px = 11; px >= 9; --px) {
        s.font = Theme::instance().font(px, true);
        s.width = QFontMetricsF(s.font).horizontalAdvance(text());
        if (s.width <= wide)
            return s;
    }
    const QFontMetricsF m(s.font);
    s.lines = QStringList{m.elidedText(text(), Qt::ElideRight, wide)};
    s.width = m.horizontalAdvance(s.lines[0]);
    s.whole = false;
    return s;
}

bool KeyButton::wordFits() const {
    const int glyph = glyph_.isEmpty() || stacked_ ? 0 : 24;
    const auto font = Theme::instance().font(stacked_ ? 12 : 13, true);
    return QFontMetrics(font).horizontalAdvance(text()) + glyph <= width() - 4;
}

void KeyButton::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QRectF box = QRectF(rect()).adjusted(1.5, 1.5, -1.5, -1.5);
    QColor ink = colour("ink"), fill = Qt::transparent, edge = colour("line");
    if (primary_ && isEnabled()) {
        edge = colour("accent");
        fill = theme.primaryFilled() ? colour("accent") : QColor(QStringLiteral("#2B1A0D"));
        ink = theme.primaryFilled() ? colour("onaccent") : colour("accent");
    } else if (isChecked()) {
        fill = edge = colour("keyon");
        ink = colour("keyontx");
    } else if (isDown()) {
        fill = colour("sunk");
    }
    if (!isEnabled())
        ink = colour("mute");
    p.setPen(QPen(edge, theme.keyLine()));
    p.setBrush(fill);
    p.drawRoundedRect(box, 3, 3);
    if (hasFocus()) {
        p.setPen(QPen(colour(primary_ && theme.primaryFilled() ? "onaccent" : "accent"), 2));
        p.setBrush(Qt::NoBrush);
        p.drawRoundedRect(box.adjusted(2, 2, -2, -2), 2, 2);
    }

    if (stacked_) {
        const double side = height() < 60 ? 20 : 26;
        paintGlyph(p, glyph_, {width() / 2.0 - side / 2, height() < 60 ? 2.0 : 7.0, side, side}, ink);
        p.setPen(ink);
        const int from = height() < 60 ? 22 : 34;
        const auto set = settingFor(roomForWords(), height() - from - 2, 13);
        p.setFont(set.font);
        const double line = set.lines.size() == 1 ? 20 : lineOf(QFontMetricsF(set.font));
        double y = set.lines.size() == 1 ? height() - (height() < 60 ? 23 : 27)
                                         : from + (height() - from - 2 - 2 * line) / 2;
        for (const auto &text : set.lines) {
            p.drawText(QRectF(0, y, width(), line), Qt::AlignCenter | Qt::TextDontClip, text);
            y += line;
        }
        p.setFont(theme.mono(12));
        p.drawText(QRectF(width() - 36, 4, 31, 14), Qt::AlignRight | Qt::AlignVCenter,
                   letter_.toString(QKeySequence::NativeText));
        return;
    }

    // Glyph, word and letter are centred as one.
    auto cap_text = letter_.toString(QKeySequence::NativeText);
    if (letter_ == QKeySequence(Qt::Key_Return))
        cap_text = tr("Ret");
    else if (letter_ == QKeySequence(Qt::Key_Backspace))
        cap_text = tr("Bksp");
    const qreal cap_width = std::max(18.0, QFontMetricsF(theme.mono(12)).horizontalAdvance(cap_text) + 8);
    const qreal glyph = glyph_.isEmpty() ? 0 : 24;
    qreal letter = letter_.isEmpty() || width() < 70 ? 0 : cap_width;
    auto set = settingFor(roomForWords(), height() - 10, 14);
    qreal gap = 6;
    if (set.width + glyph + letter + 3 * gap > width() - 10) {
        set = settingFor(roomForWords(), height() - 10, 13);
        gap = 3;
    }
    const QFontMetricsF m(set.font);
    const qreal word = set.width;
    // A letter that does not fit stands in the tip only.
    if (glyph + word + letter + 3 * gap > width() - 6)
        letter = 0;
    const qreal whole = glyph + (glyph > 0 && word > 0 ? gap : 0) + word + (letter > 0 ? gap + letter : 0);
    qreal x = (width() - whole) / 2;
    const qreal middle = height() / 2.0;
    if (glyph > 0) {
        paintGlyph(p, glyph_, {x, middle - glyph / 2, glyph, glyph}, ink);
        x += glyph + (word > 0 ? gap : 0);
    }
    p.setPen(ink);
    p.setFont(set.font);
    const double line = lineOf(m);
    double y = middle + m.capHeight() / 2 - (static_cast<double>(set.lines.size()) - 1) * line / 2;
    for (const auto &text : set.lines) {
        p.drawText(QPointF(x + (word - m.horizontalAdvance(text)) / 2, y), text);
        y += line;
    }
    x += word + gap;
    if (letter > 0) {
        const QRectF cap(x, middle - 9, letter, 18);
        p.setPen(QPen(ink, 1));
        p.setBrush(Qt::NoBrush);
        p.drawRoundedRect(cap, 2, 2);
        p.setFont(theme.mono(12));
        p.drawText(cap, Qt::AlignCenter, cap_text);
    }
}

} // namespace heron::app
