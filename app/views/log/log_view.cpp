#include "views/log/log_view.hpp"

#include "exchange/gpx.hpp"
#include "files/atomic_file.hpp"
#include "kit/counted.hpp"
#include "kit/distance_words.hpp"
#include "kit/key_button.hpp"
#include "kit/kind_words.hpp"
#include "kit/paper.hpp"
#include "kit/paragraph.hpp"
#include "kit/theme.hpp"
#include "views/log/day_page.hpp"

#include <QFileDialog>
#include <QKeyEvent>
#include <QLocale>
#include <QStandardPaths>
#include <algorithm>
#include <cmath>

namespace heron::app {
LogView::LogView(ViewContext &context, QWidget *parent)
    : QWidget(parent), context_(context), book_(context.session, context.marks, context.spots, this) {
    setFocusPolicy(Qt::StrongFocus);
    dressPage(this);
    const auto key = [this](const char *name, const QString &glyph, const QString &text,
                            const QKeySequence &letter, const QString &tip) {
        auto *k = new KeyButton(glyph, text, letter, tip, this);
        k->setObjectName(QString::fromLatin1(name));
        return k;
    };
    const std::tuple<const char *, QString, Qt::Key, QString> pages[] = {
        {"logDay", tr("Day"), Qt::Key_Q, tr("What was done on this day")},
        {"logRecord", tr("Record"), Qt::Key_W, tr("What all visits together support, and how surely")},
        {"logRound", tr("Round"), Qt::Key_R, tr("Marks to visit, in a sensible order")},
        {"logRules", tr("Rules"), Qt::Key_A, tr("Local rules to be reminded of")}};
    for (const auto &[name, text, letter, tip] : pages) {
        auto *k = key(name, {}, text, letter, tip);
        k->setCheckable(true);
        const auto page = static_cast<Page>(page_keys_.size());
        connect(k, &KeyButton::clicked, this, [this, page] { setPage(page); });
        page_keys_.push_back(k);
    }
    table_ = key("logTable", QStringLiteral("act-share"), tr("Table"), Qt::Key_E,
                 tr("All visits as a table for other programs"));
    connect(table_, &KeyButton::clicked, this, [this] {
        const auto path =
            QFileDialog::getSaveFileName(this, tr("Write the visits"),
                                         QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation) +
                                             QStringLiteral("/visits.csv"),
                                         tr("Table (*.csv)"));
        if (!path.isEmpty())
            book_.writeTable(path);
    });
    report_ = key("logReport", QStringLiteral("act-share"), tr("Report"), Qt::Key_P,
                  tr("This day, and what the record supports, as a PDF"));
    connect(report_, &KeyButton::clicked, this, [this] {
        const auto path =
            QFileDialog::getSaveFileName(this, tr("Write the day"),
                                         QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation) +
                                             QStringLiteral("/%1.pdf").arg(book_.days()[day_].date),
                                         tr("PDF (*.pdf)"));
        if (!path.isEmpty())
            writeReport(path);
    });
    go_ = key("goRound", {}, tr("Go"), Qt::Key_G, tr("Steer to the first mark of the round"));
    connect(go_, &KeyButton::clicked, this, [this] {
        if (!round_.marks.empty())
            context_.way.goToMark(round_.marks.front());
    });
    route_ = key("roundRoute", QStringLiteral("act-share"), tr("Route"), Qt::Key_X,
                 tr("The round as a GPX route"));
    connect(route_, &KeyButton::clicked, this, [this] {
        const auto path =
            QFileDialog::getSaveFileName(this, tr("Write the round"),
                                         QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation) +
                                             QStringLiteral("/round.gpx"),
                                         tr("GPX (*.gpx)"));
        std::vector<GeoPoint> places;
        for (const auto &id : round_.marks)
            if (const auto *m = context_.marks.find(id); m != nullptr && m->place)
                places.push_back(*m->place);
        if (path.isEmpty())
            return;
        if (const auto done =
                write_file_atomically(path.toStdString(), gpx_from_route(tr("Round").toStdString(), places));
            !done)
            context_.session.notices.raise(QStringLiteral("log"), done.error());
        else
            context_.session.notices.say(QStringLiteral("log"), tr("The round is written to %1.").arg(path));
    });
    kind_ = new QComboBox(this);
    kind_->setObjectName(QStringLiteral("roundKind"));
    kind_->addItem(tr("all kinds"), static_cast<int>(Kind::none));
    for (const auto k : kinds_of(Family::unsure))
        kind_->addItem(wordFor(k), static_cast<int>(k));
    connect(kind_, &QComboBox::activated, this, [this] {
        makeRound();
        setFocus();
    });
    addRoundKeys();
    addRuleFields();
    day_page_ = new DayPage(context_, book_, this);
    connect(&book_, &LogBook::changed, this, &LogView::refresh);
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
    setPage(Page::day);
}

