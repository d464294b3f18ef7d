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
    auto colours = palette();
    colours.setColor(QPalette::WindowText, colour(ink_ == Ink::plain   ? "ink"
                                                  : ink_ == Ink::quiet ? "ink2"
                                                                       : "accent"));
    setPalette(colours);
}

QWidget *paperRule(QWidget *parent) {
    auto *rule = new QWidget(parent);
    rule->setFixedHeight(1);
    rule->setAutoFillBackground(true);
    const auto dress = [rule] {
        auto colours = rule->palette();
        colours.setColor(QPalette::Window, colour("line"));
        rule->setPalette(colours);
    };
    QObject::connect(&Theme::instance(), &Theme::changed, rule, dress);
    dress();
    return rule;
}

void dressPage(QWidget *page) {
    page->setAutoFillBackground(true);
    const auto dress = [page] {
        auto colours = page->palette();
        colours.setColor(QPalette::Window, colour("page"));
        page->setPalette(colours);
        page->setStyleSheet(
            QStringLiteral(
                "QLineEdit, QPlainTextEdit, QComboBox { background: %1; color: %2; border: 1px solid %3; "
                "border-radius: 3px; padding: 6px; font-size: 15px; selection-background-color: %4; } "
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
