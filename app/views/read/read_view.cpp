#include "views/read/read_view.hpp"

#include "kit/chip_image.hpp"
#include "kit/counted.hpp"
#include "kit/glyphs.hpp"
#include "kit/item_list.hpp"
#include "kit/key_button.hpp"
#include "kit/kind_words.hpp"
#include "kit/paragraph.hpp"
#include "kit/theme.hpp"
#include "parts/pass_compare.hpp"
#include "parts/picture_over_section.hpp"
#include "parts/place.hpp"
#include "reading/contact_words.hpp"
#include "views/read/contact_panel.hpp"

#include <QKeyEvent>
#include <QPainter>
#include <QRegularExpression>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr int left_width = 250, chip_w = 101, chip_h = 76, chips_top = 164;

} // namespace

ReadView::ReadView(ViewContext &context, QWidget *parent)
    : QWidget(parent), context_(context), read_(&context.reader) {
    setFocusPolicy(Qt::StrongFocus);
    addList();
    fold_ = new PictureOverSection(context, this);
    side_ = new ContactPanel(context, this);
    passes_ = new PassCompare(context, this);
    addKeys();
    for (auto *k : {all_, fish_, structure_, bottom_})
        k->setCheckable(true);
    const auto filter = [this](std::optional<Family> family) {
        return [this, family] {
            model_->setOnly(family);
            refresh();
        };
    };
    connect(all_, &KeyButton::clicked, this, filter(std::nullopt));
    connect(fish_, &KeyButton::clicked, this, filter(Family::fish));
    connect(structure_, &KeyButton::clicked, this, filter(Family::structure));
    connect(bottom_, &KeyButton::clicked, this, filter(Family::bottom));
    connect(order_key_, &KeyButton::clicked, this, [this] {
        model_->setOrder(static_cast<Order>((static_cast<int>(order()) + 1) % 5));
        refresh();
    });
    connect(mark_, &KeyButton::clicked, this, &ReadView::mark);
    connect(circle_key_, &KeyButton::clicked, this, &ReadView::setCircle);
    connect(scan_, &KeyButton::clicked, this, [this] {
        const auto *c = selected();
        if (c == nullptr)
            return;
        if (!circle()) {
            context_.window.askRow(c->row);
            return;
        }
        if (const auto aim = context_.bow.aimOf(*c, idOf(*c)))
            context_.bow.aimAt(*aim);
        context_.window.askPlace(place::around);
    });
    connect(passes_key_, &KeyButton::clicked, this, [this] {
        const auto *c = selected();
        if (passes_->isVisible())
            passes_->next();
        else if (c != nullptr && c->place)
            passes_->showAny(c->place->place, c->row);
        else if (c != nullptr)
            context_.session.notices.say(QStringLiteral("passes"),
                                         tr("Its place is not known, so other passes cannot be found."));
    });
    connect(side_, &ContactPanel::runAsked, this, [this] { context_.window.askPlace(place::scan); });
    connect(&context_.window, &WindowState::readAsked, this, [this](const GeoPoint &where, std::size_t row) {
        setCircle(false);
        takeNear(where);
        passes_->showAny(where, row);
    });
    const auto step = [this](int by) {
        if (shown_.empty())
            return;
        const auto *c = selected();
        const auto at = std::find(shown_.begin(), shown_.end(), c);
        const auto i = at == shown_.end() ? 0 : at - shown_.begin() + by;
        take(static_cast<int>(std::clamp<std::ptrdiff_t>(i, 0, std::ssize(shown_) - 1)));
    };
    connect(before_, &KeyButton::clicked, this, [step] { step(-1); });
    connect(next_, &KeyButton::clicked, this, [step] { step(1); });
    for (auto *read : std::initializer_list<ReadContacts *>{&context_.reader, &context_.bow.circle()}) {
        connect(read, &ReadContacts::contactsChanged, this, [this, read] {
            if (read != read_)
                return;
            // What is shown points into what was read.
            if (isVisible())
                refresh();
            else
                shown_.clear();
        });
        connect(&read->stream(), &ShownScan::replaced, this, [this] {
            chips_.clear();
            refresh();
        });
    }
    connect(&context_.session.around, &ShownScan::rowsAdded, this, [this] {
        if (isVisible() && !circle_key_->isVisibleTo(this))
            refresh();
    });
    connect(fold_, &PictureOverSection::handlesMoved, this, qOverload<>(&QWidget::update));
    connect(&context_.window, &WindowState::displayChanged, this, [this] {
        chips_.clear();
        update();
    });
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, [this] { refresh(); });
    connect(&Theme::instance(), &Theme::changed, this, [this] {
        chips_.clear();
        update();
    });
    refresh();
}