void LogView::showEvent(QShowEvent *) {
    book_.refresh();
    day_page_->show(day_);
}

void LogView::setPage(Page page) {
    page_ = page;
    for (std::size_t i = 0; i < page_keys_.size(); ++i)
        page_keys_[i]->setChecked(i == static_cast<std::size_t>(page));
    table_->setVisible(page == Page::record);
    report_->setVisible(page == Page::day);
    day_page_->setVisible(page == Page::day);
    for (QWidget *w :
         std::initializer_list<QWidget *>{go_, route_, kind_, hours_, wind_, strength_, fuel_, all_marks_})
        w->setVisible(page == Page::round);
    for (QWidget *w : std::initializer_list<QWidget *>{rule_text_, rule_water_, rule_from_, rule_to_,
                                                       add_rule_, remove_rule_})
        w->setVisible(page == Page::rules);
    first_finding_ = 0;
    day_page_->show(day_);
    makeRound();
    update();
}

void LogView::refresh() {
    day_ = std::min(day_, book_.days().empty() ? 0 : book_.days().size() - 1);
    day_page_->show(day_);
    makeRound();
    update();
}

void LogView::makeRound() {
    if (page_ == Page::round)
        round_ = book_.round(wish());
    go_->setEnabled(!round_.marks.empty());
    route_->setEnabled(round_.marks.size() > 1);
    all_marks_->setEnabled(!left_out_.empty());
    remove_rule_->setEnabled(rule_ && *rule_ < book_.rules().size());
    table_->setEnabled(book_.record().visits > 0);
    report_->setEnabled(!book_.days().empty());
    update();
}

QString LogView::length(double m) const {
    return distanceWords(m, context_.session.preferences.units());
}

int LogView::daysShown() const {
    return std::max(1, (height() - top - 40) / day_high);
}

QRect LogView::dayRect(std::size_t row) const {
    return {14, top + 34 + static_cast<int>(row) * day_high, panel - 28, day_high - 4};
}

void LogView::choose(std::ptrdiff_t day) {
    const auto n = std::ssize(book_.days());
    if (n == 0)
        return;
    day_ = static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(day, 0, n - 1));
    const auto shown = static_cast<std::size_t>(daysShown());
    if (day_ < first_)
        first_ = day_;
    else if (day_ >= first_ + shown)
        first_ = day_ - shown + 1;
    day_page_->show(day_);
    update();
}

void LogView::mousePressEvent(QMouseEvent *event) {
    setFocus();
    for (std::size_t i = 0; i < static_cast<std::size_t>(daysShown()); ++i)
        if (dayRect(i).contains(event->pos()) && first_ + i < book_.days().size()) {
            choose(static_cast<std::ptrdiff_t>(first_ + i));
            setPage(Page::day);
            return;
        }
    if (page_ == Page::rules)
        for (std::size_t i = 0; i < book_.rules().size(); ++i)
            if (ruleRect(i).contains(event->pos())) {
                rule_ = i;
                remove_rule_->setEnabled(true);
                update();
            }
    // A press on a mark of the round takes it out, or in again.
    if (page_ == Page::round)
        for (const auto &[spot, id] : round_spots_)
            if (spot.contains(event->pos())) {
                if (left_out_.erase(id) == 0)
                    left_out_.insert(id);
                makeRound();
                return;
            }
}

void LogView::wheelEvent(QWheelEvent *event) {
    const bool up = event->angleDelta().y() > 0;
    if (event->position().x() < panel) {
        const auto most = book_.days().size() > static_cast<std::size_t>(daysShown())
                              ? book_.days().size() - static_cast<std::size_t>(daysShown())
                              : 0;
        first_ = up ? (first_ > 0 ? first_ - 1 : 0) : std::min(most, first_ + 1);
    } else if (page_ == Page::record) {
        const auto n = book_.record().findings.size();
        first_finding_ = up ? (first_finding_ > 0 ? first_finding_ - 1 : 0)
                            : std::min(n > 0 ? n - 1 : 0, first_finding_ + 1);
    }
    update();
}

