#include "views/marks/marks_view.hpp"

#include "kit/chip_image.hpp"
#include "kit/counted.hpp"
#include "kit/item_list.hpp"
#include "kit/key_button.hpp"
#include "kit/kind_words.hpp"
#include "kit/paper.hpp"
#include "kit/theme.hpp"
#include "parts/mark_files.hpp"
#include "views/marks/join_page.hpp"
#include "views/marks/many_page.hpp"
#include "views/marks/pack_page.hpp"
#include "views/marks/share_page.hpp"
#include "views/marks/story_page.hpp"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QPainter>
#include <QVBoxLayout>
#include <cmath>
#include <numeric>

namespace heron::app {
namespace {

constexpr int side_width = 392, fact_high = 20, least_fact_high = 16, label_wide = 86;
constexpr int pause_ms = 1200; // of a hand that writes, after which it is kept

/// Draws what is told of the selected mark: its picture and its facts.
class Drawn : public QWidget {
  public:
    using Paint = std::function<void(QPainter &, QRect)>;
    Drawn(Paint paint, QWidget *parent) : QWidget(parent), paint_(std::move(paint)) {}

  protected:
    void paintEvent(QPaintEvent *) override {
        QPainter p(this);
        paint_(p, rect());
    }

  private:
    Paint paint_;
};

} // namespace

MarksView::MarksView(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    setFocusPolicy(Qt::StrongFocus);
    dressPage(this);
    auto *page = new QHBoxLayout(this);
    page->setContentsMargins(16, 10, 16, 10);
    page->setSpacing(24);
    page->addLayout(buildWall(), 1);
    page->addLayout(buildSide());
    pause_.setSingleShot(true);
    connect(&pause_, &QTimer::timeout, this, &MarksView::keep);
    connect(name_, &QLineEdit::editingFinished, this, &MarksView::keep);
    connect(name_, &QLineEdit::returnPressed, this, [this] {
        // The made name where none was written, and on to the next of the evening.
        const auto *m = context_.marks.find(editing_);
        if (m != nullptr && name_->text().trimmed().isEmpty() && evening_)
            name_->setText(madeName(*m));
        keep();
        if (evening_)
            setEvening(true);
    });
    connect(family_, &QComboBox::activated, this, &MarksView::keep);
    connect(kind_, &QComboBox::activated, this, &MarksView::keep);
    // Kept when the hand rests or leaves, not with every letter: one change, one undo.
    connect(note_, &QPlainTextEdit::textChanged, this, [this] {
        if (!filling_)
            pause_.start(pause_ms);
    });
    note_->installEventFilter(this);
    connect(export_, &KeyButton::clicked, this, [this] { askToExportMarks(context_, this); });
    connect(import_, &KeyButton::clicked, this, [this] { askToImportMarks(context_, this); });
    connect(remove_, &KeyButton::clicked, this, [this] {
        pause_.stop();
        context_.marks.remove(context_.window.selectedMark());
    });
    connect(undo_, &KeyButton::clicked, this, [this] {
        keep();
        context_.marks.undo();
    });
    connect(&context_.window, &WindowState::selectionChanged, this, &MarksView::showSelected);
    connect(&context_.marks, &MarkLibrary::marksChanged, this, &MarksView::showSelected);
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, &MarksView::showSelected);
    connect(&Theme::instance(), &Theme::changed, this, &MarksView::showSelected);
    showSelected();
}

