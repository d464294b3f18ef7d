#include "views/marks/story_page.hpp"

#include "kit/chip_image.hpp"
#include "kit/counted.hpp"
#include "kit/key_button.hpp"
#include "kit/kind_words.hpp"
#include "kit/paper.hpp"
#include "kit/theme.hpp"

#include <QDateTime>
#include <QGridLayout>
#include <QMouseEvent>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr int row_high = 46;

QString fieldWord(Field field) {
    switch (field) {
    case Field::name:
        return StoryPage::tr("name");
    case Field::kind:
        return StoryPage::tr("kind");
    case Field::place:
        return StoryPage::tr("place");
    case Field::measures:
        return StoryPage::tr("measures");
    case Field::time:
        return StoryPage::tr("time");
    case Field::picture:
        return StoryPage::tr("picture");
    case Field::note:
        return StoryPage::tr("note");
    case Field::tags:
        return StoryPage::tr("tags or water");
    case Field::settings:
        return StoryPage::tr("settings");
    case Field::story:
        return StoryPage::tr("looks");
    case Field::outcomes:
        return StoryPage::tr("a visit");
    }
    return {};
}

} // namespace

StoryPage::StoryPage(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    const auto field = [this](const char *name, const QString &placeholder) {
        auto *f = new QLineEdit(this);
        f->setObjectName(QString::fromLatin1(name));
        f->setPlaceholderText(placeholder);
        f->setMinimumHeight(44);
        connect(f, &QLineEdit::editingFinished, this, &StoryPage::keep);
        return f;
    };
    const auto choice = [this](const char *name) {
        auto *c = new QComboBox(this);
        c->setObjectName(QString::fromLatin1(name));
        c->setMinimumHeight(44);
        connect(c, &QComboBox::activated, this, &StoryPage::keep);
        return c;
    };
    const auto key = [this](const char *name, const QString &text, const QKeySequence &letter,
                            const QString &tip) {
        auto *k = new KeyButton(QString(), text, letter, tip, this);
        k->setObjectName(QString::fromLatin1(name));
        k->setFixedHeight(48);
        return k;
    };
    auto *grid = new QGridLayout;
    grid->setSpacing(6);
    grid->addWidget(lake_ = field("markLake", tr("which water")), 0, 0);
    grid->addWidget(tags_ = field("markTags", tr("tags, parted by ;")), 0, 1);
    grid->addWidget(level_ = choice("markLevel"), 1, 0, 1, 2);
    level_->addItem(tr("for me alone"), static_cast<int>(Level::me));
    level_->addItem(tr("for the crew"), static_cast<int>(Level::crew));
    level_->addItem(tr("for clients too"), static_cast<int>(Level::client));
    level_->addItem(tr("for anyone"), static_cast<int>(Level::anyone));
    grid->addWidget(confirmed_ = choice("markConfirmed"), 2, 0);
    confirmed_->addItem(tr("not confirmed"), static_cast<int>(Confirmed::no));
    confirmed_->addItem(tr("seen by eye"), static_cast<int>(Confirmed::eye));
    confirmed_->addItem(tr("by camera"), static_cast<int>(Confirmed::camera));
    confirmed_->addItem(tr("by a diver"), static_cast<int>(Confirmed::diver));
    confirmed_->addItem(tr("felt by rod"), static_cast<int>(Confirmed::rod));
    grid->addWidget(turned_out_ = choice("markTurnedOut"), 2, 1);
    turned_out_->addItem(tr("turned out as …"), static_cast<int>(Kind::none));
    for (const auto k : kinds_of(Family::unsure))
        turned_out_->addItem(wordFor(k), static_cast<int>(k));
    column->addLayout(grid);
    auto *visit_keys = new QGridLayout;
    visit_keys->setSpacing(6);
    visit_keys->addWidget(looked_ = key("looked", tr("Looked"), Qt::Key_F, tr("Visited, not fished")), 0, 0);
    visit_keys->addWidget(fished_ = key("fished", tr("Fished"), Qt::Key_G, tr("Fished, no bite")), 0, 1);
    visit_keys->addWidget(bite_ = key("bite", tr("Bite"), Qt::Key_B, tr("A bite, no fish")), 0, 2);
    visit_keys->addWidget(landed_ =
                              key("landed", tr("Fish"), Qt::Key_L,
                                  tr("A fish landed: of the kind and length written below, and released")),
                          0, 3);
    visit_keys->addWidget(species_ = field("species", tr("kind of fish")), 1, 0, 1, 2);
    visit_keys->addWidget(length_ = field("fishLength", tr("its length")), 1, 2, 1, 2);
    column->addLayout(visit_keys);
    connect(looked_, &KeyButton::clicked, this, [this] { visit(Outcome::What::looked); });
    connect(fished_, &KeyButton::clicked, this, [this] { visit(Outcome::What::fished); });
    connect(bite_, &KeyButton::clicked, this, [this] { visit(Outcome::What::bite); });
    connect(landed_, &KeyButton::clicked, this, [this] { visit(Outcome::What::landed); });
    column->addStretch(1);
    column->addWidget(split_ = key("splitSighting", tr("Take this look out"), Qt::Key_S,
                                   tr("The chosen look becomes a mark of its own; Undo brings it back")));
    connect(split_, &KeyButton::clicked, this, [this] { context_.marks.splitSighting(id_, look_); });
}

