#include "views/practice/practice_view.hpp"

#include "kit/chip_image.hpp"
#include "kit/key_button.hpp"
#include "kit/kind_words.hpp"
#include "kit/paper.hpp"
#include "kit/paragraph.hpp"
#include "kit/theme.hpp"
#include "reading/contact_words.hpp"

#include <QFileDialog>
#include <QLineEdit>
#include <QPainter>
#include <QPainterPath>
#include <QStandardPaths>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr int panel = 300, choices_top = 236, roomy = 720, picture_wide = 300, picture_high = 200;

QString wordOf(Skill skill) {
    switch (skill) {
    case Skill::height:
        return PracticeView::tr("how tall");
    case Skill::stands:
        return PracticeView::tr("stands or floats");
    case Skill::distance:
        return PracticeView::tr("where it lies");
    case Skill::kind:
        return PracticeView::tr("what it is");
    case Skill::ground:
        return PracticeView::tr("which bottom");
    case Skill::cast:
        return PracticeView::tr("where to cast");
    case Skill::levels:
        return PracticeView::tr("hot or dark");
    case Skill::uphill:
        break;
    }
    return PracticeView::tr("which look is uphill");
}

// How high the drained bottom and what stands on it reach at a place about the thing, by its kind.
double reliefAt(const PracticeThing &t, double e, double n) {
    const double r = std::hypot(e, n), half = std::max(0.3, t.length_m / 2);
    switch (t.kind) {
    case Kind::boulder:
        return r < half ? t.height_m * std::sqrt(1 - r * r / (half * half)) : 0;
    case Kind::stump:
        return r < half ? t.height_m : r < 2 * half ? t.height_m * 0.25 * (2 - r / half) : 0;
    case Kind::log:
        return std::fabs(e) < t.height_m / 2 && std::fabs(n) < half
                   ? t.height_m * std::sqrt(1 - 4 * e * e / (t.height_m * t.height_m))
                   : 0;
    case Kind::rock_pile: {
        const double grain = 0.5 + 0.5 * std::sin(5.1 * e + 1) * std::sin(4.7 * n + 2);
        return r < half ? t.height_m * grain * (1 - 0.5 * r / half) : 0;
    }
    case Kind::tree:
    case Kind::brush: {
        const double rays = std::max(0.0, std::cos(7 * std::atan2(e, n)));
        return r < 0.15 ? t.height_m : r < half ? t.height_m * (1 - 0.7 * r / half) * rays : 0;
    }
    default:
        return 0;
    }
}

} // namespace

PracticeView::PracticeView(ViewContext &context, QWidget *parent)
    : QWidget(parent), context_(context), trainer_(context.session) {
    setFocusPolicy(Qt::StrongFocus);
    dressPage(this);
    setMouseTracking(true);
    const Qt::Key letters[] = {Qt::Key_Z, Qt::Key_X, Qt::Key_C, Qt::Key_V};
    for (std::size_t i = 0; i < 4; ++i) {
        auto *k = new KeyButton(QString(), QString(), letters[i], tr("This is the answer"), this);
        k->setObjectName(QStringLiteral("choice%1").arg(i));
        connect(k, &KeyButton::clicked, this, [this, i] { trainer_.answer(i); });
        choices_.push_back(k);
    }
    next_ = new KeyButton(QString(), tr("Begin"), Qt::Key_Return, tr("The next question"), this);
    next_->setObjectName(QStringLiteral("nextQuestion"));
    next_->setPrimary(true);
    connect(next_, &KeyButton::clicked, this, [this] {
        if (trainer_.making())
            trainer_.stop();
        else
            trainer_.next();
    });
    harder_ =
        new KeyButton(QString(), tr("Plain water"), Qt::Key_H, tr("Plain, rougher, or hard to tell"), this);
    harder_->setObjectName(QStringLiteral("difficulty"));
    connect(harder_, &KeyButton::clicked, this, [this] {
        trainer_.setDifficulty((trainer_.difficulty() + 1) % 3);
        const QString names[] = {tr("Plain water"), tr("Rougher"), tr("Hard to tell")};
        harder_->setText(names[trainer_.difficulty()]);
    });
    own_ = new KeyButton(QString(), tr("Your own"), Qt::Key_Y,
                         tr("Pictures of your own marks that you know: no place, name or date is shown, so "
                            "guests may try them"),
                         this);
    own_->setObjectName(QStringLiteral("practiceOwn"));
    own_->setCheckable(true);
    connect(own_, &KeyButton::clicked, this, [this](bool on) {
        std::vector<Mark> known;
        if (on)
            std::copy_if(context_.marks.all().begin(), context_.marks.all().end(), std::back_inserter(known),
                         teaches);
        if (on && known.empty())
            context_.session.notices.say(
                QStringLiteral("practice"),
                tr("No mark tells yet what it turned out to be: say it in its story, with how you know."));
        trainer_.setOwn(std::move(known));
    });
    addSets();
    person_ = new QComboBox(this);
    person_->setObjectName(QStringLiteral("practicePerson"));
    person_->setEditable(true);
    person_->setInsertPolicy(QComboBox::NoInsert);
    connect(person_, &QComboBox::activated, this, [this] { trainer_.setPerson(person_->currentText()); });
    connect(person_->lineEdit(), &QLineEdit::editingFinished, this, [this] {
        if (person_->currentText().trimmed() != trainer_.person())
            trainer_.setPerson(person_->currentText());
    });
    connect(&trainer_, &Trainer::changed, this, &PracticeView::refresh);
    connect(&Theme::instance(), &Theme::changed, this, &PracticeView::refresh);
    refresh();
}