QLayout *MarksView::buildWall() {
    auto *column = new QVBoxLayout;
    column->setSpacing(8);
    auto *row = new QHBoxLayout;
    row->setSpacing(8);
    find_ = new QLineEdit(this);
    find_->setObjectName(QStringLiteral("findMarks"));
    find_->setPlaceholderText(tr("words or a wish"));
    find_->setToolTip(tr("Words of a mark, or a wish: lone stones near a drop in 6 to 12 ft"));
    find_->setMinimumHeight(44);
    row->addWidget(find_, 1);
    by_ = new KeyButton(QString(), tr("By family"), Qt::Key_Y,
                        tr("Grouped by family, kind, water, month or outcome"), this);
    by_->setObjectName(QStringLiteral("groupBy"));
    by_->setFixedSize(140, 44);
    row->addWidget(by_);
    evening_key_ = new KeyButton(QString(), tr("Evening"), Qt::Key_E,
                                 tr("The newest day's marks that have no name yet, one after the other: a "
                                    "name and Return, or Return alone for the one that is made"),
                                 this);
    evening_key_->setObjectName(QStringLiteral("evening"));
    evening_key_->setCheckable(true);
    evening_key_->setFixedSize(130, 44);
    row->addWidget(evening_key_);
    connect(evening_key_, &KeyButton::clicked, this, &MarksView::setEvening);
    column->addLayout(row);
    connect(find_, &QLineEdit::textChanged, this, &MarksView::find);
    connect(by_, &KeyButton::clicked, this, [this] {
        const QString titles[] = {tr("By family"), tr("By kind"), tr("By water"), tr("By month"),
                                  tr("By outcome")};
        const auto next = (static_cast<int>(groups_->by()) + 1) % 5;
        groups_->setBy(static_cast<MarkGroups::By>(next));
        by_->setText(titles[next]);
        wall_->selectId(context_.window.selectedMark());
    });
    column->addWidget(count_ = new PaperLabel(QString(), 17, true, Ink::plain, this));
    column->addWidget(
        first_ = new PaperLabel(tr("No marks yet. In Scan, point at a thing and press Z for fish, X for "
                                   "structure, C for bottom or V for a hazard. Or import a file of marks "
                                   "here."),
                                15, false, Ink::quiet, this));
    wall_ = new ItemList(ItemList::Shape::chip, {136, 101}, this);
    wall_->setObjectName(QStringLiteral("markWall"));
    wall_->setAccessibleName(tr("Marks"));
    groups_ = new MarkGroups(context_.session, context_.marks, this);
    wall_->setItems(groups_);
    wall_->setPictures([this](const QString &id) {
        const auto *m = context_.marks.find(id);
        return m != nullptr ? imageOf(m->chip) : QImage();
    });
    connect(wall_, &ItemList::chosen, &context_.window, &WindowState::selectMark);
    column->addWidget(wall_, 1);
    column->addStretch(); // where no wall is shown the words stay at the top
    return column;
}

// Pages over one another, a key each.
QLayout *MarksView::buildSide() {
    auto *column = new QVBoxLayout;
    column->setSpacing(8);
    auto *keys = new QHBoxLayout;
    keys->setSpacing(6);
    const std::tuple<const char *, QString, QKeySequence, QString> pages[] = {
        {"pageMark", tr("Mark"), Qt::Key_Q, tr("The mark in hand")},
        {"pageStory", tr("Story"), Qt::Key_W, tr("Its looks, visits, and who may see it")},
        {"pageJoin", tr("Join"), Qt::Key_R, tr("What may be one thing")},
        {"pagePack", tr("Pack"), Qt::Key_P, tr("What goes to whom")},
        {"pageShare", tr("Screens"), Qt::Key_K, tr("The live link to other screens")},
        {"pageMany", tr("Many"), Qt::Key_M, tr("All that the wall shows, changed together")}};
    for (const auto &[name, text, letter, tip] : pages) {
        auto *key = new KeyButton(QString(), text, letter, tip, this);
        key->setObjectName(QString::fromLatin1(name));
        key->setCheckable(true);
        key->setStacked(true);
        key->setFixedSize((side_width - 5 * 6) / 6, 48);
        keys->addWidget(key);
        const auto page = static_cast<Page>(page_keys_.size());
        connect(key, &KeyButton::clicked, this, [this, page] { setPage(page); });
        page_keys_.push_back(key);
    }
    column->addLayout(keys);
    pages_ = new QStackedWidget(this);
    pages_->setFixedWidth(side_width);
    pages_->addWidget(buildMarkPage());
    pages_->addWidget(story_ = new StoryPage(context_, this));
    pages_->addWidget(join_ = new JoinPage(context_, this));
    pages_->addWidget(pack_ = new PackPage(context_, this));
    pages_->addWidget(new SharePage(context_, this));
    pages_->addWidget(many_ = new ManyPage(context_, this));
    column->addWidget(pages_, 1);
    setPage(Page::mark);
    return column;
}