void LogView::keyPressEvent(QKeyEvent *event) {
    switch (event->key()) {
    case Qt::Key_Down:
        choose(static_cast<std::ptrdiff_t>(day_) + 1);
        return;
    case Qt::Key_Up:
        choose(static_cast<std::ptrdiff_t>(day_) - 1);
        return;
    default:
        QWidget::keyPressEvent(event);
    }
}

int LogView::roundRows() const {
    constexpr int roomy = 800;
    return width() - panel < roomy ? 2 : 1;
}

void LogView::resizeEvent(QResizeEvent *) {
    int x = panel + 16;
    // The page's own keys stand at the right.
    constexpr int own_keys = 272;
    const int wide = std::min(136, (width() - x - own_keys) / static_cast<int>(page_keys_.size()));
    for (auto *k : page_keys_) {
        k->setGeometry(x, top, wide - 8, key_high - 8);
        x += wide;
    }
    table_->setGeometry(width() - 156, top, 140, key_high - 8);
    report_->setGeometry(width() - 156, top, 140, key_high - 8);
    route_->setGeometry(width() - 156, top, 140, key_high - 8);
    go_->setGeometry(width() - 264, top, 100, key_high - 8);
    const int left = panel + 20, room = width() - panel - 44, under = top + key_high + 2;
    // In a narrow window in two rows: a word that is cut foretells nothing.
    const int in_row = roundRows() == 1 ? 6 : 3, each = (room - (in_row - 1) * 8) / in_row;
    day_page_->setGeometry(left, under - 2, room, height() - under);
    int n = 0;
    for (QWidget *w : std::initializer_list<QWidget *>{kind_, hours_, wind_, strength_, fuel_, all_marks_}) {
        w->setGeometry(left + n % in_row * (each + 8), under + n / in_row * 52, each, 46);
        ++n;
    }
    rule_text_->setGeometry(left, under, room - 140 - 8, 46);
    add_rule_->setGeometry(left + room - 140, under, 140, 46);
    const int part = (room - 140 - 8 - 2 * 8) / 4;
    rule_water_->setGeometry(left, under + 54, 2 * part, 46);
    rule_from_->setGeometry(left + 2 * part + 8, under + 54, part, 46);
    rule_to_->setGeometry(left + 3 * part + 16, under + 54, part, 46);
    remove_rule_->setGeometry(left + room - 140, under + 54, 140, 46);
}

QStringList LogView::lines() const {
    if (page_ == Page::day)
        return day_page_->lines();
    QStringList lines;
    if (page_ == Page::round) {
        for (const auto &id : round_.marks)
            if (const auto *m = context_.marks.find(id))
                lines << capital(QString::fromStdString(plain_name(*m))) + QStringLiteral(" · ") +
                             promiseWords(id);
        return lines;
    }
    if (page_ == Page::rules) {
        for (const auto &r : book_.rules())
            lines << ruleWords(r);
        return lines;
    }
    const auto &r = book_.record();
    for (const auto &f : r.findings)
        lines << (f.too_few ? tr("%1 %2: too few to say (%3 of %4)") : tr("%1 %2: %3 of %4"))
                     .arg(QString::fromStdString(f.factor), QString::fromStdString(f.value))
                     .arg(f.k)
                     .arg(f.n);
    return lines;
}

void LogView::paintDays(QPainter &p) {
    const auto write = wordsOn(p);
    write(14, top + 18, tr("Days"), 17, true, "ink");
    const auto &days = book_.days();
    for (std::size_t i = 0; i < static_cast<std::size_t>(daysShown()) && first_ + i < days.size(); ++i) {
        const auto &d = days[first_ + i];
        const auto row = dayRect(i);
        if (first_ + i == day_)
            p.fillRect(row.adjusted(-8, 0, 8, 0), colour("sunk"));
        const auto date = QDate::fromString(d.date, Qt::ISODate);
        write(row.left(), row.top() + 20, QLocale().toString(date, QLocale::ShortFormat), 15, true, "ink");
        QStringList parts;
        if (!d.waters.isEmpty())
            parts << d.waters.join(QStringLiteral(", "));
        const auto fish = std::count_if(d.visits.begin(), d.visits.end(), [](const LogDay::Visit &v) {
            return v.outcome.what == Outcome::What::landed;
        });
        if (fish > 0)
            parts << tr("%1 fish").arg(fish);
        else if (!d.visits.empty())
            parts << counted(d.visits.size(), tr("visit"), tr("visits"));
        if (!d.marks.empty())
            parts << counted(d.marks.size(), tr("mark"), tr("marks"));
        p.setFont(Theme::instance().font(13));
        p.setPen(colour("ink2"));
        p.drawText(
            QPointF(row.left(), row.top() + 40),
            p.fontMetrics().elidedText(parts.join(QStringLiteral(" · ")), Qt::ElideRight, row.width()));
    }
    if (days.empty()) {
        p.setFont(Theme::instance().font(14));
        p.setPen(colour("ink2"));
        paintParagraph(p, {14, top + 34.0, panel - 28.0, 200},
                       book_.looking() ? tr("Looking through the trips …")
                                       : tr("Nothing is written down yet. A day begins with a trip that is "
                                            "kept, or with a visit told in Marks, page Story."));
    }
}

