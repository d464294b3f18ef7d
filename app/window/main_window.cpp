#include "window/main_window.hpp"

#include "kit/theme.hpp"
#include "parts/empty_view.hpp"
#include "parts/mark_files.hpp"
#include "parts/open_file.hpp"
#include "parts/picture_view.hpp"
#include "views/handbook/handbook_view.hpp"
#include "window/eye_mark.hpp"
#include "window/field_keys.hpp"
#include "window/keys_pointer.hpp"
#include "window/notice_bar.hpp"
#include "window/status_line.hpp"
#include "window/way_bar.hpp"

#include <QApplication>
#include <QMenu>
#include <QScreen>
#include <QShortcut>

namespace heron::app {

MainWindow::MainWindow(Program &program, const Places &places, QWidget *parent)
    : QWidget(parent), program_(program),
      state_(program.session.shown), context_{program.session,   program.marks,
                                              program.share,     program.reader,
                                              program.tuner,     program.planner,
                                              program.bow,       program.head_watch,
                                              program.chart,     program.spots,
                                              program.backdrops, program.way,
                                              program.speaker,   state_} {
    setWindowTitle(tr("Young Heron"));
    setMinimumSize(1024, 680);
    resize(QSize(1280, 800).boundedTo(screen()->availableSize()).expandedTo(minimumSize()));
    program_.tuner.attend(state_);
    program_.hazards.setBell([] { QApplication::beep(); });
    rail_ = new PlaceRail(places, this);
    status_ = new StatusLine(program_.session, this);
    notice_ = new NoticeBar(program_.session.notices, this);
    way_ = new WayBar(program_.way, program_.session.boats, this);
    eye_ = new EyeMark(context_, this);
    connect(eye_, &EyeMark::shownChanged, this, [this] {
        stack_->setEnabled(!covered() && !eye_->isVisible());
        if (!eye_->isVisible() && stack_->currentWidget() != nullptr)
            stack_->currentWidget()->setFocus();
    });
    stack_ = new QStackedWidget(this);
    for (const auto &p : places) {
        auto *view = p.make(context_, this);
        views_[p.id] = view;
        stack_->addWidget(view);
        connect(new QShortcut(p.key, this), &QShortcut::activated, this, [this, id = p.id] { go(id); });
    }
    const auto shortcut = [this](const QKeySequence &keys, auto act) {
        connect(new QShortcut(keys, this), &QShortcut::activated, this, act);
    };
    auto &preferences = program_.session.preferences;
    connect(new FieldKeys(this), &FieldKeys::left, this, [this] {
        if (stack_->currentWidget() != nullptr)
            stack_->currentWidget()->setFocus();
    });
    // How it is used is said once.
    connect(
        new KeysPointer(this), &KeysPointer::appeared, this,
        [this] {
            program_.session.notices.say(QStringLiteral("cross"),
                                         tr("Ctrl+Enter presses, Ctrl+Shift+Enter takes hold and lets go, "
                                            "Escape puts the cross away."));
        },
        Qt::SingleShotConnection);
    shortcut(Qt::Key_O, [this] { askFile(); });
    shortcut(Qt::Key_0, [this] { askFile(); }); // the letter looks like the digit that follows the places'
    shortcut(Qt::Key_N, [&preferences] { preferences.nextUnits(); });
    shortcut(Qt::Key_T, [] { Theme::instance().nextLight(); });
    // One key each, in every place: whoever fell in, the mark in hand, the place pointed at, the way back,
    // the end of a way.
    shortcut(Qt::Key_F8, [this] { program_.way.manOverboard(); });
    shortcut(Qt::Key_F2, [this] {
        if (!program_.way.goToMark(state_.selectedMark()))
            program_.session.notices.say(QStringLiteral("way"), tr("Choose a mark with a place first."));
    });
    shortcut(Qt::Key_F3, [this] { goToPointed(); });
    shortcut(Qt::Key_F7, [this] {
        if (!program_.way.goBack())
            program_.session.notices.say(QStringLiteral("way"),
                                         tr("There is no track to go back along yet."));
    });
    shortcut(Qt::Key_F4, [&preferences] { preferences.setInCompany(!preferences.inCompany()); });
    connect(&preferences, &Preferences::companyChanged, this, &MainWindow::cover);
    shortcut(Qt::Key_F5, [this] { eye_->ask(stack_->geometry()); });
    shortcut(Qt::Key_F1, [this] { openHandbook(); });
    shortcut(Qt::Key_F9, [this] { program_.way.end(); });
    connect(way_, &WayBar::shownChanged, this, &MainWindow::layOut);
    connect(rail_, &PlaceRail::placeChosen, this, &MainWindow::go);
    connect(rail_, &PlaceRail::fileAsked, this, &MainWindow::askFile);
    connect(rail_, &PlaceRail::unitsAsked, &preferences, &Preferences::nextUnits);
    connect(rail_, &PlaceRail::overboardAsked, &program_.way, &Way::manOverboard);
    connect(rail_, &PlaceRail::lightAsked, this, [] { Theme::instance().nextLight(); });
    connect(notice_, &NoticeBar::shownChanged, this, &MainWindow::layOut);
    connect(&state_, &WindowState::placeAsked, this, &MainWindow::go);
    connect(&state_, &WindowState::rowAsked, this, [this] { go(place::scan); });
    connect(&state_, &WindowState::readAsked, this, [this] { go(place::read); });
    if (auto *picture = stack_->findChild<PictureView *>())
        connect(picture, &PictureView::frozenChanged, this,
                [this, picture] { status_->setFrozen(picture->frozen()); });
    const auto label = [this, &preferences] {
        rail_->setUnitsLabel(preferences.units() == UnitSystem::feet ? tr("feet") : tr("metres"));
    };
    connect(&preferences, &Preferences::unitsChanged, this, label);
    label();
    connect(&Theme::instance(), &Theme::changed, this, &MainWindow::dress);
    dress();
    go(place::scan);
}

// Before guests the places that tell where anything lies are covered.
void MainWindow::cover() {
    const bool tells = current_ == place::chart || current_ == place::marks || current_ == place::log ||
                       current_ == place::trips;
    const bool on = program_.session.preferences.inCompany() && tells;
    if (on && cover_ == nullptr)
        cover_ = new EmptyView(tr("Company"), tr("Guests look on: places, names and notes are hidden."),
                               tr("Press F4 when they are gone. Scan, Read and Around go on."), this);
    if (cover_ != nullptr) {
        cover_->setGeometry(stack_->geometry());
        cover_->setVisible(on);
        cover_->raise();
    }
    stack_->setEnabled(!on && !eye_->isVisible());
}

void MainWindow::goToPointed() {
    if (const auto &lit = state_.litPlace())
        program_.way.go(*lit, tr("The place you pointed at"));
    else
        program_.session.notices.say(QStringLiteral("way"),
                                     tr("Point at a place in Scan, Around or Chart first."));
}

// The whole program is dressed, so that menus and dialogs are dark at night too.
void MainWindow::dress() {
    QPalette colours(colour("lift"), colour("page"));
    const std::pair<QPalette::ColorRole, const char *> roles[] = {
        {QPalette::Window, "page"},      {QPalette::WindowText, "ink"},
        {QPalette::Base, "page"},        {QPalette::Text, "ink"},
        {QPalette::Button, "lift"},      {QPalette::ButtonText, "ink"},
        {QPalette::Highlight, "reed"},   {QPalette::HighlightedText, "onaccent"},
        {QPalette::ToolTipBase, "lift"}, {QPalette::ToolTipText, "ink"},
        {QPalette::Link, "reed"},        {QPalette::PlaceholderText, "ink2"}};
    for (const auto &[role, ink] : roles)
        colours.setColor(role, colour(ink));
    for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText})
        colours.setColor(QPalette::Disabled, role, colour("mute"));
    QApplication::setPalette(colours);
    QApplication::setFont(Theme::instance().font(14));
    setPalette(colours);
    setFont(Theme::instance().font(14));
    const auto menus =
        QStringLiteral(
            "QMenu { font-family: Heron; font-size: 15px; background: %1; color: %2; border: 1px solid %3; }"
            "QMenu::item { padding: 12px 24px; }"
            "QMenu::item:selected { background: %4; color: %5; }"
            "QMenu::item:disabled { color: %6; }")
            .arg(colour("lift").name(), colour("ink").name(), colour("line").name(), colour("keyon").name(),
                 colour("keyontx").name(), colour("mute").name());
    // Where files are chosen gloves aim too.
    const auto files = QStringLiteral(
        "QFileDialog { min-width: 840px; min-height: 560px; }"
        "QFileDialog QListView::item, QFileDialog QTreeView::item { min-height: 44px; }"
        "QFileDialog QPushButton, QFileDialog QLineEdit, QFileDialog QComboBox { min-height: 40px; }"
        "QFileDialog QPushButton { min-width: 96px; }"
        "QFileDialog QToolButton { min-width: 40px; min-height: 40px; }");
    setStyleSheet(Theme::instance().scrollBarStyle() + menus + files);
    update();
}

