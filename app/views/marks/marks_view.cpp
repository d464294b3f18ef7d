#include "views/marks/marks_view.hpp"

#include "kit/counted.hpp"
#include "kit/key_button.hpp"
#include "kit/kind_words.hpp"
#include "kit/theme.hpp"
#include "parts/mark_files.hpp"
#include "views/marks/mark_wall.hpp"

#include <QKeyEvent>
#include <QPainter>
#include <QScrollBar>

namespace heron::app {
namespace {

constexpr int side_width = 402, header = 48, foot = 80;

} // namespace

MarksView::MarksView(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    setFocusPolicy(Qt::StrongFocus);
    wall_ = new MarkWall(context, this);
    scroll_ = new QScrollArea(this);
    scroll_->setWidget(wall_);
    scroll_->setWidgetResizable(true);
    scroll_->setFrameShape(QFrame::NoFrame);
    scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll_->setFocusPolicy(Qt::NoFocus);
    name_ = new QLineEdit(this);
    name_->setObjectName(QStringLiteral("markName"));
    name_->setPlaceholderText(tr("a name that still says something next year"));
    family_ = new QComboBox(this);
    family_->setObjectName(QStringLiteral("markFamily"));
    for (const auto f : {Family::fish, Family::structure, Family::bottom, Family::hazard, Family::unsure})
        family_->addItem(wordFor(f), static_cast<int>(f));
    kind_ = new QComboBox(this);
    kind_->setObjectName(QStringLiteral("markKind"));
    note_ = new QPlainTextEdit(this);
    note_->setObjectName(QStringLiteral("markNote"));
    note_->setPlaceholderText(tr("note"));
    note_->setTabChangesFocus(true);
    export_ = new KeyButton(QStringLiteral("act-share"), tr("Export GPX"), Qt::CTRL | Qt::Key_E,
                            tr("Write all marks as GPX, which other programs and screens read"), this);
    export_->setObjectName(QStringLiteral("export"));
    export_->setPrimary(false);
    import_ = new KeyButton(QStringLiteral("act-pack"), tr("Import"), Qt::CTRL | Qt::Key_I,
                            tr("Take in marks from a GPX file"), this);
    remove_ = new KeyButton(QString(), tr("Remove"), Qt::Key_Delete,
                            tr("Remove this mark; Undo brings it back"), this);
    remove_->setObjectName(QStringLiteral("remove"));
    undo_ = new KeyButton(QStringLiteral("act-undo"), tr("Undo"), Qt::Key_U,
                          tr("Take back the last change of the marks"), this);
    undo_->setObjectName(QStringLiteral("undoMarks"));

    connect(name_, &QLineEdit::editingFinished, this, &MarksView::keep);
    connect(family_, &QComboBox::activated, this, &MarksView::keep);
    connect(kind_, &QComboBox::activated, this, &MarksView::keep);
    note_->installEventFilter(this);
    connect(note_, &QPlainTextEdit::textChanged, this, [this] {
        // Saved as it is typed: a note is never lost to a forgotten key.
        if (!filling_)
            keep();
    });
    connect(export_, &KeyButton::clicked, this, [this] { askToExportMarks(context_, this); });
    connect(import_, &KeyButton::clicked, this, [this] { askToImportMarks(context_, this); });
    connect(remove_, &KeyButton::clicked, this,
            [this] { context_.marks.remove(context_.window.selectedMark()); });
    connect(undo_, &KeyButton::clicked, this, [this] { context_.marks.undo(); });
    connect(&context_.window, &WindowState::selectionChanged, this, &MarksView::showSelected);
    connect(&context_.marks, &MarkLibrary::marksChanged, this, &MarksView::showSelected);
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, qOverload<>(&QWidget::update));
    connect(wall_, &MarkWall::shown, this,
            [this](QRect r) { scroll_->ensureVisible(r.center().x(), r.center().y(), 0, 100); });
    connect(&Theme::instance(), &Theme::changed, this, &MarksView::dress);
    dress();
    showSelected();
}

// The few fields of the standard kind take the look of the paper around them.
void MarksView::dress() {
    setStyleSheet(
        QStringLiteral("QLineEdit, QPlainTextEdit, QComboBox { background: %1; color: %2; border: 1px solid "
                       "%3; border-radius: 3px; padding: 6px; font-family: Heron; font-size: 15px; "
                       "selection-background-color: %4; }"
                       "QComboBox::drop-down { border: none; width: 32px; } QComboBox::down-arrow { image: "
                       "url(:/glyphs/down.svg); width: 20px; height: 20px; }"
                       "QComboBox QAbstractItemView { background: %1; color: %2; font-size: 15px; }"
                       "QScrollArea, QScrollArea > QWidget { background: %5; }")
            .arg(colour("lift").name(), colour("ink").name(), colour("line").name(), colour("reed").name(),
                 colour("page").name()));
    update();
}