// Questions for guests: made of one's own marks, and opened on any machine.
void PracticeView::addSets() {
    write_set_ = new KeyButton(
        QString(), tr("Write a set for guests"), Qt::Key_E,
        tr("The pictures of your own marks as questions in one file: no place, no name and no date"), this);
    write_set_->setObjectName(QStringLiteral("writeSet"));
    open_set_ =
        new KeyButton(QString(), tr("Open a set"), Qt::Key_G, tr("Questions that a guide made"), this);
    open_set_->setObjectName(QStringLiteral("openSet"));
    const auto files = tr("Sets of questions (*%1)").arg(QLatin1String(GuestSet::suffix.data()));
    connect(write_set_, &KeyButton::clicked, this, [this, files] {
        const auto path = QFileDialog::getSaveFileName(
            this, tr("Write a set for guests"),
            QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation) + QStringLiteral("/guests") +
                QLatin1String(GuestSet::suffix.data()),
            files);
        if (!path.isEmpty())
            trainer_.writeSet(path, tr("A guide's water"));
    });
    connect(open_set_, &KeyButton::clicked, this, [this, files] {
        const auto path = QFileDialog::getOpenFileName(this, tr("Open a set"), QString(), files);
        if (!path.isEmpty())
            trainer_.openSet(path);
    });
}

void PracticeView::refresh() {
    const auto &q = trainer_.question();
    for (std::size_t i = 0; i < choices_.size(); ++i) {
        const bool there = q && i < q->choices.size();
        choices_[i]->setVisible(there);
        if (!there)
            continue;
        auto text = QString::fromStdString(q->choices[i]);
        if (trainer_.answered() && i == q->right)
            text = tr("✓ %1").arg(text);
        else if (trainer_.answered() == i)
            text = tr("✗ %1").arg(text);
        choices_[i]->setText(text);
        choices_[i]->setEnabled(!trainer_.answered());
    }
    own_->setChecked(trainer_.own());
    harder_->setEnabled(!trainer_.own() && !trainer_.set());
    write_set_->setVisible(!q);
    open_set_->setVisible(!q);
    write_set_->setEnabled(trainer_.own());
    next_->setEnabled(trainer_.making() || !q || trainer_.answered());
    next_->setText(trainer_.making() ? tr("Stop") : q ? tr("Next") : tr("Begin"));
    next_->setPrimary(!trainer_.making());
    person_->blockSignals(true);
    person_->clear();
    person_->addItems(trainer_.people());
    person_->setCurrentText(trainer_.person());
    person_->blockSignals(false);
    image_ = imageOf(trainer_.picture(picture_wide, picture_high, metres_a_pixel));
    update();
}

int PracticeView::choicePitch() const {
    return height() < roomy ? 48 : 58;
}

