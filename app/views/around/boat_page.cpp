#include "views/around/boat_page.hpp"

#include "kit/key_button.hpp"
#include "kit/paper.hpp"
#include "kit/theme.hpp"

#include <QComboBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QPainterPath>
#include <QVBoxLayout>

namespace heron::app {

BoatSketch::BoatSketch(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    connect(&context_.session.boats, &Boats::changed, this, qOverload<>(&QWidget::update));
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void BoatSketch::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), colour("page"));
    const auto &boat = context_.session.boats.boat();
    const auto units = context_.session.preferences.units();
    const double scale = std::min((width() - 150.0) / boat.beam_m, (height() - 70.0) / boat.length_m);
    const QPointF bow(width() / 2.0, 34);
    const auto at = [&](const OnBoat &spot) {
        return bow + scale * QPointF(spot.right_m, spot.behind_bow_m);
    };
    QPainterPath hull;
    const auto outline = boat.outline();
    hull.moveTo(at(outline.front()));
    for (const auto &spot : outline)
        hull.lineTo(at(spot));
    hull.closeSubpath();
    p.setPen(QPen(colour("ink"), 2.5));
    p.setBrush(colour("lift"));
    p.drawPath(hull);
    p.setPen(QPen(colour("hair"), 1, Qt::DashLine));
    p.drawLine(bow, at({boat.length_m, 0}));
    const auto text = [&](double m) { return QString::fromStdString(print_length(m, units, 1).text()); };
    // Seats with the reach of their casts in words.
    for (std::size_t i = 0; i < boat.seats.size(); ++i) {
        const auto where = at(boat.seats[i].at);
        p.setPen(Qt::NoPen);
        p.setBrush(colour("ink"));
        p.drawEllipse(where, 14, 14);
        p.setFont(theme.font(15, true));
        p.setPen(colour("page"));
        p.drawText(QRectF(where.x() - 14, where.y() - 14, 28, 28), Qt::AlignCenter, QString::number(i + 1));
        p.setFont(theme.font(13));
        p.setPen(colour("ink2"));
        p.drawText(QPointF(at({0, boat.beam_m / 2}).x() + 8, where.y() + 5),
                   text(boat.seats[i].at.behind_bow_m));
    }
    const auto device = [&](const OnBoat &spot, const QString &word, const char *ink) {
        const auto where = at(spot);
        p.setPen(QPen(colour(ink), 2.5));
        p.setBrush(colour("page"));
        p.drawEllipse(where, 6, 6);
        p.setFont(theme.font(13));
        const double wide = p.fontMetrics().horizontalAdvance(word);
        p.drawText(QPointF(at({0, -boat.beam_m / 2}).x() - wide - 10, where.y() + 5), word);
    };
    device(boat.head, tr("head"), "accent");
    device(boat.antenna, tr("antenna"), "reed");
    p.setFont(theme.font(13, true));
    p.setPen(colour("ink"));
    p.drawText(QRectF(0, 4, width(), 22), Qt::AlignCenter, tr("bow"));
    p.drawText(QRectF(0, height() - 30, width(), 24), Qt::AlignCenter,
               tr("%1 long, %2 wide").arg(text(boat.length_m), text(boat.beam_m)));
}