void MainWindow::resizeEvent(QResizeEvent *) {
    layOut();
}

void MainWindow::layOut() {
    const int left = rail_->width(), wide = width() - left;
    const int fault = notice_->isVisibleTo(this) ? NoticeBar::high : 0;
    rail_->setGeometry(0, 0, left, height());
    status_->setGeometry(left, 0, wide, StatusLine::high);
    notice_->setGeometry(left, StatusLine::high, wide, NoticeBar::high);
    const int way = way_->isVisibleTo(this) ? WayBar::high : 0;
    way_->setGeometry(left, StatusLine::high + fault, wide, WayBar::high);
    const int top = StatusLine::high + fault + way;
    stack_->setGeometry(left, top, wide, height() - top);
    if (cover_ != nullptr)
        cover_->setGeometry(stack_->geometry());
    eye_->setGeometry(stack_->geometry());
}

void MainWindow::go(const QString &id) {
    const auto view = views_.find(id);
    if (view == views_.end())
        return;
    eye_->end();
    current_ = id;
    stack_->setCurrentWidget(view->second);
    cover();
    rail_->setCurrent(id);
    view->second->setFocus();
}

void MainWindow::openHandbook() {
    auto &book = view<HandbookView>();
    if (current_ != place::handbook)
        book.openFor(current_);
    go(place::handbook);
}