void PracticeView::resizeEvent(QResizeEvent *) {
    person_->setGeometry(14, 44, panel - 28, 44);
    harder_->setGeometry(14, 94, 158, 48);
    own_->setGeometry(14 + 164, 94, panel - 28 - 164, 48);
    for (std::size_t i = 0; i < choices_.size(); ++i)
        choices_[i]->setGeometry(14, choices_top + static_cast<int>(i) * choicePitch(), panel - 28,
                                 choicePitch() - 4);
    write_set_->setGeometry(choices_[0]->geometry());
    open_set_->setGeometry(choices_[1]->geometry());
    next_->setGeometry(14, height() - 66, panel - 28, 56);
}

// What the program makes of the same picture, as surely as it is.
QString PracticeView::readingWords() const {
    const auto *c = trainer_.reading();
    if (c == nullptr)
        return tr("The program itself overlooks it in this picture.");
    const auto units = context_.session.preferences.units();
    const auto length = [&](double m) { return QString::fromStdString(print_length(m, units).text()); };
    auto words = tr("The program reads: %1, %2").arg(contactTitle(*c), inHundred(c->confidence));
    if (c->height_m)
        words +=
            (c->placement == Placement::suspended ? tr("; %1 ± %2 off the bottom") : tr("; %1 ± %2 tall"))
                .arg(length(c->height_m->value), length(c->height_m->sd));
    return words + tr("; %1 ± %2 aside.").arg(length(c->ground_m.value), length(c->ground_m.sd));
}

// Asked and right, skill by skill: numbers, no praise.
void PracticeView::paintProgress(QPainter &p, double top) {
    const auto write = wordsOn(p);
    const auto &progress = trainer_.progress();
    write(14, top, tr("So far"), 14, true, "ink");
    // All of them, however low the window.
    const double pitch = std::min(20.0, (height() - 70 - top - 4) / static_cast<double>(skill_count));
    double y = top + pitch + 2;
    for (std::size_t i = 0; i < skill_count; ++i, y += pitch) {
        const auto &s = progress.skills[i];
        write(14, y, wordOf(static_cast<Skill>(i)), 13, false, "ink2");
        const auto words = s.asked == 0 ? tr("not asked yet") : tr("%1 of %2").arg(s.right).arg(s.asked);
        p.setFont(Theme::instance().font(13));
        write(panel - 16 - p.fontMetrics().horizontalAdvance(words), y, words, 13, false, "ink");
    }
}

void PracticeView::paintPicture(QPainter &p, QRectF room) {
    picture_ = {};
    if (image_.isNull())
        return;
    const double scale = std::min(room.width() / image_.width(), room.height() / image_.height());
    const QRectF box(room.left(), room.top(), image_.width() * scale, image_.height() * scale);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    p.drawImage(box, image_);
    if (trainer_.question()->picture)
        return;
    if (trainer_.question()->skill == Skill::uphill) {
        wordsOn(p)(box.left(), box.bottom() + 18,
                   tr("the first pass, and the one back; the boat is to the left of each"), 13, false,
                   "ink2");
        return;
    }
    // A ring about the thing, never on its echo: half its length along the track and a margin.
    constexpr double row_m = 0.07, margin_px = 34;
    const double away = 1 / metres_a_pixel * scale * (trainer_.side() == Side::port ? 1 : -1),
                 radius = margin_px + trainer_.thing().length_m / 2 / row_m * scale;
    const QPointF at(box.center().x() + away, box.center().y());
    for (const double wide : {4.4, 2.2}) {
        p.setPen(QPen(colour(wide > 3 ? "casing" : "paper"), wide));
        p.drawEllipse(at, radius, radius);
    }
    picture_ = box;
    paintRuler(p);
}

