#include "views/connections/connections_view.hpp"

#include "kit/item_list.hpp"
#include "kit/key_button.hpp"
#include "kit/kind_words.hpp"
#include "kit/paper.hpp"
#include "parts/place.hpp"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QVBoxLayout>
#include <cmath>

namespace heron::app {
namespace {

QString number(double v, int decimals) {
    return QString::fromStdString(print_number(v, decimals));
}

} // namespace

ConnectionsView::ConnectionsView(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    setFocusPolicy(Qt::StrongFocus);
    dressPage(this);
    auto *page = new QVBoxLayout(this);
    page->setContentsMargins(32, 16, 32, 12);
    page->setSpacing(8);
    buildSources(*page);
    page->addWidget(paperRule(this));
    buildCheck(*page);
    page->addWidget(paperRule(this));
    buildSpeech(*page);
    connect(&context_.session.connections, &Connections::changed, this, &ConnectionsView::refresh);
    connect(&context_.tuner, &Tuner::checkChanged, this, &ConnectionsView::refresh);
    connect(&context_.session.preferences, &Preferences::speechChanged, this,
            &ConnectionsView::refreshSpeech);
    refresh();
    refreshSpeech();
}

KeyButton *ConnectionsView::addKey(const char *name, const QString &text, const QString &tip,
                                   const QKeySequence &letter) {
    auto *key = new KeyButton(QString(), text, letter, tip, this);
    key->setObjectName(QString::fromLatin1(name));
    key->setFixedHeight(48);
    return key;
}

void ConnectionsView::buildSources(QVBoxLayout &page) {
    page.addWidget(new PaperLabel(tr("Connections"), 24, true, Ink::plain, this));
    page.addWidget(head_ = new PaperLabel(QString(), 14, false, Ink::quiet, this));
    model_ = new ConnectionList(context_.session.connections, this);
    list_ = new ItemList(ItemList::Shape::row, {}, this);
    list_->setObjectName(QStringLiteral("connections"));
    list_->setAccessibleName(tr("Connections"));
    list_->setItems(model_);
    page.addWidget(list_, 1);
    page.addWidget(clocks_ = new PaperLabel(QString(), 15, false, Ink::plain, this));
    page.addWidget(missing_ = new PaperLabel(QString(), 15, false, Ink::alarm, this));
    page.addWidget(refusal_ = new PaperLabel(QString(), 14, true, Ink::alarm, this));
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
    address_->setPlaceholderText(
        tr("%1 or %2").arg(QStringLiteral("127.0.0.1:10110"), QStringLiteral("/dev/ttyUSB0@4800")));
    add_ = addKey("addSource", tr("Add"), tr("Listen to this source too"));
    remove_ = addKey("removeSource", tr("Take away"), tr("Listen to it no more"), Qt::Key_Delete);
    auto *row = new QHBoxLayout;
    row->setSpacing(12);
    for (QWidget *w : std::initializer_list<QWidget *>{kind_, way_, address_})
        w->setMinimumHeight(44);
    row->addWidget(kind_);
    row->addWidget(way_);
    row->addWidget(address_, 1);
    row->addWidget(add_);
    row->addWidget(remove_);
    page.addLayout(row);
    connect(add_, &KeyButton::clicked, this, &ConnectionsView::add);
    connect(address_, &QLineEdit::returnPressed, this, &ConnectionsView::add);
    connect(remove_, &KeyButton::clicked, this, &ConnectionsView::removeSelected);
}

void ConnectionsView::buildCheck(QVBoxLayout &page) {
    page.addWidget(new PaperLabel(
        tr("Check the installation: pass a dock or bank on a known side, straight, for a minute"), 13, false,
        Ink::quiet, this));
    check_left_ = addKey("checkLeft", tr("Bank is left"), tr("A dock or bank is passed on the left"));
    check_right_ = addKey("checkRight", tr("Bank is right"), tr("A dock or bank is passed on the right"));
    check_ = new PaperLabel(QString(), 15, true, Ink::plain, this);
    auto *row = new QHBoxLayout;
    row->setSpacing(12);
    row->addWidget(check_left_);
    row->addWidget(check_right_);
    row->addWidget(check_, 1);
    page.addLayout(row);
    connect(check_left_, &KeyButton::clicked, this,
            [this] { context_.tuner.beginInstallationCheck(Side::port); });
    connect(check_right_, &KeyButton::clicked, this,
            [this] { context_.tuner.beginInstallationCheck(Side::starboard); });
}

// Hazards, steering and a lost position are always told; which contacts are, is a matter of the day.
void ConnectionsView::buildSpeech(QVBoxLayout &page) {
    page.addWidget(
        new PaperLabel(tr("Spoken words: hazards ahead, steering, a lost position; and contacts of these "
                          "kinds"),
                       13, false, Ink::quiet, this));
    auto *grid = new QGridLayout;
    grid->setSpacing(4);
    speak_ = addKey("speak", tr("Speak"), tr("Say it aloud, or keep silent"), Qt::Key_V);
    speak_->setCheckable(true);
    connect(speak_, &KeyButton::clicked, &context_.session.preferences, &Preferences::setSpeaks);
    grid->addWidget(speak_, 0, 0, 2, 1);
    speak_->setFixedHeight(92);
    int at = 0;
    for (const auto kind : kinds_of(Family::unsure)) {
        const auto name = name_of(kind);
        const auto id = QString::fromUtf8(name.data(), static_cast<qsizetype>(name.size()));
        auto *key = addKey("", wordFor(kind),
                           tr("Say it when a contact of this kind is found: %1").arg(wordFor(kind)));
        key->setObjectName(QStringLiteral("speak_") + id);
        key->setCheckable(true);
        key->setFixedHeight(44);
        connect(key, &KeyButton::clicked, this,
                [this, id](bool on) { context_.session.preferences.setKindSpoken(id, on); });
        spoken_.emplace_back(id, key);
        grid->addWidget(key, at / 8, 1 + at % 8);
        ++at;
    }
    page.addLayout(grid);
}

void ConnectionsView::refreshSpeech() {
    const auto &preferences = context_.session.preferences;
    speak_->setChecked(preferences.speaks());
    for (const auto &[id, key] : spoken_)
        key->setChecked(preferences.spokenKinds().contains(id));
}

void ConnectionsView::add() {
    SourceConfig c;
    c.kind = static_cast<SourceConfig::Kind>(kind_->currentData().toInt());
    c.way = static_cast<SourceConfig::Way>(way_->currentData().toInt());
    c.address = address_->text().trimmed();
    const auto good = SourceConfig::from(c.text());
    refusal_->setText(good ? QString()
                      : c.kind == SourceConfig::Kind::sounder && c.way != SourceConfig::Way::tcp
                          ? tr("A sounder is reached over TCP: it takes settings back.")
                      : c.way == SourceConfig::Way::serial
                          ? tr("A serial device is named like /dev/ttyUSB0, or /dev/ttyUSB0@38400.")
                          : tr("An address is host:port, such as 127.0.0.1:10110."));
    refresh();
    if (!good)
        return;
    std::vector<SourceConfig> all;
    for (const auto &s : context_.session.connections.all())
        all.push_back(s.config);
    all.push_back(*good);
    address_->clear();
    context_.session.chooseSources(all);
}

void ConnectionsView::removeSelected() {
    auto gone = list_->currentId();
    if (gone.isEmpty())
        gone = model_->idAt(0);
    std::vector<SourceConfig> all;
    for (const auto &s : context_.session.connections.all())
        if (s.config.text() != gone)
            all.push_back(s.config);
    context_.session.chooseSources(all);
}

void ConnectionsView::refresh() {
    const auto &session = context_.session;
    const bool none = session.connections.all().empty();
    head_->setText(none ? tr("Nothing is connected. Add a sounder and a receiver below.")
                        : tr("What each source delivers, and how old its last word is"));
    remove_->setEnabled(!none);
    QString clocks;
    if (const auto d = session.connections.clockDifference())
        clocks =
            std::fabs(*d) < 0.4
                ? tr("Clocks: pings and positions agree within %1 s").arg(number(std::fabs(*d) + 0.05, 1))
                : tr("Clocks: the sounder's clock is off by %1 s from the receiver's; pings are placed by "
                     "the "
                     "receiver's")
                      .arg(number(*d, 1));
    clocks_->setText(clocks);
    QStringList missing;
    if (session.sources.live() && !session.shown.empty()) {
        const auto time = session.shown.scan().facts(session.shown.newest()).time;
        const auto &nav = session.shown.scan().nav;
        if (session.connections.positionState() != NavGuard::State::fine || !nav.position_at(time))
            missing << tr("No position: things are measured, but marks have no place.");
        if (session.connections.headingState() != NavGuard::State::fine || !nav.attitude_at(time))
            missing << tr("No heading: the course serves where the boat runs straight, with a wider error.");
    }
    missing_->setText(missing.join(QLatin1Char('\n')));
    for (auto *label : {clocks_, missing_, refusal_})
        label->setVisible(!label->text().isEmpty());
    const auto &check = context_.tuner.installationCheck();
    check_->setText(!check            ? QString()
                    : check->enough() ? QString::fromStdString(check->verdict().say())
                                      : tr("%1 s of 45 …").arg(std::lround(check->seconds())));
}

QStringList ConnectionsView::lines() const {
    QStringList all;
    for (const auto &c : context_.session.connections.all())
        all << c.config.text() + QStringLiteral(" · ") + ConnectionList::stateOf(c) + QStringLiteral(" · ") +
                   ConnectionList::delivers(c);
    return all;
}

} // namespace heron::app