void MainWindow::askFile() {
    auto &session = program_.session;
    QMenu menu(this);
    menu.setObjectName(QStringLiteral("fileMenu"));
    const auto add = [&menu](const QString &text, bool enabled, auto act) {
        auto *action = menu.addAction(text);
        action->setEnabled(enabled);
        QObject::connect(action, &QAction::triggered, &menu, act);
    };
    add(tr("Open a recording or a trip …"), true, [this] { askToOpen(context_, this); });
    add(tr("Read a unit's screen: picture or film"), true, [this] { go(place::screen); });
    add(tr("Trips that were kept"), true, [this] { go(place::trips); });
    add(tr("Back to the sounder"), session.connections.hasSounder() && !session.sources.live(),
        [&session] { session.sources.backToSounder(); });
    add(tr("Begin a new trip"), session.trip.keeping(), [&session] { session.sources.beginNewTrip(); });
    add(tr("Connections"), true, [this] { go(place::connections); });
    add(tr("Mark by eye (F5)"), true, [this] { eye_->ask(stack_->geometry()); });
    add(tr("Handbook (F1)"), true, [this] { openHandbook(); });
    add(tr("Import marks …"), true, [this] { askToImportMarks(context_, this); });
    add(tr("Export marks …"), true, [this] { askToExportMarks(context_, this); });
    menu.exec(rail_->mapToGlobal(QPoint(rail_->width(), rail_->height() - 440)));
}

} // namespace heron::app