// The circle about the bow with the boat to scale; answered, the lines from the head and from the seat.
void PracticeView::paintCircle(QPainter &p, QRectF room) {
    const auto &riddle = *trainer_.question()->riddle;
    const auto units = context_.session.preferences.units();
    const double range = 18, r = std::min(room.width(), room.height()) / 2 - 26, scale = r / range;
    const auto middle = room.center();
    const auto on = [&](const FromHead &at) {
        return middle + QPointF(at.right_m * scale, -at.ahead_m * scale);
    };
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(colour("ink"), 1.5));
    p.setBrush(colour("water"));
    p.drawEllipse(middle, r, r);
    p.setBrush(Qt::NoBrush);
    const auto write = wordsOn(p);
    for (const double ring :
         units == UnitSystem::feet ? std::vector<double>{20, 40} : std::vector<double>{5, 10, 15}) {
        const double m = units == UnitSystem::feet ? metres_from_feet(ring) : ring;
        p.setPen(QPen(colour("line"), 1));
        p.drawEllipse(middle, m * scale, m * scale);
        write(middle.x() + 4, middle.y() - m * scale - 3,
              QString::fromStdString(print_length(m, units, 0).text()), 13, false, "ink2");
    }
    for (int h = 0; h < 12; ++h) {
        const double a = h * 30 / degrees_per_radian;
        const QPointF way(std::sin(a), -std::cos(a));
        p.setPen(QPen(colour("ink"), h % 3 == 0 ? 2.5 : 1.2));
        p.drawLine(middle + (r - 8) * way, middle + r * way);
    }
    QPolygonF hull;
    for (const auto &spot : riddle.boat.outline())
        hull << on(from_head(riddle.boat, spot));
    p.setPen(QPen(colour("ink"), 2));
    p.setBrush(colour("page"));
    p.drawPolygon(hull);
    const auto seat = on(from_head(riddle.boat, riddle.boat.seats[riddle.seat].at)), thing = on(riddle.at);
    p.setBrush(colour("ink"));
    p.drawEllipse(seat, 7, 7);
    if (trainer_.answered()) {
        p.setPen(QPen(colour("ink2"), 1.6, Qt::DashLine));
        p.drawLine(middle, thing);
        p.setPen(QPen(colour("accent"), 3));
        p.drawLine(seat, thing);
    }
    p.setPen(QPen(colour("accent"), 2));
    p.setBrush(colour("page"));
    p.drawEllipse(thing, 9, 9);
    p.drawEllipse(thing, 3, 3);
}

// To scale both ways: boat, bottom, ray over the top, shadow.
void PracticeView::paintSection(QPainter &p, QRectF room) {
    const auto &lake = trainer_.lake();
    const auto &t = trainer_.thing();
    const double g = std::fabs(lake.aside_m(t)), a = lake.altitude_m(),
                 end = t.floats || t.height_m >= a ? g * a / std::max(0.2, a - t.height_m)
                                                   : g * a / (a - t.height_m);
    const double wide = std::max(end + 2, g + 3),
                 scale = std::min(room.width() / wide, (room.height() - 20) / (lake.depth_m + 0.6));
    const double bed = room.top() + 14 + lake.depth_m * scale;
    const auto on = [&](double aside, double over) {
        return QPointF(room.left() + aside * scale, bed - over * scale);
    };
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(QRectF(room.left(), bed - lake.depth_m * scale, wide * scale, lake.depth_m * scale),
               colour("water"));
    p.setPen(QPen(colour("bedln"), 2));
    p.drawLine(on(0, 0), on(wide, 0));
    p.setPen(QPen(colour("ink"), 2));
    p.setBrush(colour("page"));
    p.drawEllipse(on(0, a), 5, 5);
    // The ray that grazes the top, and where it meets the bottom.
    p.setPen(QPen(colour("accent"), 1.8));
    p.drawLine(on(0, a), on(end, 0));
    p.setPen(QPen(colour("ink2"), 1, Qt::DashLine));
    p.drawLine(on(0, a), on(0, 0));
    p.setPen(Qt::NoPen);
    p.setBrush(colour("ink"));
    if (t.floats) {
        p.drawEllipse(on(g, t.height_m), std::max(4.0, t.length_m / 2 * scale),
                      std::max(2.5, t.length_m / 6 * scale));
    } else {
        QPainterPath shape(on(g - t.length_m / 2, 0));
        for (double e = -t.length_m / 2; e <= t.length_m / 2; e += 0.05)
            shape.lineTo(on(g + e, reliefAt(t, e, 0)));
        shape.lineTo(on(g + t.length_m / 2, 0));
        shape.closeSubpath();
        p.drawPath(shape);
    }
    p.setBrush(Qt::NoBrush);
    // The shadow, thick along the bottom.
    p.setPen(QPen(colour("ink"), 5));
    p.drawLine(on(t.floats ? (g * a / std::max(0.2, a - t.height_m + 0.1)) : g, -0.04), on(end, -0.04));
}

