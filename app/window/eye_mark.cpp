#include "window/eye_mark.hpp"

#include "around/cast.hpp"
#include "files/identifier.hpp"
#include "kit/glyphs.hpp"
#include "kit/kind_words.hpp"
#include "kit/theme.hpp"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

// How well a direction and a distance are told by eye over water (common practice, no published source).
constexpr double direction_sd_deg = 5, distance_sd_share = 0.15, least_sd_m = 1.5;
constexpr double fine_m = 6; // within so much the scale is even, beyond it narrows
constexpr int key_high = 60;

} // namespace

EyeMark::EyeMark(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    hide();
    const std::tuple<Family, const char *, QString, QString, QKeySequence> families[] = {
        {Family::fish, "eyeFish", QStringLiteral("family-fish"), tr("Fish"), Qt::Key_Z},
        {Family::structure, "eyeStructure", QStringLiteral("family-structure"), tr("Structure"), Qt::Key_X},
        {Family::bottom, "eyeBottom", QStringLiteral("family-bottom"), tr("Bottom"), Qt::Key_C},
        {Family::hazard, "eyeHazard", QStringLiteral("family-hazard"), tr("Hazard"), Qt::Key_V}};
    for (const auto &[family, name, glyph, word, letter] : families) {
        auto *key = new KeyButton(glyph, word, letter, tr("Keep it as a mark seen by eye"), this);
        key->setObjectName(QString::fromLatin1(name));
        connect(key, &KeyButton::clicked, this, [this, f = family] { keep(f); });
        keys_.push_back(key);
    }
    close_ = new KeyButton(QString(), tr("Close"), QKeySequence(), tr("Mark nothing (Escape)"), this);
    close_->setObjectName(QStringLiteral("eyeClose"));
    connect(close_, &KeyButton::clicked, this, &EyeMark::end);
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

std::optional<EyeMark::Fix> EyeMark::fix() const {
    for (const auto *shown : {&context_.session.shown, &context_.session.around}) {
        if (shown->empty())
            continue;
        const auto time = shown->scan().facts(shown->newest()).time;
        if (const auto f = shown->scan().nav.fix_at(time))
            return Fix{f->pose.antenna, f->pose.heading_deg, time, f->pose.position_sd_m};
    }
    return std::nullopt;
}

void EyeMark::ask(const QRect &room) {
    if (isVisible()) {
        end();
        return;
    }
    if (!fix()) {
        context_.session.notices.say(
            QStringLiteral("mark"),
            tr("A mark by eye needs the boat's position and heading, and one of them is not known."));
        return;
    }
    setGeometry(room);
    show();
    raise();
    setFocus(); // what had it takes no keys now
}

void EyeMark::end() {
    hide();
}

void EyeMark::showEvent(QShowEvent *) {
    emit shownChanged();
}

void EyeMark::hideEvent(QHideEvent *) {
    emit shownChanged();
}

double EyeMark::radius() const {
    return std::max(60.0, std::min(width() - 40.0, height() - key_high - 120.0) / 2);
}

QPointF EyeMark::middle() const {
    return {width() / 2.0, 72 + radius()};
}

QPointF EyeMark::positionOf(const Guess &g) const {
    const double r = radius() * std::log1p(g.distance_m / fine_m) / std::log1p(farthest_m / fine_m),
                 a = g.off_bow_deg / degrees_per_radian;
    return middle() + r * QPointF(std::sin(a), -std::cos(a));
}

EyeMark::Guess EyeMark::guessAt(QPointF position) const {
    const auto way = position - middle();
    const double share = std::min(1.0, std::hypot(way.x(), way.y()) / radius());
    return {std::atan2(way.x(), -way.y()) * degrees_per_radian,
            std::clamp(fine_m * std::expm1(share * std::log1p(farthest_m / fine_m)), 1.0, farthest_m)};
}

bool EyeMark::keep(Family family) {
    const auto f = fix();
    if (!f) {
        context_.session.notices.say(QStringLiteral("mark"),
                                     tr("The boat's position or heading was lost: nothing was kept."));
        return false;
    }
    const double bearing = wrap_360(f->heading_deg + guess_.off_bow_deg), b = bearing / degrees_per_radian;
    Mark m;
    m.id = new_identifier();
    m.family = family;
    if (family == Family::hazard)
        m.level = Level::anyone;
    m.confirmed = Confirmed::eye;
    m.time = f->time;
    m.ground_m = guess_.distance_m;
    m.place =
        LocalPlane(f->boat).to_globe({guess_.distance_m * std::sin(b), guess_.distance_m * std::cos(b)});
    m.seen_from_deg = wrap_360(bearing + 180);
    const double along = std::hypot(f->sd_m, std::max(least_sd_m, distance_sd_share * guess_.distance_m)),
                 aside = std::hypot(f->sd_m, guess_.distance_m * direction_sd_deg / degrees_per_radian);
    const double s = std::sin(b), c = std::cos(b);
    m.place_covariance = {along * along * s * s + aside * aside * c * c,
                          (along * along - aside * aside) * s * c,
                          along * along * c * c + aside * aside * s * s};
    m.place_remark = tr("by eye, from the boat").toStdString();
    m.source = context_.session.sources.name().toStdString();
    if (!context_.marks.add(m))
        return false;
    context_.window.selectMark(QString::fromStdString(m.id));
    const auto units = context_.session.preferences.units();
    context_.session.notices.say(
        QStringLiteral("mark"),
        tr("%1 marked by eye and saved: %2, %3 o'clock, ± %4.")
            .arg(capital(wordFor(family)),
                 QString::fromStdString(print_length(guess_.distance_m, units, 0).text()),
                 QString::fromStdString(OffBow{guess_.off_bow_deg}.clock()),
                 QString::fromStdString(print_length(m.place_covariance.radial_sd_m(), units, 0).text())));
    end();
    return true;
}

void EyeMark::mousePressEvent(QMouseEvent *event) {
    guess_ = guessAt(event->position());
    update();
}

void EyeMark::mouseMoveEvent(QMouseEvent *event) {
    if (event->buttons() & Qt::LeftButton) {
        guess_ = guessAt(event->position());
        update();
    }
}

void EyeMark::keyPressEvent(QKeyEvent *event) {
    constexpr double turn_deg = 5, farther = 1.1;
    switch (event->key()) {
    case Qt::Key_Left:
        guess_.off_bow_deg = wrap_180(guess_.off_bow_deg - turn_deg);
        break;
    case Qt::Key_Right:
        guess_.off_bow_deg = wrap_180(guess_.off_bow_deg + turn_deg);
        break;
    case Qt::Key_Up:
        guess_.distance_m = std::min(farthest_m, guess_.distance_m * farther);
        break;
    case Qt::Key_Down:
        guess_.distance_m = std::max(1.0, guess_.distance_m / farther);
        break;
    case Qt::Key_Escape:
        end();
        return;
    default:
        QWidget::keyPressEvent(event);
        return;
    }
    update();
}

void EyeMark::resizeEvent(QResizeEvent *) {
    const int n = static_cast<int>(keys_.size()) + 1, gap = 8, wide = std::min(width() - 40, 760),
              each = (wide - (n - 1) * gap) / n;
    int x = (width() - wide) / 2;
    for (auto *k : keys_) {
        k->setGeometry(x, height() - key_high - 14, each, key_high);
        x += each + gap;
    }
    close_->setGeometry(x, height() - key_high - 14, each, key_high);
}

// The boat's bow is up; rings stand at round distances, the nearer the finer.
void EyeMark::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), colour("page"));
    const auto write = wordsOn(p);
    const auto units = context_.session.preferences.units();
    const auto length = [&](double m) { return QString::fromStdString(print_length(m, units, 0).text()); };
    write(24, 34, tr("Mark by eye"), 24, true, "ink");
    write(24, 58, tr("Press where it stands off the bow and about how far; then say what it is."), 14, false,
          "ink2");
    const auto m = middle();
    p.setPen(QPen(colour("ink"), 1.5));
    p.setBrush(colour("water"));
    p.drawEllipse(m, radius(), radius());
    p.setBrush(Qt::NoBrush);
    const bool feet = units == UnitSystem::feet;
    for (const double at :
         feet ? std::vector<double>{15, 30, 60, 120, 240} : std::vector<double>{5, 10, 20, 40, 80}) {
        const double metres = feet ? metres_from_feet(at) : at;
        const double r = m.y() - positionOf({0, metres}).y();
        p.setPen(QPen(colour("line"), 1));
        p.drawEllipse(m, r, r);
        write(m.x() + 5, m.y() - r - 3, length(metres), 13, true, "ink2");
    }
    for (int h = 0; h < 12; ++h) {
        const auto at = positionOf({h * 30.0, farthest_m});
        const auto way = (at - m) / radius();
        p.setPen(QPen(colour("ink"), h % 3 == 0 ? 2.5 : 1.2));
        p.drawLine(at - 8 * way, at);
        p.setFont(Theme::instance().font(14, h % 3 == 0));
        const auto words = QString::number(h == 0 ? 12 : h);
        const auto room = p.fontMetrics().boundingRect(words);
        p.setPen(colour("ink"));
        p.drawText(at - 22 * way + QPointF(-room.width() / 2.0, room.height() / 2.0 - 4), words);
    }
    QPainterPath boat(m + QPointF(0, -16));
    boat.quadTo(m + QPointF(9, -4), m + QPointF(7, 14));
    boat.lineTo(m + QPointF(-7, 14));
    boat.quadTo(m + QPointF(-9, -4), m + QPointF(0, -16));
    p.fillPath(boat, colour("ink"));
    const auto at = positionOf(guess_);
    p.setPen(QPen(colour("accent"), 2.5));
    p.drawLine(m, at);
    p.setBrush(colour("accent"));
    p.drawEllipse(at, 8, 8);
    const auto words =
        tr("%1, %2 o'clock")
            .arg(length(guess_.distance_m), QString::fromStdString(OffBow{guess_.off_bow_deg}.clock()));
    p.setFont(Theme::instance().font(26, true));
    const double wide = p.fontMetrics().horizontalAdvance(words);
    write(width() - 24 - wide, 40, words, 26, true, "ink");
}

} // namespace heron::app
