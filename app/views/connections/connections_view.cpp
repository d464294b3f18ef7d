#include "views/connections/connections_view.hpp"

#include "ingest/host_clock.hpp"
#include "kit/key_button.hpp"
#include "kit/theme.hpp"
#include "tuning/tuner.hpp"

#include <QMouseEvent>
#include <QPainter>
#include <cmath>

namespace heron::app {
namespace {

constexpr int top = 96, line = 64, left = 32;

} // namespace

ConnectionsView::ConnectionsView(ViewContext &context, QWidget *parent)
    : QWidget(parent), context_(context), tuner_(context.tuner) {
    setFocusPolicy(Qt::StrongFocus);
    kind_ = new QComboBox(this);
    kind_->addItem(tr("NMEA 0183"), static_cast<int>(SourceConfig::Kind::nmea));
    kind_->addItem(tr("Sounder"), static_cast<int>(SourceConfig::Kind::sounder));
    kind_->setObjectName(QStringLiteral("sourceKind"));
    way_ = new QComboBox(this);
    way_->addItem(tr("TCP"), static_cast<int>(SourceConfig::Way::tcp));
    way_->addItem(tr("UDP"), static_cast<int>(SourceConfig::Way::udp));
    way_->addItem(tr("Serial"), static_cast<int>(SourceConfig::Way::serial));
    way_->setObjectName(QStringLiteral("sourceWay"));
    address_ = new QLineEdit(this);
    address_->setObjectName(QStringLiteral("sourceAddress"));
    address_->setPlaceholderText(tr("127.0.0.1:10110, or /dev/ttyUSB0@4800"));
    add_ = new KeyButton(QString(), tr("Add"), QKeySequence(), tr("Listen to this source too"), this);
    add_->setObjectName(QStringLiteral("addSource"));
    remove_ = new KeyButton(QString(), tr("Take away"), Qt::Key_Delete, tr("Listen to it no more"), this);
    remove_->setObjectName(QStringLiteral("removeSource"));
    check_left_ =
        new KeyButton(QString(), tr("Bank is left"), QKeySequence(),
                      tr("Check the installation: pass a dock or bank on the left for a minute"), this);
    check_left_->setObjectName(QStringLiteral("checkLeft"));
    check_right_ =
        new KeyButton(QString(), tr("Bank is right"), QKeySequence(),
                      tr("Check the installation: pass a dock or bank on the right for a minute"), this);
    check_right_->setObjectName(QStringLiteral("checkRight"));
    connect(add_, &KeyButton::clicked, this, &ConnectionsView::add);
    connect(address_, &QLineEdit::returnPressed, this, &ConnectionsView::add);
    connect(remove_, &KeyButton::clicked, this, &ConnectionsView::removeSelected);
    connect(check_left_, &KeyButton::clicked, this, [this] { tuner_.beginInstallationCheck(Side::port); });
    connect(check_right_, &KeyButton::clicked, this,
            [this] { tuner_.beginInstallationCheck(Side::starboard); });
    connect(&context_.session.connections, &Connections::changed, this, [this] {
        selected_ = std::clamp(selected_, 0,
                               std::max(0, static_cast<int>(context_.session.connections.all().size()) - 1));
        update();
    });
    connect(&tuner_, &Tuner::checkChanged, this, qOverload<>(&QWidget::update));
    const auto dress = [this] {
        setStyleSheet(
            QStringLiteral(
                "QLineEdit, QComboBox { background: %1; color: %2; border: 1px solid %3; border-radius: "
                "3px; padding: 6px; font-family: Heron; font-size: 15px; }"
                "QComboBox::drop-down { border: none; width: 32px; } QComboBox::down-arrow { image: "
                "url(:/glyphs/down.svg); width: 20px; height: 20px; }"
                "QComboBox QAbstractItemView { background: %1; color: %2; font-size: 15px; }")
                .arg(colour("lift").name(), colour("ink").name(), colour("line").name()));
        update();
    };
    connect(&Theme::instance(), &Theme::changed, this, dress);
    dress();
}

void ConnectionsView::resizeEvent(QResizeEvent *) {
    const int y = height() - 210;
    kind_->setGeometry(left, y, 150, 44);
    way_->setGeometry(left + 162, y, 110, 44);
    address_->setGeometry(left + 284, y, 320, 44);
    add_->setGeometry(left + 616, y, 110, 48);
    remove_->setGeometry(left + 738, y, 170, 48);
    check_left_->setGeometry(left, height() - 78, 170, 48);
    check_right_->setGeometry(left + 182, height() - 78, 170, 48);
}

void ConnectionsView::add() {
    SourceConfig c;
    c.kind = static_cast<SourceConfig::Kind>(kind_->currentData().toInt());
    c.way = static_cast<SourceConfig::Way>(way_->currentData().toInt());
    c.address = address_->text().trimmed();
    const auto good = SourceConfig::from(c.text());
    if (!good) {
        refusal_ = c.kind == SourceConfig::Kind::sounder && c.way != SourceConfig::Way::tcp
                       ? tr("A sounder is reached over TCP: it takes settings back.")
                   : c.way == SourceConfig::Way::serial
                       ? tr("A serial device is named like /dev/ttyUSB0, or /dev/ttyUSB0@38400.")
                       : tr("An address is host:port, such as 127.0.0.1:10110.");
        update();
        return;
    }
    refusal_.clear();
    std::vector<SourceConfig> all;
    for (const auto &s : context_.session.connections.all())
        all.push_back(s.config);
    all.push_back(*good);
    address_->clear();
    context_.session.chooseSources(all);
}

void ConnectionsView::removeSelected() {
    std::vector<SourceConfig> all;
    int i = 0;
    for (const auto &s : context_.session.connections.all())
        if (i++ != selected_)
            all.push_back(s.config);
    context_.session.chooseSources(all);
}

void ConnectionsView::mousePressEvent(QMouseEvent *event) {
    const int i = (static_cast<int>(event->position().y()) - top) / line;
    if (event->position().y() >= top && i < static_cast<int>(context_.session.connections.all().size())) {
        selected_ = i;
        update();
    }
    setFocus();
}

QString ConnectionsView::delivers(const ConnectionStatus &c) const {
    if (c.config.kind == SourceConfig::Kind::sounder) {
        const auto n = c.delivered.find("ping");
        return n == c.delivered.end() ? tr("nothing yet") : tr("%1 pings").arg(n->second);
    }
    QStringList things;
    const auto has = [&](std::initializer_list<const char *> types) {
        for (const char *t : types)
            if (c.delivered.contains(t))
                return true;
        return false;
    };
    if (has({"GGA", "RMC"}))
        things << tr("position");
    if (has({"HDT", "HDG", "HDM"}))
        things << tr("heading");
    if (has({"VTG", "RMC"}))
        things << tr("speed");
    if (has({"DPT", "DBT"}))
        things << tr("depth");
    if (has({"MTW"}))
        things << tr("temperature");
    if (c.damaged > 0)
        things << tr("%1 sentences damaged").arg(c.damaged);
    return things.isEmpty() ? tr("nothing yet") : things.join(QStringLiteral(" · "));
}

QString ConnectionsView::stateOf(const ConnectionStatus &c) const {
    switch (c.state) {
    case LinkState::Is::connecting:
        return tr("looking for it");
    case LinkState::Is::open:
        break;
    case LinkState::Is::silent:
        return tr("silent");
    case LinkState::Is::spare:
        return tr("connected, not mixed in: another of its kind is sounding");
    case LinkState::Is::lost:
        return c.detail.isEmpty() ? tr("lost, tried again") : tr("lost: %1").arg(c.detail);
    }
    if (c.last_heard == 0)
        return tr("open, nothing heard");
    const double age = seconds_between(c.last_heard, host_now());
    return tr("last heard %1 s ago").arg(QString::fromStdString(print_number(std::max(0.0, age), 1)));
}

QStringList ConnectionsView::lines() const {
    QStringList all;
    for (const auto &c : context_.session.connections.all())
        all << c.config.text() + QStringLiteral(" · ") + stateOf(c) + QStringLiteral(" · ") + delivers(c);
    return all;
}

void ConnectionsView::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    const auto text = wordsOn(p);
    text(left, 44, tr("Connections"), 24, true, "ink");
    text(left, 76,
         context_.session.connections.all().empty()
             ? tr("Nothing is connected. Add a sounder and a receiver below.")
             : tr("What each source delivers, and how old its last word is"),
         14, false, "ink2");
    int y = top, i = 0;
    for (const auto &c : context_.session.connections.all()) {
        const bool good = c.state == LinkState::Is::open;
        if (i++ == selected_) {
            p.fillRect(QRect(left - 12, y, width() - 2 * left + 24, line - 2), colour("sunk"));
            p.fillRect(QRect(left - 12, y, 4, line - 2), colour("accent"));
        }
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(colour(good ? "reed" : "accent"), 2));
        p.setBrush(good ? QBrush(colour("reed")) : QBrush(Qt::NoBrush));
        p.drawEllipse(QPointF(left + 6, y + 22), 5, 5);
        text(left + 22, y + 27,
             c.config.kind == SourceConfig::Kind::sounder ? tr("Sounder") : tr("NMEA 0183"), 17, true, "ink");
        const auto way = c.config.way == SourceConfig::Way::tcp   ? tr("TCP")
                         : c.config.way == SourceConfig::Way::udp ? tr("UDP")
                                                                  : tr("serial");
        text(left + 150, y + 27, way, 14, false, "ink2");
        text(left + 210, y + 27, c.config.address, 15, false, "ink");
        text(left + 500, y + 27, stateOf(c), 15, !good, good ? "ink" : "accent");
        text(left + 22, y + 50, delivers(c), 14, false, "ink2");
        p.setPen(QPen(colour("hair"), 1));
        p.drawLine(left, y + line - 2, width() - left, y + line - 2);
        y += line;
    }
    y += 28;
    if (const auto d = context_.session.connections.clockDifference()) {
        text(left, y, tr("Clocks"), 15, true, "ink");
        text(left + 150, y,
             std::fabs(*d) < 0.4 ? tr("pings and positions agree within %1 s")
                                       .arg(QString::fromStdString(print_number(std::fabs(*d) + 0.05, 1)))
                                 : tr("the sounder's clock is off by %1 s from the receiver's; pings are "
                                      "placed by the receiver's")
                                       .arg(QString::fromStdString(print_number(*d, 1))),
             15, false, "ink");
        y += 28;
    }
    const auto warn = [&](const QString &head, const QString &words) {
        text(left, y, head, 15, true, "accent");
        text(left + 150, y, words, 15, false, "ink");
        y += 28;
    };
    if (context_.session.sources.source() == Sources::Source::sounder && !context_.session.shown.empty()) {
        const auto time = context_.session.shown.scan().facts(context_.session.shown.newest()).time;
        if (context_.session.connections.positionState() != NavGuard::State::fine ||
            !context_.session.shown.scan().nav.position_at(time))
            warn(tr("No position"), tr("things are measured, but marks have no place"));
        if (context_.session.connections.headingState() != NavGuard::State::fine ||
            !context_.session.shown.scan().nav.attitude_at(time))
            warn(tr("No heading"), tr("the course serves where the boat runs straight, with a wider error"));
    }
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(left, height() - 240, width() - left, height() - 240);
    text(left, height() - 218, tr("Add a source"), 13, false, "ink2");
    if (!refusal_.isEmpty())
        text(left, height() - 142, refusal_, 14, true, "accent");
    p.drawLine(left, height() - 124, width() - left, height() - 124);
    text(left, height() - 98,
         tr("Check the installation: pass a dock or bank on a known side, straight, for a minute"), 13, false,
         "ink2");
    if (const auto &check = tuner_.installationCheck())
        text(left + 372, height() - 48,
             check->enough() ? QString::fromStdString(check->verdict().say())
                             : tr("%1 s of 45 …").arg(std::lround(check->seconds())),
             15, true, "ink");
}

} // namespace heron::app