void MarksView::setPage(Page page) {
    page_ = page;
    pages_->setCurrentIndex(static_cast<int>(page));
    for (std::size_t i = 0; i < page_keys_.size(); ++i)
        page_keys_[i]->setChecked(i == static_cast<std::size_t>(page));
    setFocus();
}

QString MarksView::madeName(const Mark &m) const {
    const auto units = context_.session.preferences.units();
    const auto text = [&](double metres) {
        return QString::fromStdString(print_length(metres, units).text());
    };
    auto name = capital(m.kind == Kind::none ? wordFor(m.family) : wordFor(m.kind));
    if (m.height_m && m.height_m->value > 0)
        name += tr(", %1 tall").arg(text(m.height_m->value));
    if (m.depth_m)
        name += tr(", in %1").arg(text(m.depth_m->value));
    constexpr double edge_m = 5;
    if (const auto spot = context_.spots.of(m)) {
        const auto ground = QString::fromLatin1(name_of(spot->ground).data());
        if (spot->to_transition_m && *spot->to_transition_m <= edge_m && spot->ground != GroundClass::unknown)
            name += tr(", edge of %1").arg(ground);
        else if (spot->ground != GroundClass::unknown)
            name += tr(", on %1").arg(ground);
    } else if (!m.bottom.empty()) {
        name += tr(", on %1").arg(QString::fromStdString(m.bottom));
    }
    return name;
}