BoatPage::BoatPage(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    dressPage(this);
    auto *page = new QVBoxLayout(this);
    page->setContentsMargins(24, 14, 24, 12);
    page->setSpacing(8);
    page->addWidget(new PaperLabel(tr("Your boat"), 24, true, Ink::plain, this));
    page->addWidget(new PaperLabel(tr("Measured from the tip of the bow backwards, and from the keel to the "
                                      "right (to the left with a minus). "
                                      "Every cast is reckoned from here."),
                                   14, false, Ink::quiet, this));
    auto *row = new QHBoxLayout;
    row->setSpacing(10);
    which_ = new QComboBox(this);
    which_->setObjectName(QStringLiteral("whichBoat"));
    which_->setMinimumHeight(44);
    row->addWidget(which_, 1);
    auto *another = addKey("anotherBoat", tr("Another"), QKeySequence(), tr("Another boat, like this one"));
    auto *away =
        addKey("removeBoat", tr("Take away"), QKeySequence(), tr("Forget this boat; the last one stays"));
    auto *done = addKey("boatDone", tr("Done"), Qt::Key_Escape, tr("Back to the circle"));
    for (auto *k : {another, away, done})
        row->addWidget(k);
    page->addLayout(row);
    auto *grid = new QGridLayout;
    grid->setHorizontalSpacing(10);
    grid->setVerticalSpacing(6);
    int line = 0;
    const auto add = [&](const QString &label, QLineEdit *a, QLineEdit *b = nullptr) {
        grid->addWidget(new PaperLabel(label, 14, false, Ink::plain, this), line, 0);
        grid->addWidget(a, line, 1, 1, b != nullptr ? 1 : 2);
        if (b != nullptr)
            grid->addWidget(b, line, 2);
        ++line;
    };
    add(tr("Name"), addText(
                        "boatName", [](const OwnBoat &b) { return b.name; },
                        [](OwnBoat &b, std::string v) { b.name = std::move(v); }));
    add(tr("Length, beam"),
        addLength(
            "boatLength", [](const OwnBoat &b) { return b.length_m; },
            [](OwnBoat &b, double v) { b.length_m = v; }),
        addLength(
            "boatBeam", [](const OwnBoat &b) { return b.beam_m; },
            [](OwnBoat &b, double v) { b.beam_m = v; }));
    add(tr("Head: behind the bow, right"),
        addLength(
            "headBehind", [](const OwnBoat &b) { return b.head.behind_bow_m; },
            [](OwnBoat &b, double v) { b.head.behind_bow_m = v; }),
        addLength(
            "headRight", [](const OwnBoat &b) { return b.head.right_m; },
            [](OwnBoat &b, double v) { b.head.right_m = v; }));
    add(tr("Antenna: behind the bow, right"),
        addLength(
            "antennaBehind", [](const OwnBoat &b) { return b.antenna.behind_bow_m; },
            [](OwnBoat &b, double v) { b.antenna.behind_bow_m = v; }),
        addLength(
            "antennaRight", [](const OwnBoat &b) { return b.antenna.right_m; },
            [](OwnBoat &b, double v) { b.antenna.right_m = v; }));
    add(tr("Fuel while scanning, litres an hour"),
        addText(
            "boatFuel", [](const OwnBoat &b) { return print_number(b.fuel_l_per_h, 1); },
            [](OwnBoat &b, const std::string &v) {
                bool figure = false;
                const double litres =
                    QString::fromStdString(v).replace(QLatin1Char(','), QLatin1Char('.')).toDouble(&figure);
                b.fuel_l_per_h = figure ? litres : -1; // what is no figure is refused with the rest
            }));
    page->addLayout(grid);
    page->addWidget(paperRule(this));
    seats_ = new QGridLayout;
    seats_->setHorizontalSpacing(10);
    seats_->setVerticalSpacing(6);
    page->addLayout(seats_);
    auto *under = new QHBoxLayout;
    auto *more = addKey("addSeat", tr("Another seat"), QKeySequence(), tr("One more angler; six at most"));
    auto *less = addKey("removeSeat", tr("One less"), QKeySequence(), tr("Takes the last seat away"));
    under->addWidget(more);
    under->addWidget(less);
    under->addStretch(1);
    page->addLayout(under);
    page->addWidget(refusal_ = new PaperLabel(QString(), 14, true, Ink::alarm, this));
    page->addStretch(1);
    connect(which_, &QComboBox::activated, this,
            [this](int i) { context_.session.boats.choose(static_cast<std::size_t>(i)); });
    connect(another, &KeyButton::clicked, &context_.session.boats, &Boats::addAnother);
    connect(away, &KeyButton::clicked, &context_.session.boats, &Boats::remove);
    connect(done, &KeyButton::clicked, this, &BoatPage::closed);
    connect(more, &KeyButton::clicked, this, [this] {
        take([](OwnBoat &b) {
            if (b.seats.size() >= OwnBoat::most_seats)
                return;
            Seat seat = b.seats.empty() ? Seat{{}, {b.length_m / 2, 0}, 15, Hand::right} : b.seats.back();
            seat.name = tr("Seat %1").arg(b.seats.size() + 1).toStdString();
            b.seats.push_back(seat);
        });
    });
    connect(less, &KeyButton::clicked, this, [this] {
        take([](OwnBoat &b) {
            if (!b.seats.empty())
                b.seats.pop_back();
        });
    });
    connect(&context_.session.boats, &Boats::changed, this, &BoatPage::refresh);
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, &BoatPage::refresh);
    refresh();
}

KeyButton *BoatPage::addKey(const char *name, const QString &text, const QKeySequence &letter,
                            const QString &tip) {
    auto *key = new KeyButton(QString(), text, letter, tip, this);
    key->setObjectName(QString::fromLatin1(name));
    key->setFixedHeight(46);
    return key;
}

// What cannot be is told, and the boat stays as it was.
void BoatPage::take(const std::function<void(OwnBoat &)> &put) {
    if (filling_)
        return;
    auto boat = context_.session.boats.boat();
    put(boat);
    if (const auto all = boats_from_json(boats_to_json({boat})); !all) {
        refusal_->setText(QString::fromStdString(all.error().happened) + QStringLiteral("; ") +
                          tr("it stays as it was"));
        refresh();
        return;
    }
    refusal_->setText(QString());
    context_.session.boats.change(boat);
}