// Each share as a line with its interval on one scale, the rest beside it; what is told of chance and rivals
// under it.
void LogView::paintRecord(QPainter &p, QRectF room) {
    const auto write = wordsOn(p);
    const auto &r = book_.record();
    write(room.left(), room.top() + 18, tr("What the record supports"), 20, true, "ink");
    p.setFont(Theme::instance().font(14));
    p.setPen(colour("ink2"));
    double y = paintParagraph(
        p, {room.left(), room.top() + 28, room.width(), 60},
        r.visits == 0
            ? tr("No visit at which somebody fished is told yet: Marks, page Story, tells them with a press.")
            : tr("%1 at which somebody fished, a bite or a fish at %2. %3 were made; the more, the more seem "
                 "to say something by chance. Lines are nine in ten sure.")
                  .arg(counted(r.visits, tr("visit"), tr("visits")))
                  .arg(r.bitten)
                  .arg(counted(r.comparisons, tr("comparison"), tr("comparisons"))));
    y += 12;
    const double from = room.left() + 250, wide = std::max(80.0, room.width() - 330);
    const auto bar = [&](double at, const ShareInterval &s, std::size_t k, std::size_t n, bool main) {
        p.setPen(QPen(colour(main ? "ink" : "ink2"), main ? 2.2 : 1.2));
        p.drawLine(QPointF(from + s.low * wide, at), QPointF(from + s.high * wide, at));
        if (n > 0) {
            p.setBrush(colour(main ? "ink" : "page"));
            p.drawEllipse(QPointF(from + wide * static_cast<double>(k) / static_cast<double>(n), at), 4, 4);
            p.setBrush(Qt::NoBrush);
        }
        write(from + wide + 12, at + 5, tr("%1 of %2").arg(k).arg(n), 13, main, main ? "ink" : "ink2");
    };
    p.setRenderHint(QPainter::Antialiasing);
    for (std::size_t i = first_finding_; i < r.findings.size(); ++i) {
        const auto &f = r.findings[i];
        if (y + (f.too_few ? 24 : 70) > room.bottom())
            break;
        write(room.left(), y + 14,
              tr("%1: %2").arg(QString::fromStdString(f.factor), QString::fromStdString(f.value)), 15, true,
              "ink");
        if (f.too_few) {
            write(from, y + 14, tr("too few to say (%1 of %2)").arg(f.k).arg(f.n), 14, false, "ink2");
            y += 26;
            continue;
        }
        bar(y + 9, f.share, f.k, f.n, true);
        bar(y + 25, f.rest, f.rest_k, f.rest_n, false);
        p.setFont(Theme::instance().font(13));
        p.setPen(colour("ink2"));
        y = paintParagraph(p, {room.left(), y + 34, room.width(), std::min(40.0, room.bottom() - y - 34)},
                           chanceWords(f)) +
            12;
    }
}

// How likely chance alone makes such a difference, and what else it may be.
QString LogView::chanceWords(const Finding &f) {
    auto words =
        tr("Such a difference comes by chance %1 times in 100; of differences taken as readily as this, "
           "%2 in 100 are chance.")
            .arg(f.chance < 0.01 ? QStringLiteral("< 1") : QString::number(std::lround(100 * f.chance)))
            .arg(std::lround(100 * std::min(1.0, f.false_rate)));
    if (!f.rival.empty())
        words += QLatin1Char(' ') + tr("But %1.").arg(QString::fromStdString(f.rival));
    return words;
}

void LogView::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(panel, 0, panel, height());
    paintDays(p);
    const QRectF room(panel + 20, top + key_high + 8, width() - panel - 44, height() - top - key_high - 16);
    if (page_ == Page::record)
        paintRecord(p, room);
    else if (page_ == Page::round)
        paintRound(p, room);
    else if (page_ == Page::rules)
        paintRules(p, room);
}

} // namespace heron::app