void MarksView::setEvening(bool on) {
    evening_ = on;
    name_->setProperty("staysOnEnter", on); // the next one is named in the same field
    evening_key_->setChecked(on);
    find_->setEnabled(!on);
    if (!on) {
        find(find_->text());
        return;
    }
    UnixNs newest = 0;
    for (const auto &m : context_.marks.all())
        newest = std::max(newest, m.time);
    const auto day = newest / (86'400 * ns_per_s);
    groups_->setWanted(
        [day](const Mark &m) { return m.name.empty() && m.time / (86'400 * ns_per_s) == day; });
    tellWall();
    setPage(Page::mark);
    for (int i = 0; i < groups_->rowCount(); ++i)
        if (const auto id = groups_->data(groups_->index(i), id_role).toString();
            context_.marks.find(id) != nullptr) {
            context_.window.selectMark(id);
            name_->setFocus();
            return;
        }
    context_.session.notices.say(QStringLiteral("mark"), tr("Every mark of the newest day has a name."));
}

// A wish in words; what is no wish is looked for in the mark's own words.
void MarksView::find(const QString &words) {
    if (words.trimmed().isEmpty()) {
        groups_->setWanted({});
    } else {
        auto wish = spot_filter_of(words.toStdString(), context_.session.preferences.units());
        const auto plain = wish.not_understood;
        const bool wishes = !wish.empty();
        groups_->setWanted([this, wish, plain, wishes, whole = words.trimmed().toLower()](const Mark &m) {
            QString own =
                QString::fromStdString(plain_name(m) + ' ' + m.note + ' ' + m.lake + ' ' + m.bottom) +
                QLatin1Char(' ') + wordFor(m.family) + QLatin1Char(' ') + wordFor(m.kind);
            for (const auto &t : m.tags)
                own += QLatin1Char(' ') + QString::fromStdString(t);
            own = own.toLower();
            if (own.contains(whole))
                return true;
            for (const auto &w : plain)
                if (!own.contains(QString::fromStdString(w)))
                    return false;
            return wishes ? context_.spots.meets(wish, m) : !plain.empty();
        });
    }
    tellWall();
}

void MarksView::tellWall() {
    const auto count = context_.marks.all().size();
    count_->setText(groups_->shown() == count
                        ? counted(count, tr("mark"), tr("marks"))
                        : tr("%1 of %2").arg(groups_->shown()).arg(counted(count, tr("mark"), tr("marks"))));
    std::vector<std::string> ids;
    for (int i = 0; i < groups_->rowCount(); ++i)
        if (const auto *m = context_.marks.find(groups_->data(groups_->index(i), id_role).toString()))
            ids.push_back(m->id);
    many_->setMarks(ids);
    pack_->setMarks(std::move(ids));
}

QWidget *MarksView::buildMarkPage() {
    auto *side = new QWidget(this);
    auto *column = new QVBoxLayout(side);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(8);
    column->addWidget(title_ = new PaperLabel(QString(), 17, true, Ink::plain, side));
    picture_ = new Drawn([this](QPainter &p, QRect box) { paintPicture(p, box); }, side);
    picture_->setMinimumHeight(64);
    picture_->setMaximumHeight(190);
    column->addWidget(picture_, 2);
    name_ = new QLineEdit(side);
    name_->setObjectName(QStringLiteral("markName"));
    name_->setPlaceholderText(tr("a name that still says something next year"));
    name_->setMinimumHeight(44);
    column->addWidget(name_);
    family_ = new QComboBox(side);
    family_->setObjectName(QStringLiteral("markFamily"));
    for (const auto f : {Family::fish, Family::structure, Family::bottom, Family::hazard, Family::unsure})
        family_->addItem(wordFor(f), static_cast<int>(f));
    kind_ = new QComboBox(side);
    kind_->setObjectName(QStringLiteral("markKind"));
    auto *kinds = new QHBoxLayout;
    for (auto *box : {family_, kind_}) {
        box->setMinimumHeight(44);
        kinds->addWidget(box, 1);
    }
    column->addLayout(kinds);
    note_ = new QPlainTextEdit(side);
    note_->setObjectName(QStringLiteral("markNote"));
    note_->setPlaceholderText(tr("note"));
    note_->setTabChangesFocus(true);
    note_->setMinimumHeight(52);
    note_->setMaximumHeight(96);
    column->addWidget(note_, 1);
    facts_ = new Drawn([this](QPainter &p, QRect box) { paintFacts(p, box); }, side);
    facts_->setMinimumHeight(8 * fact_high);
    column->addWidget(facts_, 3);
    const auto add = [side](const char *name, const QString &glyph, const QString &text,
                            const QKeySequence &letter, const QString &tip) {
        auto *key = new KeyButton(glyph, text, letter, tip, side);
        key->setObjectName(QString::fromLatin1(name));
        key->setFixedHeight(56);
        return key;
    };
    remove_ =
        add("remove", QString(), tr("Remove"), Qt::Key_Delete, tr("Remove this mark; Undo brings it back"));
    undo_ = add("undoMarks", QStringLiteral("act-undo"), tr("Undo"), Qt::Key_U,
                tr("Take back the last change of the marks"));
    import_ = add("import", QStringLiteral("act-pack"), tr("Import"), Qt::CTRL | Qt::Key_I,
                  tr("Take in marks from GPX, KML, KMZ, GeoJSON, a table or a GeoPackage"));
    export_ = add("export", QStringLiteral("act-share"), tr("Export"), Qt::CTRL | Qt::Key_E,
                  tr("Write all marks for yourself; packs for others are on their own page"));
    there_ = add("goThere", QString(), tr("Go there"), Qt::Key_G, tr("Steer to this mark from any place"));
    differing_ =
        add("takeDiffering", QString(), tr("Take changes"), Qt::Key_D,
            tr("Marks of the last import that you know and that differ there: take them as they are there"));
    connect(there_, &KeyButton::clicked, this,
            [this] { context_.way.goToMark(context_.window.selectedMark()); });
    connect(differing_, &KeyButton::clicked, this, [this] { context_.marks.takeDiffering(); });
    connect(&context_.marks, &MarkLibrary::imported, this,
            [this] { differing_->setEnabled(!context_.marks.differing().empty()); });
    differing_->setEnabled(false);
    auto *keys = new QGridLayout;
    keys->setSpacing(8);
    keys->addWidget(remove_, 0, 0);
    keys->addWidget(undo_, 0, 1);
    keys->addWidget(import_, 1, 0);
    keys->addWidget(export_, 1, 1);
    keys->addWidget(there_, 0, 2);
    keys->addWidget(differing_, 1, 2);
    column->addLayout(keys);
    return side;
}

bool MarksView::eventFilter(QObject *watched, QEvent *event) {
    if (watched == note_ && event->type() == QEvent::FocusOut)
        keep();
    return QWidget::eventFilter(watched, event);
}

void MarksView::hideEvent(QHideEvent *) {
    keep();
}

void MarksView::showSelected() {
    // What was written of the mark before belongs to it.
    if (context_.window.selectedMark() != editing_ && !editing_.isEmpty())
        keep();
    const auto *m = context_.marks.find(context_.window.selectedMark());
    const auto count = context_.marks.all().size();
    tellWall();
    first_->setVisible(count == 0);
    wall_->setVisible(count > 0);
    title_->setText(m != nullptr ? capital(QString::fromStdString(plain_name(*m))) : tr("No mark selected"));
    for (QWidget *w : std::initializer_list<QWidget *>{name_, family_, kind_, note_})
        w->setVisible(m != nullptr);
    remove_->setEnabled(m != nullptr);
    undo_->setEnabled(context_.marks.canUndo());
    export_->setEnabled(count > 0);
    wall_->selectId(context_.window.selectedMark());
    there_->setEnabled(m != nullptr && m->place);
    story_->show(m);
    fill(m);
    picture_->update();
    facts_->update();
}

void MarksView::fill(const Mark *m) {
    const bool another = m == nullptr || editing_ != QString::fromStdString(m->id);
    editing_ = m != nullptr ? QString::fromStdString(m->id) : QString();
    if (m == nullptr)
        return;
    filling_ = true;
    const auto name = QString::fromStdString(m->name), note = QString::fromStdString(m->note);
    name_->setPlaceholderText(madeName(*m));
    // What is being written is not overwritten by what else changed.
    if (name_->text() != name && (another || !name_->hasFocus()))
        name_->setText(name);
    if (note_->toPlainText() != note && (another || !pause_.isActive()))
        note_->setPlainText(note);
    family_->setCurrentIndex(family_->findData(static_cast<int>(m->family)));
    kind_->clear();
    kind_->addItem(tr("kind not said"), static_cast<int>(Kind::none));
    for (const auto k : kinds_of(m->family))
        kind_->addItem(wordFor(k), static_cast<int>(k));
    kind_->setCurrentIndex(std::max(0, kind_->findData(static_cast<int>(m->kind))));
    filling_ = false;
}

// One change for all that the fields say of the mark that is being edited.
void MarksView::keep() {
    pause_.stop();
    const auto *m = context_.marks.find(editing_);
    if (m == nullptr || filling_)
        return;
    Mark changed = *m;
    changed.name = name_->text().trimmed().toStdString();
    changed.note = note_->toPlainText().toStdString();
    changed.family = static_cast<Family>(family_->currentData().toInt());
    changed.kind = static_cast<Kind>(kind_->currentData().toInt());
    const auto kinds = kinds_of(changed.family);
    if (std::find(kinds.begin(), kinds.end(), changed.kind) == kinds.end())
        changed.kind = Kind::none;
    if (changed.name == m->name && changed.note == m->note && changed.family == m->family &&
        changed.kind == m->kind)
        return;
    context_.marks.change(changed);
}

void MarksView::keyPressEvent(QKeyEvent *event) {
    switch (event->key()) {
    case Qt::Key_Right:
    case Qt::Key_Down:
        wall_->step(1);
        return;
    case Qt::Key_Left:
    case Qt::Key_Up:
        wall_->step(-1);
        return;
    case Qt::Key_Return:
    case Qt::Key_Enter:
        name_->setFocus();
        return;
    default:
        QWidget::keyPressEvent(event);
    }
}

QStringList MarksView::facts(const Mark &m) const {
    QStringList lines;
    const auto units = context_.session.preferences.units();
    const auto text = [&](double metres) {
        return QString::fromStdString(print_length(metres, units).text());
    };
    const auto doubt = [&](double metres) { return QString::fromStdString(print_doubt(metres, units)); };
    if (m.height_m)
        lines << (m.height_m->value < 0 ? tr("Hollow|%1%2 ± %3") : tr("Height|%1%2 ± %3"))
                     .arg(m.height_at_least ? tr("at least ") : QString(), text(std::fabs(m.height_m->value)),
                          doubt(m.height_m->sd));
    if (m.depth_m)
        lines << tr("Depth there|%1 ± %2").arg(text(m.depth_m->value), doubt(m.depth_m->sd));
    if (m.side == name_of(Side::down))
        lines << tr("Seen|under the boat, %1 below the transducer").arg(text(m.slant_m));
    else if (m.side == name_of(Side::around))
        lines
            << tr("Seen|on the circle, %1 from the head").arg(text(m.ground_m > 0 ? m.ground_m : m.slant_m));
    else if (!m.side.empty())
        lines << tr("Seen|%1 on the %2, %3 along the sound")
                     .arg(text(m.ground_m), m.side == "port" ? tr("left") : tr("right"), text(m.slant_m));
    if (m.place) {
        lines << tr("Place|%1")
                     .arg(QString::fromStdString(
                         print_position(m.place->latitude_deg, m.place->longitude_deg)));
        const auto e = ellipse_of(m.place_covariance);
        const auto about = text(m.place_covariance.radial_sd_m());
        const bool round = e.semi_minor_m > 0.7 * e.semi_major_m;
        lines << (round ? tr("|± %1").arg(about)
                        : tr("|± %1, most of it along %2")
                              .arg(about, QString::fromStdString(print_bearing(e.bearing_deg))));
    }
    if (!m.place_remark.empty())
        lines << tr("|%1").arg(QString::fromStdString(m.place_remark));
    if (m.time != 0)
        lines << tr("When|%1").arg(QString::fromStdString(print_rfc3339(m.time, 0)));
    if (m.frequency_hz > 0)
        lines << (m.side == name_of(Side::around) ? tr("Set to|%1 all round, %2 kHz, gain %3")
                                                  : tr("Set to|%1 each side, %2 kHz, gain %3"))
                     .arg(QString::fromStdString(print_length(m.range_setting_m, units, 0).text()))
                     .arg(std::lround(m.frequency_hz / 1000))
                     .arg(m.gain);
    if (const auto spot = context_.spots.of(m))
        if (const auto why = context_.spots.words(*spot); !why.isEmpty())
            lines << tr("Why here|%1").arg(why.join(QStringLiteral(", ")));
    if (!m.source.empty())
        lines << tr("From|%1").arg(QString::fromStdString(m.source));
    return lines;
}

void MarksView::paintPicture(QPainter &p, QRect box) {
    const auto *m = context_.marks.find(context_.window.selectedMark());
    if (m == nullptr)
        return;
    const auto image = imageOf(m->chip);
    box.setWidth(std::min(box.width(), box.height() * 124 / 92));
    if (image.isNull())
        p.fillRect(box, colour("sunk"));
    else
        p.drawImage(box, image);
}

void MarksView::paintFacts(QPainter &p, QRect box) {
    const auto *m = context_.marks.find(context_.window.selectedMark());
    if (m == nullptr)
        return;
    const auto lines = facts(*m);
    // Closer together where they would not all fit.
    const auto wordsOf = [](const QString &line) { return line.section(QLatin1Char('|'), 1); };
    p.setFont(Theme::instance().font(13));
    const auto metrics = p.fontMetrics();
    const auto rowsOf = [&](const QString &line) {
        const QRect room(0, 0, box.width() - label_wide, 10 * fact_high);
        return std::max(1, metrics.boundingRect(room, Qt::TextWordWrap, wordsOf(line)).height() /
                               metrics.height());
    };
    const int rows = std::accumulate(lines.begin(), lines.end(), 0,
                                     [&](int sum, const QString &line) { return sum + rowsOf(line); });
    const int high = std::clamp(box.height() / std::max(1, rows), least_fact_high, fact_high);
    int y = high - 5;
    bool measured = m->height_m.has_value(); // the first line is what was measured
    for (const auto &line : lines) {
        if (y > box.height())
            break;
        p.setFont(Theme::instance().font(13));
        p.setPen(colour("ink2"));
        p.drawText(QPointF(0, y), line.section(QLatin1Char('|'), 0, 0));
        p.setPen(colour("ink"));
        p.setFont(Theme::instance().font(13, measured));
        p.drawText(QRect(label_wide, y - metrics.ascent(), box.width() - label_wide, box.height()),
                   Qt::TextWordWrap, wordsOf(line));
        y += high * rowsOf(line);
        measured = false;
    }
}

} // namespace heron::app