void ReadView::addList() {
    model_ = new ContactList(context_.session, *read_, this);
    list_ = new ItemList(ItemList::Shape::chip, {chip_w, chip_h}, this);
    list_->setObjectName(QStringLiteral("contacts"));
    list_->setAccessibleName(tr("Contacts"));
    list_->setItems(model_);
    list_->setPictures([this](const QString &id) {
        const auto *c = model_->find(id);
        return c != nullptr ? chipOf(*c) : QImage();
    });
    connect(list_, &ItemList::chosen, this, [this](const QString &id) {
        const auto at = std::find(shown_.begin(), shown_.end(), model_->find(id));
        take(static_cast<int>(at - shown_.begin()));
    });
    connect(list_, &ItemList::opened, this, [this] { scan_->click(); });
}

void ReadView::addKeys() {
    all_ = addKey("readAll", QString(), tr("all"), QKeySequence(), tr("All contacts"));
    fish_ = addKey("readFish", QStringLiteral("family-fish"), QString(), Qt::Key_Z, tr("Fish only"));
    structure_ = addKey("readStructure", QStringLiteral("family-structure"), QString(), Qt::Key_X,
                        tr("Structure only"));
    bottom_ = addKey("readBottom", QStringLiteral("family-bottom"), QString(), Qt::Key_C, tr("Bottom only"));
    order_key_ = addKey("readOrder", QString(), tr("newest first"), Qt::Key_S,
                        tr("Order: newest, most doubtful, tallest, nearest, deepest"));
    mark_ = addKey("readMark", QStringLiteral("act-mark"), tr("Mark it here"), Qt::Key_M,
                   tr("Mark it where it lies, with what was measured"));
    mark_->setPrimary(true);
    passes_key_ = addKey("readPasses", QStringLiteral("act-passes"), tr("Passes"), Qt::Key_E,
                         tr("The same thing in the other passes, and looking down"));
    circle_key_ = addKey("readCircle", QStringLiteral("place-around"), QString(), Qt::Key_D,
                         tr("What the head at the bow shows, or the sides"));
    circle_key_->setCheckable(true);
    scan_ = addKey("readScan", QStringLiteral("place-scan"), QString(), Qt::Key_G,
                   tr("Show it in the picture of the trip"));
    before_ = addKey("readBefore", QString(), QStringLiteral("<"), Qt::Key_Up, tr("The contact before"));
    next_ = addKey("readNext", QString(), QStringLiteral(">"), Qt::Key_Down, tr("The next contact"));
}

KeyButton *ReadView::addKey(const char *name, const QString &glyph, const QString &text,
                            const QKeySequence &letter, const QString &tip) {
    auto *key = new KeyButton(glyph, text, letter, tip, this);
    key->setObjectName(QString::fromLatin1(name));
    return key;
}

QString ReadView::length(double m, int decimals) const {
    return QString::fromStdString(print_length(m, context_.session.preferences.units(), decimals).text());
}

const Contact *ReadView::selected() const {
    const auto *c = read_->find(circle() ? selected_on_circle_ : context_.window.selectedContact());
    return std::find(shown_.begin(), shown_.end(), c) != shown_.end() ? c : nullptr;
}

void ReadView::select(int id) {
    if (circle())
        selected_on_circle_ = id;
    else
        context_.window.selectContact(id);
}

void ReadView::setCircle(bool on) {
    circle_key_->setChecked(on);
    if (on == circle())
        return;
    read_ = on ? static_cast<ReadContacts *>(&context_.bow.circle()) : &context_.reader;
    shown_.clear();
    chips_.clear();
    passes_->setVisible(false);
    scan_->setGlyph(on ? QStringLiteral("place-around") : QStringLiteral("place-scan"));
    showFolded(nullptr);
    model_->setRead(*read_);
    refresh();
}

// The other passes are of the sides.
void ReadView::enableKeys(bool on) {
    for (auto *k : {mark_, scan_, before_, next_})
        k->setEnabled(on);
    passes_key_->setEnabled(on && !circle());
}

void ReadView::refresh() {
    const auto *before = selected();
    shown_ = model_->contacts();
    const auto only = model_->only();
    static const char *const orders[] = {QT_TR_NOOP("newest first"), QT_TR_NOOP("doubtful first"),
                                         QT_TR_NOOP("tallest first"), QT_TR_NOOP("nearest first"),
                                         QT_TR_NOOP("deepest first")};
    order_key_->setText(tr(orders[static_cast<int>(order())]));
    all_->setChecked(!only);
    fish_->setChecked(only == Family::fish);
    structure_->setChecked(only == Family::structure);
    bottom_->setChecked(only == Family::bottom);
    const auto *now = selected();
    if (now == nullptr && !shown_.empty()) {
        take(0);
        now = selected();
    } else if (!fold_->moved() || before == nullptr) {
        showFolded(now);
    }
    list_->selectId(now != nullptr ? ContactList::idOf(idOf(*now)) : QString());
    side_->show(now, *read_);
    enableKeys(now != nullptr);
    if (const bool heard = circle() || !context_.session.around.empty();
        heard != circle_key_->isVisibleTo(this)) {
        circle_key_->setVisible(heard);
        layOut();
    }
    update();
}

