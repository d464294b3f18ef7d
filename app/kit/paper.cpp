#include "kit/paper.hpp"

#include "kit/theme.hpp"

namespace heron::app {

PaperLabel::PaperLabel(const QString &words, int px, bool bold, Ink ink, QWidget *parent)
    : QLabel(words, parent), px_(px), bold_(bold), ink_(ink) {
    setWordWrap(true);
    setTextFormat(Qt::PlainText);
    connect(&Theme::instance(), &Theme::changed, this, &PaperLabel::dress);
    dress();
}

void PaperLabel::setInk(Ink ink) {
    ink_ = ink;
    dress();
}

void PaperLabel::dress() {
    setFont(Theme::instance().font(px_, bold_));
    const auto *ink = ink_ == Ink::plain ? "ink" : ink_ == Ink::quiet ? "ink2" : "accent";
    setStyleSheet(QStringLiteral("color: %1;").arg(colour(ink).name()));
}

QWidget *paperRule(QWidget *parent) {
    auto *rule = new QWidget(parent);
    rule->setFixedHeight(1);
    rule->setAttribute(Qt::WA_StyledBackground);
    const auto dress = [rule] {
        rule->setStyleSheet(QStringLiteral("background: %1;").arg(colour("line").name()));
    };
    QObject::connect(&Theme::instance(), &Theme::changed, rule, dress);
    dress();
    return rule;
}

void dressPage(QWidget *page) {
    // A palette set beside a style sheet is taken back when a sheet above it changes: sheets alone.
    page->setAttribute(Qt::WA_StyledBackground);
    page->setProperty("page", true);
    const auto dress = [page] {
        page->setStyleSheet(
            QStringLiteral("*[page=\"true\"] { background: %1; } ").arg(colour("page").name()) +
            QStringLiteral(
                "QLineEdit, QPlainTextEdit, QComboBox { background: %1; color: %2; border: 1px solid %3; "
                "border-radius: 3px; padding: 6px; font-size: 15px; selection-background-color: %4; "
                "selection-color: %1; } "
                "QComboBox::drop-down { border: none; width: 32px; } QComboBox::down-arrow { image: "
                "url(:/glyphs/down.svg); width: 20px; height: 20px; } QComboBox QAbstractItemView { "
                "background: "
                "%1; color: %2; font-size: 15px; }")
                .arg(colour("lift").name(), colour("ink").name(), colour("line").name(),
                     colour("reed").name()) +
            Theme::instance().scrollBarStyle());
    };
    QObject::connect(&Theme::instance(), &Theme::changed, page, dress);
    dress();
}

} // namespace heron::app
