#include "views/marks/join_page.hpp"

#include "kit/chip_image.hpp"
#include "kit/counted.hpp"
#include "kit/key_button.hpp"
#include "kit/kind_words.hpp"
#include "kit/paragraph.hpp"
#include "kit/theme.hpp"

#include <QPainter>
#include <QSettings>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

const QString apart_key = QStringLiteral("marks/keptApart");

} // namespace

JoinPage::JoinPage(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    const auto key = [this](const char *name, const QString &text, const QKeySequence &letter,
                            const QString &tip) {
        auto *k = new KeyButton(QString(), text, letter, tip, this);
        k->setObjectName(QString::fromLatin1(name));
        k->setFixedHeight(56);
        return k;
    };
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->addStretch(1);
    auto *keys = new QHBoxLayout;
    keys->setSpacing(8);
    keys->addWidget(join_ = key("joinThem", tr("One"), Qt::Key_Z,
                                tr("They are one thing: join them; Undo parts them again")));
    keys->addWidget(apart_ =
                        key("keepApart", tr("Two"), Qt::Key_X, tr("They are two things: not asked again")));
    keys->addWidget(next_ = key("nextJoin", tr("Next"), Qt::Key_C, tr("The next pair")));
    column->addLayout(keys);
    join_->setPrimary(true);
    connect(join_, &KeyButton::clicked, this, [this] {
        if (const auto *p = current()) {
            const auto a = QString::fromStdString(p->a);
            if (context_.marks.join(a, QString::fromStdString(p->b)))
                context_.window.selectMark(a);
        }
    });
    connect(apart_, &KeyButton::clicked, this, [this] {
        if (const auto *p = current()) {
            kept_apart_.insert({p->a, p->b});
            QStringList lines;
            for (const auto &[a, b] : kept_apart_)
                lines << QString::fromStdString(a + " " + b);
            QSettings().setValue(apart_key, lines);
            refresh();
        }
    });
    connect(next_, &KeyButton::clicked, this, [this] { step(1); });
    for (const auto &line : QSettings().value(apart_key).toStringList())
        kept_apart_.insert({line.section(QLatin1Char(' '), 0, 0).toStdString(),
                            line.section(QLatin1Char(' '), 1, 1).toStdString()});
    connect(&context_.marks, &MarkLibrary::marksChanged, this, [this] {
        if (isVisible())
            refresh();
    });
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void JoinPage::showEvent(QShowEvent *) {
    refresh();
}

void JoinPage::refresh() {
    proposals_ = propose_joins(context_.marks.all(), 0.5, context_.session.preferences.units());
    std::erase_if(proposals_, [&](const JoinProposal &p) {
        return kept_apart_.contains({p.a, p.b}) || kept_apart_.contains({p.b, p.a});
    });
    at_ = std::min(at_, proposals_.empty() ? 0 : proposals_.size() - 1);
    for (auto *k : {join_, apart_, next_})
        k->setEnabled(!proposals_.empty());
    update();
}

void JoinPage::step(int by) {
    if (!proposals_.empty())
        at_ = (at_ + proposals_.size() + static_cast<std::size_t>(by)) % proposals_.size();
    update();
}

// Two pictures, what each says of itself, how sure, and why.
void JoinPage::paintEvent(QPaintEvent *) {
    QPainter p(this);
    const auto write = wordsOn(p);
    if (proposals_.empty()) {
        write(0, 22, tr("Nothing is doubled"), 17, true, "ink");
        p.setFont(Theme::instance().font(14));
        p.setPen(colour("ink2"));
        paintParagraph(p, {0, 34, static_cast<double>(width()), 80},
                       tr("Marks that may be one thing, seen on several passes or by several screens, are "
                          "shown here side by side."));
        return;
    }
    const auto &q = proposals_[at_];
    write(0, 22,
          tr("%1 of %2: one thing?").arg(at_ + 1).arg(counted(proposals_.size(), tr("pair"), tr("pairs"))),
          17, true, "ink");
    const int half = (width() - 12) / 2, high = std::min(half * 92 / 124, height() / 4);
    const auto units = context_.session.preferences.units();
    double y = 36;
    int x = 0;
    for (const auto *m : {context_.marks.find(QString::fromStdString(q.a)),
                          context_.marks.find(QString::fromStdString(q.b))}) {
        if (m == nullptr)
            continue;
        const QRect box(x, static_cast<int>(y), half, high);
        const auto image = imageOf(m->chip);
        image.isNull() ? p.fillRect(box, colour("sunk")) : p.drawImage(box, image);
        const auto words = [&](int line, const QString &text, bool bold) {
            p.setFont(Theme::instance().font(13, bold));
            p.setPen(colour(bold ? "ink" : "ink2"));
            p.drawText(QPointF(x, y + high + 18 * line),
                       p.fontMetrics().elidedText(text, Qt::ElideRight, half));
        };
        words(1, capital(QString::fromStdString(plain_name(*m))), true);
        words(2, m->time == 0 ? tr("no time") : QString::fromStdString(print_rfc3339(m->time, 0)).left(10),
              false);
        QStringList more;
        if (m->height_m)
            more << tr("%1 tall").arg(QString::fromStdString(print_length(m->height_m->value, units).text()));
        if (m->place)
            more << tr("place ± %1")
                        .arg(QString::fromStdString(
                            print_length(m->place_covariance.radial_sd_m(), units).text()));
        words(3, more.join(QStringLiteral(" · ")), false);
        x += half + 12;
    }
    y += high + 84;
    const double end = join_->geometry().top() - 8;
    // Doubt is one plain bar.
    write(0, y, tr("One, %1 in 100").arg(std::lround(100 * q.chance)), 15, true, "ink");
    y += 8;
    p.setPen(QPen(colour("ink"), 1));
    p.drawRect(QRectF(0.5, y, width() - 2, 7));
    p.fillRect(QRectF(0, y, (width() - 1) * q.chance, 8), colour("ink"));
    y += 26;
    const auto reason = [&](const std::string &words, bool speaks_for) {
        if (y + 16 > end)
            return;
        write(0, y + 12, speaks_for ? QStringLiteral("+") : QStringLiteral("−"), 17, true,
              speaks_for ? "reed" : "accent");
        p.setFont(Theme::instance().font(14));
        p.setPen(colour("ink"));
        y = paintParagraph(p, {20, y - 4, width() - 20.0, 44}, QString::fromStdString(words)) + 6;
    };
    for (const auto &r : q.speaks_for)
        reason(r, true);
    for (const auto &r : q.speaks_against)
        reason(r, false);
}

} // namespace heron::app