void MarksView::resizeEvent(QResizeEvent *) {
    const int x = width() - side_width + 16, w = side_width - 32;
    scroll_->setGeometry(16, header, width() - side_width - 24, height() - header - 8);
    name_->setGeometry(x, 250, w, 44);
    family_->setGeometry(x, 304, w / 2 - 6, 44);
    kind_->setGeometry(x + w / 2 + 6, 304, w / 2 - 6, 44);
    note_->setGeometry(x, 358, w, 96);
    const int y = height() - foot;
    const int half = (w - 12) / 2;
    remove_->setGeometry(x, y - 76, half, 64);
    undo_->setGeometry(x + half + 12, y - 76, half, 64);
    import_->setGeometry(x, y, half, 64);
    export_->setGeometry(x + half + 12, y, half, 64);
}

void MarksView::showSelected() {
    const auto *m = context_.marks.find(context_.window.selectedMark());
    filling_ = true;
    for (QWidget *w : std::initializer_list<QWidget *>{name_, family_, kind_, note_})
        w->setVisible(m != nullptr);
    remove_->setEnabled(m != nullptr);
    undo_->setEnabled(context_.marks.canUndo());
    export_->setEnabled(!context_.marks.all().empty());
    if (m != nullptr) {
        const auto name = QString::fromStdString(m->name), note = QString::fromStdString(m->note);
        if (name_->text() != name)
            name_->setText(name);
        if (note_->toPlainText() != note)
            note_->setPlainText(note);
        family_->setCurrentIndex(family_->findData(static_cast<int>(m->family)));
        kind_->clear();
        kind_->addItem(tr("kind not said"), static_cast<int>(Kind::none));
        for (const auto k : kinds_of(m->family))
            kind_->addItem(wordFor(k), static_cast<int>(k));
        kind_->setCurrentIndex(std::max(0, kind_->findData(static_cast<int>(m->kind))));
    }
    filling_ = false;
    update();
}

void MarksView::keep() {
    const auto *m = context_.marks.find(context_.window.selectedMark());
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
    case Qt::Key_J:
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
    else if (!m.side.empty())
        lines << tr("Seen|%1 on the %2, %3 along the sound")
                     .arg(text(m.ground_m), m.side == "port" ? tr("left") : tr("right"), text(m.slant_m));
    if (m.place) {
        lines << tr("Place|%1")
                     .arg(QString::fromStdString(
                         print_position(m.place->latitude_deg, m.place->longitude_deg)));
        const auto e = ellipse_of(m.place_covariance);
        lines << tr("|± %1, longest %2 along %3")
                     .arg(text(m.place_covariance.radial_sd_m()), text(e.semi_major_m),
                          QString::fromStdString(print_bearing(e.bearing_deg)));
    }
    if (!m.place_remark.empty())
        lines << tr("|%1").arg(QString::fromStdString(m.place_remark));
    if (m.time != 0)
        lines << tr("When|%1").arg(QString::fromStdString(print_rfc3339(m.time, 0)));
    if (m.frequency_hz > 0)
        lines << tr("Set to|%1 each side, %2 kHz, gain %3")
                     .arg(QString::fromStdString(print_length(m.range_setting_m, units, 0).text()))
                     .arg(std::lround(m.frequency_hz / 1000))
                     .arg(m.gain);
    if (!m.source.empty())
        lines << tr("From|%1").arg(QString::fromStdString(m.source));
    return lines;
}

void MarksView::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setFont(theme.font(17, true));
    p.setPen(colour("ink"));
    const auto count = static_cast<int>(context_.marks.all().size());
    p.drawText(QPointF(16, 30), counted(count, tr("mark"), tr("marks")));
    if (count == 0) {
        p.setFont(theme.font(15));
        p.setPen(colour("ink2"));
        p.drawText(QRect(16, 70, width() - side_width - 40, 80), Qt::TextWordWrap,
                   tr("No marks yet. In Scan, point at a thing and press Z for fish, X for structure, C for "
                      "bottom or V for a hazard. Or import a GPX file here."));
    }
    const int left = width() - side_width;
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(left, 0, left, height());
    const int x = left + 16;
    const auto *m = context_.marks.find(context_.window.selectedMark());
    p.setFont(theme.font(17, true));
    p.setPen(colour("ink"));
    p.drawText(QPointF(x, 30), m != nullptr
                                   ? p.fontMetrics().elidedText(QString::fromStdString(plain_name(*m)),
                                                                Qt::ElideRight, side_width - 32)
                                   : tr("No mark in hand"));
    if (m == nullptr)
        return;
    const auto image = imageOf(m->chip);
    const QRect box(x, 44, 256, 190);
    if (image.isNull())
        p.fillRect(box, colour("sunk"));
    else
        p.drawImage(box, image);
    int y = 474;
    const auto lines = facts(*m);
    for (const auto &line : lines) {
        const auto parts = line.split(QLatin1Char('|'));
        p.setFont(theme.font(13));
        p.setPen(colour("ink2"));
        p.drawText(QPointF(x, y), parts[0]);
        p.setPen(colour("ink"));
        p.setFont(theme.font(13, m->height_m && parts[0] == lines.front().section(QLatin1Char('|'), 0, 0)));
        p.drawText(QPointF(x + 86, y), p.fontMetrics().elidedText(parts.mid(1).join(QLatin1Char('|')),
                                                                  Qt::ElideRight, side_width - 32 - 86));
        y += 20;
        if (y > height() - foot - 84)
            break;
    }
}

} // namespace heron::app