// Across both passes, to scale: the bottom as it lies, the thing, and the ray over its top from either boat.
void PracticeView::paintSlope(QPainter &p, QRectF room) {
    const auto &lake = trainer_.lake();
    const auto &t = trainer_.thing();
    const double rise = std::tan(lake.rises_deg / degrees_per_radian), off = lake.passes_off_m;
    const auto bed = [&](double east) { return lake.depth_m - east * rise; };
    // Similar triangles: on any plane the ray over the top meets the bottom so far behind the thing.
    const auto end = [&](bool second) {
        const double a = lake.altitude_on(second);
        return (second ? -1 : 1) * (off * a / (a - t.height_m) - off);
    };
    const double reach = std::max({off, std::fabs(end(false)), std::fabs(end(true))}) + 2,
                 scale = std::min(room.width() / (2 * reach),
                                  (room.height() - 20) / (std::max(bed(-reach), bed(reach)) + 0.4));
    const auto on = [&](double east, double down) {
        return QPointF(room.center().x() + east * scale, room.top() + 12 + down * scale);
    };
    p.setRenderHint(QPainter::Antialiasing);
    QPolygonF water;
    water << on(-reach, 0) << on(reach, 0) << on(reach, bed(reach)) << on(-reach, bed(-reach));
    p.setPen(Qt::NoPen);
    p.setBrush(colour("water"));
    p.drawPolygon(water);
    p.setPen(QPen(colour("bedln"), 3));
    p.drawLine(on(-reach, bed(-reach)), on(reach, bed(reach)));
    QPainterPath stone(on(-t.length_m / 2, bed(0)));
    for (double e = -t.length_m / 2; e <= t.length_m / 2; e += 0.05)
        stone.lineTo(on(e, bed(0) - reliefAt(t, e, 0)));
    p.setPen(Qt::NoPen);
    p.setBrush(colour("ink"));
    p.drawPath(stone);
    for (const bool second : {false, true}) {
        const double boat = second ? off : -off, shadow = end(second);
        p.setPen(QPen(colour("accent"), 1.8));
        p.drawLine(on(boat, lake.transducer_m), on(shadow, bed(shadow)));
        p.setPen(QPen(colour("ink"), 4));
        p.drawLine(on(0, bed(0)), on(shadow, bed(shadow)));
        p.setPen(QPen(colour("ink"), 2));
        p.setBrush(colour("page"));
        p.drawEllipse(on(boat, lake.transducer_m), 5, 5);
    }
    p.setBrush(Qt::NoBrush);
}

// The water is gone: rows of the bottom one behind the other, what stands on it to scale, a pole of a metre
// or of three feet beside it.
void PracticeView::paintDrained(QPainter &p, QRectF room) {
    const auto &t = trainer_.thing();
    constexpr double half_m = 4, row_m = 0.14;
    const double scale = room.width() / (2 * half_m) * 0.8;
    p.setRenderHint(QPainter::Antialiasing);
    p.save();
    p.setClipRect(room);
    p.fillRect(room, colour("bed"));
    for (double n = half_m; n >= -half_m; n -= row_m) {
        // Farther rows stand higher and are narrower.
        const double far = (n + half_m) / (2 * half_m), y0 = room.bottom() - 18 - far * room.height() * 0.55,
                     narrow = 1 - 0.28 * far;
        QPolygonF line;
        for (double e = -half_m; e <= half_m; e += 0.06) {
            const double h = reliefAt(t, e, n) + 0.015 * std::sin(9 * e + 5 * n) * std::sin(7 * n);
            line << QPointF(room.center().x() + e * scale * narrow, y0 - h * scale * narrow);
        }
        auto below = line;
        below << QPointF(line.last().x(), room.bottom()) << QPointF(line.first().x(), room.bottom());
        p.setPen(Qt::NoPen);
        p.setBrush(colour("bed"));
        p.drawPolygon(below);
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(colour("bedln"), 1.1));
        p.drawPolyline(line);
    }
    const bool feet = context_.session.preferences.units() == UnitSystem::feet;
    const double pole = feet ? metres_from_feet(3) : 1.0, narrow = 0.86;
    const QPointF foot(room.center().x() - 2.6 * scale * narrow,
                       room.bottom() - 18 - 0.5 * room.height() * 0.55);
    p.setPen(QPen(colour("accent"), 3));
    p.drawLine(foot, foot - QPointF(0, pole * scale * narrow));
    wordsOn(p)(foot.x() + 6, foot.y() - pole * scale * narrow + 10, feet ? tr("3 ft") : tr("1 m"), 13, true,
               "ink");
    if (t.floats) {
        const QPointF fish(room.center().x(),
                           room.bottom() - 18 - 0.5 * room.height() * 0.55 - t.height_m * scale * narrow);
        p.setPen(Qt::NoPen);
        p.setBrush(colour("ink"));
        p.drawEllipse(fish, std::max(5.0, t.length_m / 2 * scale), std::max(3.0, t.length_m / 6 * scale));
        wordsOn(p)(fish.x() + t.length_m * scale, fish.y(), tr("swam here"), 13, false, "ink");
    }
    p.restore();
}

