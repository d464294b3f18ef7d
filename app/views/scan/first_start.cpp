#include "views/scan/first_start.hpp"

#include "kit/key_button.hpp"
#include "kit/theme.hpp"
#include "parts/open_file.hpp"
#include "parts/place.hpp"

#include <QPainter>

namespace heron::app {
namespace {

constexpr int left = 48, first_key = 172, choice_high = 72, key_wide = 320, pitch = 108;

} // namespace

FirstStart::FirstStart(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    const auto add = [this](const char *name, const QString &glyph, const QString &text,
                            const QKeySequence &letter, const QString &does) {
        auto *key = new KeyButton(glyph, text, letter, does, this);
        key->setObjectName(QString::fromLatin1(name));
        choices_.push_back({key, does});
        return key;
    };
    auto *sail =
        add("startDemo", QStringLiteral("place-scan"), tr("Sail the demo lake"), Qt::Key_Z,
            tr("Ellemoor Water does not exist: a made-up lake, boat and sounder, to try everything on."));
    sail->setPrimary(true);
    connect(sail, &KeyButton::clicked, this, [this] { context_.session.demo.sail(); });
    auto *link = add("startConnect", QStringLiteral("act-share"), tr("Connect a sounder"), Qt::Key_X,
                     tr("Sounders and NMEA 0183 receivers, over the network or a serial device."));
    connect(link, &KeyButton::clicked, this, [this] { context_.window.askPlace(place::connections); });
    auto *open = add("startOpen", QStringLiteral("place-log"), tr("Open a recording"), Qt::Key_C,
                     tr("A recording (.nc) from any sonar, or a trip that was kept."));
    connect(open, &KeyButton::clicked, this, [this] { askToOpen(context_, this); });
    connect(&context_.session.sources, &Sources::stateChanged, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void FirstStart::resizeEvent(QResizeEvent *) {
    int y = first_key;
    for (const auto &c : choices_) {
        c.key->setGeometry(left, y, key_wide, choice_high);
        y += pitch;
    }
}

void FirstStart::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    const auto text = wordsOn(p);
    text(left, 80, tr("Young Heron"), 34, true, "ink");
    const int wide = width() - 2 * left;
    p.setFont(theme.font(17));
    p.setPen(colour("ink"));
    p.drawText(
        QRect(left, 100, std::min(wide, 760), 60), Qt::TextWordWrap,
        tr("A second pair of eyes on the sonar picture. Nothing is connected yet; begin with one of these."));
    const int x = left + key_wide + 24;
    p.setFont(theme.font(15));
    p.setPen(colour("ink2"));
    for (const auto &c : choices_)
        p.drawText(QRect(x, c.key->y(), width() - left - x, choice_high), Qt::TextWordWrap | Qt::AlignVCenter,
                   c.does);
    p.drawText(QRect(left, first_key + 3 * pitch + 8, std::min(wide, 760), height()), Qt::TextWordWrap,
               tr("Eyes on the water first: a screen is no lookout, and nothing here is for navigation."));
}

} // namespace heron::app