const Mark *StoryPage::mark() const {
    return context_.marks.find(id_);
}

void StoryPage::show(const Mark *m) {
    const auto id = m != nullptr ? QString::fromStdString(m->id) : QString();
    if (id != id_)
        look_ = 0;
    id_ = id;
    const bool can_write = m != nullptr;
    for (QWidget *w : std::initializer_list<QWidget *>{tags_, lake_, species_, length_, level_, confirmed_,
                                                       turned_out_, looked_, fished_, bite_, landed_})
        w->setEnabled(can_write);
    split_->setEnabled(can_write && m->sightings.size() > 1);
    filling_ = true;
    if (m == nullptr) {
        for (auto *f : {tags_, lake_, species_, length_})
            f->clear();
        for (auto *c : {level_, confirmed_, turned_out_})
            c->setCurrentIndex(-1);
    } else {
        QStringList tags;
        for (const auto &t : m->tags)
            tags << QString::fromStdString(t);
        if (!tags_->hasFocus())
            tags_->setText(tags.join(QStringLiteral("; ")));
        if (!lake_->hasFocus())
            lake_->setText(QString::fromStdString(m->lake));
        level_->setCurrentIndex(level_->findData(static_cast<int>(m->level)));
        confirmed_->setCurrentIndex(confirmed_->findData(static_cast<int>(m->confirmed)));
        turned_out_->setCurrentIndex(std::max(0, turned_out_->findData(static_cast<int>(m->turned_out))));
    }
    filling_ = false;
    update();
}

void StoryPage::keep() {
    const auto *m = mark();
    if (m == nullptr || filling_)
        return;
    Mark changed = *m;
    changed.tags.clear();
    for (const auto &t : tags_->text().split(QLatin1Char(';')))
        if (!t.trimmed().isEmpty() && changed.tags.size() < 50)
            changed.tags.push_back(t.trimmed().left(60).toStdString());
    changed.lake = lake_->text().trimmed().left(150).toStdString();
    changed.level = static_cast<Level>(level_->currentData().toInt());
    changed.confirmed = static_cast<Confirmed>(confirmed_->currentData().toInt());
    changed.turned_out = static_cast<Kind>(turned_out_->currentData().toInt());
    if (changed.tags != m->tags || changed.lake != m->lake || changed.level != m->level ||
        changed.confirmed != m->confirmed || changed.turned_out != m->turned_out) {
        const bool found_out = changed.confirmed != Confirmed::no && changed.turned_out != Kind::none &&
                               (changed.confirmed != m->confirmed || changed.turned_out != m->turned_out);
        if (context_.marks.change(changed) && found_out)
            sayOfContact(changed);
    }
}

// What was found out weighs into the reading of this water, where the mark was made of what is shown now.
void StoryPage::sayOfContact(const Mark &found_out) {
    constexpr double seconds_apart = 1.5, metres_apart = 0.8;
    const auto source = context_.session.sources.name().toStdString();
    for (const auto &look : all_sightings(found_out)) {
        if (look.source != source)
            continue;
        for (const auto &c : context_.reader.contacts())
            if ((look.side == "port") == (c.side == Side::port) &&
                std::fabs(seconds_between(look.time, c.time)) < seconds_apart &&
                std::fabs(look.slant_m - c.slant_m) < metres_apart) {
                if (context_.reader.correct(c, found_out.turned_out))
                    context_.session.notices.say(QStringLiteral("mark"),
                                                 tr("Kept, and weighed into the reading of this water; Read, "
                                                    "*it is*, takes it back."));
                return;
            }
    }
}

void StoryPage::visit(Outcome::What what) {
    const auto *m = mark();
    if (m == nullptr)
        return;
    Mark changed = *m;
    Outcome o;
    o.what = what;
    o.time = static_cast<UnixNs>(QDateTime::currentMSecsSinceEpoch()) * 1'000'000;
    if (what == Outcome::What::bite || what == Outcome::What::landed)
        o.species = species_->text().trimmed().left(60).toStdString();
    if (what == Outcome::What::landed) {
        // Fish are told in inches or centimetres.
        const bool feet = context_.session.preferences.units() == UnitSystem::feet;
        bool figure = false;
        const double v =
            length_->text().trimmed().replace(QLatin1Char(','), QLatin1Char('.')).toDouble(&figure);
        if (figure && v > 0)
            o.length_m = std::min(5.0, feet ? metres_from_feet(v / 12) : v / 100);
        o.released = true;
    }
    changed.outcomes.push_back(std::move(o));
    if (context_.marks.change(changed)) {
        length_->clear();
        context_.session.notices.say(QStringLiteral("mark"), tr("Kept; Undo takes it back."));
    }
}