int ReadView::idOf(const Contact &c) const {
    return read_->idOf(static_cast<std::size_t>(&c - read_->contacts().data()));
}

void ReadView::take(int index) {
    if (index < 0 || index >= static_cast<int>(shown_.size()))
        return;
    const auto *c = shown_[static_cast<std::size_t>(index)];
    select(idOf(*c));
    list_->selectId(ContactList::idOf(idOf(*c)));
    showFolded(c);
    side_->show(c, *read_);
    passes_->setVisible(false);
    enableKeys(true);
    update();
}

void ReadView::takeNear(const GeoPoint &place) {
    model_->setOnly(std::nullopt);
    refresh();
    int best = -1;
    double least = 6;
    for (int i = 0; i < static_cast<int>(shown_.size()); ++i)
        if (const auto *c = shown_[static_cast<std::size_t>(i)]; c->place)
            if (const double d = leg_between(c->place->place, place).distance_m; d < least)
                least = d, best = i;
    take(best);
}

void ReadView::mark() {
    const auto *c = selected();
    if (c == nullptr)
        return;
    const auto &scan = read_->stream().scan();
    // As Read tells it, or as the guide's hand has measured it.
    const auto source = context_.session.sources.name().toStdString();
    auto m = mark_of(scan, *c, source);
    if (fold_->moved() && fold_->measured()) {
        const auto kind = m.kind;
        m = mark_measured(scan, *fold_->handles(), *fold_->measured(), m.family, source);
        m.kind = kind;
    }
    auto worded = *c;
    give_reasons(worded, context_.session.preferences.units());
    for (const auto &r : worded.reasons)
        m.note += (m.note.empty() ? "" : "; ") + r;
    m.chip = cut_chip(scan, c->row, c->side, c->slant_m + 1.2, fold_->display().displayWindow());
    if (!context_.marks.add(m))
        return;
    context_.window.selectMark(QString::fromStdString(m.id));
    context_.session.notices.say(
        QStringLiteral("mark"),
        c->zone == Zone::track
            ? tr("Marked and saved: %1, under the boat.").arg(contactTitle(*c))
            : tr("Marked and saved: %1, %2.")
                  .arg(contactTitle(*c), contactWhere(*c, context_.session.preferences.units(), 0)));
}

QImage ReadView::chipOf(const Contact &c) {
    const auto key = std::pair{c.row, static_cast<int>(c.side) * 1000 + static_cast<int>(c.slant_m * 10)};
    auto &image = chips_[key];
    const auto &scan = read_->stream().scan();
    if (image.isNull() && scan.holds(c.row))
        image = imageOf(
            cut_chip(scan, c.row, c.side, c.slant_m + 0.8, fold_->display().displayWindow(), chip_w, chip_h));
    return image;
}

void ReadView::resizeEvent(QResizeEvent *) {
    layOut();
}

void ReadView::layOut() {
    const int w = (left_width - 32 - 3 * 4) / 4;
    int x = 16;
    for (auto *k : {all_, fish_, structure_, bottom_}) {
        k->setGeometry(x, 56, w, 48);
        x += w + 4;
    }
    const int circle = circle_key_->isVisibleTo(this) ? 60 : 0;
    order_key_->setGeometry(16, 110, left_width - 32 - circle, 48);
    circle_key_->setGeometry(left_width - 16 - 56, 110, 56, 48);
    list_->setGeometry(13, chips_top, left_width - 16, height() - chips_top - 4);
    const int from = left_width + 16, to = width() - right_width - 16, keys = height() - 76;
    // In a narrow window the reason under the figures takes two lines.
    fold_->setGeometry(from, 66, to - from, keys - 66 - (to - from < 440 ? 154 : 138));
    passes_->setGeometry(from, 66, to - from, keys - 66 - 8);
    side_->setGeometry(width() - right_width - 8, 0, right_width + 8, height());
    const int each = (to - from - 4 * 8) / 7;
    int at = from;
    for (const auto &[key, share] :
         {std::pair{mark_, 2}, {passes_key_, 2}, {scan_, 1}, {before_, 1}, {next_, 1}}) {
        key->setGeometry(at, keys, each * share, 60);
        at += each * share + 8;
    }
}