QLineEdit *BoatPage::addLength(const char *name, const std::function<double(const OwnBoat &)> &get,
                               std::function<void(OwnBoat &, double)> put) {
    auto *field = new QLineEdit(this);
    field->setObjectName(QString::fromLatin1(name));
    field->setMinimumHeight(40);
    fill_.push_back([=, this] {
        if (!field->hasFocus() || field->text().isEmpty() || !field->isModified())
            field->setText(QString::fromStdString(
                print_length(get(context_.session.boats.boat()), context_.session.preferences.units(), 1)
                    .text()));
    });
    connect(field, &QLineEdit::editingFinished, this, [=, this] {
        if (!field->isModified())
            return;
        field->setModified(false);
        auto words = field->text();
        words.replace(QStringLiteral("−"), QStringLiteral("-"));
        const auto v = parse_length_m(words.toStdString(), context_.session.preferences.units());
        if (v)
            take([&](OwnBoat &b) { put(b, *v); });
        else
            refusal_->setText(tr("%1 is no length").arg(field->text()));
        refresh();
    });
    return field;
}

QLineEdit *BoatPage::addText(const char *name, const std::function<std::string(const OwnBoat &)> &get,
                             std::function<void(OwnBoat &, std::string)> put) {
    auto *field = new QLineEdit(this);
    field->setObjectName(QString::fromLatin1(name));
    field->setMinimumHeight(40);
    field->setMaxLength(40);
    fill_.push_back([=, this] {
        if (!field->isModified())
            field->setText(QString::fromStdString(get(context_.session.boats.boat())));
    });
    connect(field, &QLineEdit::editingFinished, this, [=, this] {
        if (!field->isModified())
            return;
        field->setModified(false);
        take([&](OwnBoat &b) { put(b, field->text().trimmed().toStdString()); });
    });
    return field;
}

// A row a seat: number, name, behind the bow, right of the keel, reach, hand.
void BoatPage::buildSeats() {
    const auto many = context_.session.boats.boat().seats.size();
    if (many == built_seats_)
        return;
    built_seats_ = many;
    for (auto *w : seat_widgets_)
        w->deleteLater();
    seat_widgets_.clear();
    fill_seats_.clear();
    std::swap(fill_, fill_seats_);
    const QString heads[] = {tr("Seat"), tr("Behind bow"), tr("Right"), tr("Reach"), tr("Casts")};
    int column = 1;
    for (const auto &head : heads) {
        auto *label = new PaperLabel(head, 13, false, Ink::quiet, this);
        seats_->addWidget(label, 0, column++);
        seat_widgets_.push_back(label);
    }
    for (std::size_t i = 0; i < many; ++i) {
        const auto named = [&](const char *what) {
            return QStringLiteral("%1%2").arg(QLatin1String(what)).arg(i + 1).toLatin1();
        };
        auto *number = new PaperLabel(QString::number(i + 1), 15, true, Ink::plain, this);
        auto *name = addText(
            named("seatName"),
            [i](const OwnBoat &b) { return i < b.seats.size() ? b.seats[i].name : std::string(); },
            [i](OwnBoat &b, std::string v) { b.seats.at(i).name = std::move(v); });
        const auto length = [&](const char *what, auto get) {
            return addLength(
                named(what),
                [i, get](const OwnBoat &b) {
                    auto copy = i < b.seats.size() ? b.seats[i] : Seat();
                    return *get(copy);
                },
                [i, get](OwnBoat &b, double v) { *get(b.seats.at(i)) = v; });
        };
        auto *behind = length("seatBehind", [](Seat &s) { return &s.at.behind_bow_m; });
        auto *right = length("seatRight", [](Seat &s) { return &s.at.right_m; });
        auto *reach = length("seatReach", [](Seat &s) { return &s.reach_m; });
        auto *hand = addKey(named("seatHand"), tr("right"), QKeySequence(),
                            tr("Casts over the right or the left shoulder"));
        connect(hand, &KeyButton::clicked, this, [this, i] {
            take([i](OwnBoat &b) {
                auto &h = b.seats.at(i).hand;
                h = h == Hand::right ? Hand::left : Hand::right;
            });
        });
        fill_.push_back([=, this] {
            const auto &seats = context_.session.boats.boat().seats;
            if (i < seats.size())
                hand->setText(seats[i].hand == Hand::left ? tr("left") : tr("right"));
        });
        column = 0;
        for (QWidget *w : std::initializer_list<QWidget *>{number, name, behind, right, reach, hand}) {
            seats_->addWidget(w, static_cast<int>(i) + 1, column++);
            w->show();
            seat_widgets_.push_back(w);
        }
    }
    std::swap(fill_, fill_seats_);
}

void BoatPage::refresh() {
    filling_ = true;
    const auto &boats = context_.session.boats;
    which_->clear();
    for (const auto &b : boats.all())
        which_->addItem(QString::fromStdString(b.name));
    which_->setCurrentIndex(static_cast<int>(boats.current()));
    buildSeats();
    for (const auto &fill : fill_)
        fill();
    for (const auto &fill : fill_seats_)
        fill();
    filling_ = false;
}

} // namespace heron::app