void PracticeView::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(panel, 0, panel, height());
    const auto write = wordsOn(p);
    write(14, 30, tr("Who practises"), 14, true, "ink");
    const auto &q = trainer_.question();
    p.setFont(Theme::instance().font(17, true));
    p.setPen(colour("ink"));
    if (q)
        paintParagraph(p, {14, 154, panel - 28.0, 84}, QString::fromStdString(q->asks));
    picture_ = {};
    paintProgress(p, choices_top + 4 * choicePitch() + 16);
    const QRectF room(panel + 16, 12, width() - panel - 32, height() - 24);
    if (!q) {
        p.setFont(Theme::instance().font(17, true));
        p.setPen(colour("ink"));
        p.drawText(room.adjusted(40, 0, -40, -30), Qt::AlignCenter | Qt::TextWordWrap,
                   !trainer_.making()    ? tr("Read a picture; then the lake is drained.")
                   : trainer_.made() < 1 ? tr("The stand-in sounds a made-up water …")
                                         : tr("The program reads it too …"));
        p.setFont(Theme::instance().font(14));
        p.setPen(colour("ink2"));
        p.drawText(room.adjusted(60, 60, -60, 30), Qt::AlignCenter | Qt::TextWordWrap,
                   tr("Waters that do not exist, drawn anew each time. What is missed comes back soon, what "
                      "is known seldom."));
        if (trainer_.making()) {
            // How far it is, under two lines of words.
            const QRectF bar(room.center().x() - 120, room.center().y() + 84, 240, 8);
            p.fillRect(QRectF(bar.topLeft(), QSizeF(bar.width() * trainer_.made(), bar.height())),
                       colour("ink"));
            p.drawRect(bar);
        }
        return;
    }
    if (!trainer_.answered()) {
        if (q->riddle)
            paintCircle(p, room);
        else
            paintPicture(p, room.adjusted(0, 0, 0, -52));
        return;
    }
    const bool whole = q->riddle || q->picture, uphill = q->skill == Skill::uphill;
    const double half = whole ? room.height() - 110 : room.height() * 0.5;
    if (q->picture) {
        paintPicture(p, {room.left(), room.top(), room.width(), half});
    } else if (q->riddle) {
        paintCircle(p, {room.left(), room.top(), room.width(), half});
    } else if (uphill) {
        paintPicture(p, {room.left(), room.top(), room.width(), half - 30});
    } else {
        paintPicture(p, {room.left(), room.top(), room.width() * 0.52, half - 52});
        paintDrained(p, {room.left() + room.width() * 0.55, room.top(), room.width() * 0.45, half - 30});
    }
    const bool right = *trainer_.answered() == q->right;
    double y = room.top() + half;
    write(room.left(), y + 18,
          right ? tr("Right") : tr("No: %1").arg(QString::fromStdString(q->choices[q->right])), 17, true,
          right ? "reed" : "accent");
    p.setFont(Theme::instance().font(14));
    p.setPen(colour("ink"));
    y = paintParagraph(p, {room.left(), y + 26, room.width(), 64},
                       capital(QString::fromStdString(q->explains)));
    if (!whole && !uphill) {
        p.setPen(colour("ink2"));
        y = paintParagraph(p, {room.left(), y + 4, room.width(), 40}, readingWords());
    }
    if (uphill)
        paintSlope(p, {room.left(), y + 6, room.width(), room.bottom() - y - 6});
    else if (!whole)
        paintSection(p, {room.left(), y + 6, room.width(), room.bottom() - y - 6});
}

} // namespace heron::app