void ReadView::keyPressEvent(QKeyEvent *event) {
    switch (event->key()) {
    case Qt::Key_Left:
        fold_->nudge(-1);
        return;
    case Qt::Key_Right:
        fold_->nudge(1);
        return;
    case Qt::Key_Escape:
        passes_->setVisible(false);
        showFolded(selected());
        update();
        return;
    default:
        QWidget::keyPressEvent(event);
    }
}

void ReadView::showEvent(QShowEvent *) {
    refresh();
}

// Where nothing is chosen it says what to do in its place.
void ReadView::showFolded(const Contact *contact) {
    fold_->show(contact, read_->stream());
    fold_->setVisible(contact != nullptr);
}

void ReadView::paintFigures(QPainter &p) {
    const auto *c = selected();
    const int from = left_width + 16, to = width() - right_width - 16;
    const auto text = wordsOn(p);
    if (c == nullptr) {
        text(from, 34, read_->readUntil() == 0 ? tr("Nothing read yet") : tr("Nothing found so far"), 24,
             true, "ink");
        p.setFont(Theme::instance().font(14));
        p.setPen(colour("ink2"));
        paintParagraph(
            p, QRectF(from, 44, to - from, 60),
            read_->stream().scan().empty()
                ? tr("Begin in Scan (2): the demo lake, a sounder or a recording.")
                : tr("Things are told within two seconds, and are final when the boat is well past them."));
        return;
    }
    const auto sheet = contactSheet(*c, read_->stream().scan().facts(c->row),
                                    {fold_->moved(), fold_->handles(), fold_->measured()},
                                    context_.session.preferences.units());
    text(from, 32, sheet.title, 24, true, "ink");
    wordsWithin(p, from, 54, sheet.seen, to - from, 14, false, "ink2");
    const int y = fold_->geometry().bottom() + 24, each = (to - from) / 4;
    for (std::size_t i = 0; i < sheet.figures.size(); ++i)
        paintFigure(p, QRect(from + static_cast<int>(i) * each, y, each - 8, 80), sheet.figures[i]);
    const double x = text(from, y + 92, tr("why: "), 13, false, "ink2");
    p.setFont(Theme::instance().font(13));
    p.setPen(colour("ink"));
    paintParagraph(p, QRectF(from + x, y + 92 - p.fontMetrics().ascent(), to - from - x, 36), sheet.why);
}

// A large figure, smaller where it would not fit, its label above and its doubt beneath.
void ReadView::paintFigure(QPainter &p, const QRect &box, const ContactFact &fact) {
    const auto text = wordsOn(p);
    const auto width_of = [](const QString &words, int px, bool bold) {
        return QFontMetrics(Theme::instance().font(px, bold)).horizontalAdvance(words);
    };
    const int x = box.left(), y = box.top(), room = box.width();
    wordsWithin(p, x, y, fact.label, room + 6, 14, false, "ink2");
    const auto parts = fact.figure.split(QLatin1Char(' '));
    const auto unit = parts.mid(1).join(QLatin1Char(' '));
    int px = 34;
    while (px > 20 && width_of(parts.value(0), px, true) + 5 + width_of(unit, 15, false) > room)
        px -= 2;
    const double w = text(x, y + 38, parts.value(0), px, true, "ink");
    text(x + w + 5, y + 38, unit, 15, false, "ink2");
    p.setFont(Theme::instance().font(width_of(fact.doubt, 14, false) > room ? 12 : 14));
    // A figure keeps its unit beside it.
    static const QRegularExpression after_figure(QStringLiteral("(?<=[±0-9]) "));
    p.drawText(QRectF(x, y + 45, room, 34), Qt::TextWordWrap,
               QString(fact.doubt).replace(after_figure, QString(QChar::Nbsp)));
}

void ReadView::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setFont(theme.font(17, true));
    p.setPen(colour("ink"));
    p.drawText(QPointF(16, 24), tr("Contacts"));
    p.setFont(theme.font(13));
    p.setPen(colour("ink2"));
    const auto read = read_->stream().empty()
                          ? 0.0
                          : 100.0 * static_cast<double>(read_->readUntil()) /
                                static_cast<double>(std::max<std::size_t>(1, read_->stream().end()));
    p.drawText(QPointF(16, 44), tr("%1 · %2 in 100 pings read")
                                    .arg(counted(shown_.size(), tr("found"), tr("found")))
                                    .arg(std::lround(std::min(100.0, read))));
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(left_width, 0, left_width, height());
    paintFigures(p);
}

} // namespace heron::app