void StoryPage::mousePressEvent(QMouseEvent *event) {
    const int row = (event->pos().y() - list_top_) / row_high;
    if (event->pos().y() >= list_top_ && row >= 0 && static_cast<std::size_t>(row) < looks_shown_)
        look_ = static_cast<std::size_t>(row);
    update();
}

// Each look with its picture; then what came of visits, the newest first.
void StoryPage::paintEvent(QPaintEvent *) {
    QPainter p(this);
    lines_.clear();
    looks_shown_ = 0;
    const auto *m = mark();
    const auto write = wordsOn(p);
    double y = length_->geometry().bottom() + 24;
    if (m == nullptr) {
        write(0, y, tr("Choose a mark on the wall."), 14, false, "ink2");
        return;
    }
    const double end = split_->geometry().top() - 6;
    const auto units = context_.session.preferences.units();
    const auto length = [&](double v) { return QString::fromStdString(print_length(v, units).text()); };
    const auto day = [](UnixNs time) {
        return time == 0 ? tr("no time")
                         : QString::fromStdString(print_rfc3339(time, 0))
                               .left(16)
                               .replace(QLatin1Char('T'), QLatin1Char(' '));
    };
    const auto looks = all_sightings(*m);
    write(0, y, counted(looks.size(), tr("look"), tr("looks")), 14, true, "ink");
    y += 8;
    list_top_ = static_cast<int>(y);
    for (std::size_t i = 0; i < looks.size() && y + row_high <= end; ++i) {
        const auto &s = looks[i];
        if (i == look_ && looks.size() > 1)
            p.fillRect(QRectF(-2, y, width() + 2, row_high - 2), colour("sunk"));
        const auto image = imageOf(s.chip);
        if (!image.isNull())
            p.drawImage(QRectF(0, y + 3, 54, row_high - 8), image);
        auto line = QStringLiteral("%1 · %2").arg(day(s.time),
                                                  s.kind == Kind::none ? wordFor(s.family) : wordFor(s.kind));
        QStringList more;
        if (s.height_m)
            more << tr("%1 tall").arg(length(s.height_m->value));
        if (s.ground_m > 0)
            more << tr("%1 off").arg(length(s.ground_m));
        if (s.frequency_hz > 0)
            more << tr("%1 kHz").arg(std::lround(s.frequency_hz / 1000));
        if (!s.by.empty())
            more << QString::fromStdString(s.by);
        write(62, y + 18, line, 13, true, "ink");
        write(62, y + 36, more.join(QStringLiteral(" · ")), 12, false, "ink2");
        lines_ << line + QStringLiteral(" · ") + more.join(QStringLiteral(" · "));
        y += row_high;
        ++looks_shown_;
    }
    y += 20;
    if (y < end)
        write(0, y,
              m->outcomes.empty() ? tr("No visit is told yet")
                                  : counted(m->outcomes.size(), tr("visit"), tr("visits")),
              14, true, "ink");
    for (auto o = m->outcomes.rbegin(); o != m->outcomes.rend() && y + 22 < end; ++o) {
        y += 20;
        const QString what = o->what == Outcome::What::landed   ? tr("fish")
                             : o->what == Outcome::What::bite   ? tr("bite")
                             : o->what == Outcome::What::fished ? tr("fished, no bite")
                                                                : tr("looked");
        auto line = QStringLiteral("%1 · %2").arg(day(o->time), what);
        if (!o->species.empty())
            line += QStringLiteral(" · ") + QString::fromStdString(o->species);
        if (o->length_m)
            line +=
                QStringLiteral(" · ") + (units == UnitSystem::feet
                                             ? tr("%1 in").arg(feet_from_metres(*o->length_m) * 12, 0, 'f', 1)
                                             : tr("%1 cm").arg(std::lround(*o->length_m * 100)));
        if (o->released)
            line += tr(" · released");
        write(0, y, line, 13, false, "ink");
        lines_ << line;
    }
    const auto history = context_.marks.historyOf(id_);
    y += 28;
    if (y < end && !history.empty())
        write(0, y, tr("What became of it"), 14, true, "ink");
    for (const auto &h : history) {
        y += 20;
        if (y > end)
            break;
        QStringList what;
        for (const auto field : h.fields)
            what << fieldWord(field);
        const auto line =
            QStringLiteral("%1 · %2").arg(day(h.time), h.made           ? tr("made")
                                                       : h.removed      ? tr("removed")
                                                       : what.isEmpty() ? tr("who may see it")
                                                                        : what.join(QStringLiteral(", ")));
        write(0, y, line, 13, false, "ink");
        lines_ << line;
    }
}

} // namespace heron::app
