#include "window/main_window.hpp"

#include "session/awake.hpp"
#include "views/connections/connections_view.hpp"
#include "parts/empty_view.hpp"
#include "views/marks/marks_view.hpp"
#include "window/notice_bar.hpp"
#include "parts/pass_compare.hpp"
#include "views/prepare/prepare_view.hpp"
#include "views/read/read_view.hpp"
#include "parts/picture_view.hpp"
#include "views/scan/scan_view.hpp"
#include "kit/theme.hpp"
#include "views/trips/trips_view.hpp"

#include <QFileDialog>
#include <QMenu>
#include <QSettings>
#include <QShortcut>

namespace heron::app {

MainWindow::MainWindow(Survey &survey, Tuner &desk, QWidget *parent)
    : QWidget(parent), survey_(survey), desk_(desk) {
    setWindowTitle(tr("Young Heron"));
    resize(1280, 800);
    setMinimumSize(1024, 680);
    spine_ = new PlaceRail(this);
    notice_ = new NoticeBar(this);
    stack_ = new QStackedWidget(this);
    reading_ = new ContactReader(survey, this);
    looks_ = new PassPlanner(survey, desk, *reading_, this);
    for (int i = 0; i < place_count; ++i) {
        const auto place = static_cast<Place>(i);
        QWidget *view = nullptr;
        if (place == Place::scan)
            view = scan_ = new ScanView(survey, desk, *looks_, this);
        else if (place == Place::prepare)
            view = prepare_ = new PrepareView(survey, desk, this);
        else if (place == Place::read)
            view = read_ = new ReadView(survey, *reading_, *looks_, this);
        else if (place == Place::marks)
            view = marks_ = new MarksView(survey, this);
        else
            view = new EmptyView(place, this);
        stack_->addWidget(view);
        auto *key = new QShortcut(QKeySequence(Qt::Key_1 + i), this);
        connect(key, &QShortcut::activated, this, [this, place] { go(place); });
    }
    connections_ = new ConnectionsView(survey, desk, this);
    trips_ = new TripsView(survey, this);
    stack_->addWidget(connections_);
    stack_->addWidget(trips_);
    connect(connections_, &ConnectionsView::sourcesChosen, this, &MainWindow::sourcesChosen);
    connect(trips_, &TripsView::opened, this, [this] { go(Place::scan); });
    connect(prepare_, &PrepareView::taken, this, [this] { go(Place::scan); });
    connect(read_, &ReadView::showInScan, this, [this](std::size_t row) {
        go(Place::scan);
        scan_->picture().goTo(row + 60);
    });
    connect(read_, &ReadView::secondLookBegun, this, [this] { go(Place::scan); });
    // Both passes side by side as soon as the second is in the picture.
    connect(looks_, &PassPlanner::runDone, this, [this] {
        emit survey_.word(QStringLiteral("look"),
                          tr("The second look is in: Read shows what both passes say together."));
    });
    connect(scan_, &ScanView::readAsked, this, [this](const GeoPoint &place, std::size_t row) {
        go(Place::read);
        read_->takeNear(place);
        read_->passes().showAny(place, row);
    });
    connect(notice_, &NoticeBar::shapeChanged, this, &MainWindow::layOut);

    const auto shortcut = [this](const QKeySequence &keys, auto act) {
        connect(new QShortcut(keys, this), &QShortcut::activated, this, act);
    };
    shortcut(Qt::Key_O, [this] { askFile(); });
    shortcut(Qt::Key_I, [this] { goConnections(); });
    shortcut(Qt::Key_J, [this] { goTrips(); });
    shortcut(Qt::Key_N, [this] { nextUnits(); });
    shortcut(Qt::Key_T, [] { Theme::instance().nextLight(); });
    connect(spine_, &PlaceRail::placeChosen, this, &MainWindow::go);
    connect(spine_, &PlaceRail::fileAsked, this, &MainWindow::askFile);
    connect(spine_, &PlaceRail::unitsAsked, this, &MainWindow::nextUnits);
    connect(spine_, &PlaceRail::lightAsked, this, [] { Theme::instance().nextLight(); });
    connect(&survey_, &Survey::faultRaised, notice_, &NoticeBar::showFault);
    connect(&survey_, &Survey::faultPassed, notice_, &NoticeBar::withdraw);
    connect(&survey_, &Survey::word, notice_, &NoticeBar::showWord);
    const auto dress = [this] {
        QPalette colours;
        colours.setColor(QPalette::Window, colour("page"));
        colours.setColor(QPalette::WindowText, colour("ink"));
        colours.setColor(QPalette::ToolTipBase, colour("lift"));
        colours.setColor(QPalette::ToolTipText, colour("ink"));
        setPalette(colours);
        setFont(Theme::instance().font(14));
        update();
    };
    connect(&Theme::instance(), &Theme::changed, this, dress);
    dress();

    QSettings settings;
    survey_.setUnits(settings.value(QStringLiteral("units")).toString() == QLatin1String("metres")
                         ? UnitSystem::metres
                         : UnitSystem::feet);
    Theme::instance().setLight(
        static_cast<Light>(std::clamp(settings.value(QStringLiteral("light"), 0).toInt(), 0, 2)));
    const auto label = [this] {
        spine_->setUnitsLabel(survey_.units() == UnitSystem::feet ? tr("feet") : tr("metres"));
    };
    connect(&survey_, &Survey::unitsChanged, this, [this, label] {
        label();
        QSettings().setValue(QStringLiteral("units"), survey_.units() == UnitSystem::feet
                                                          ? QStringLiteral("feet")
                                                          : QStringLiteral("metres"));
    });
    connect(&Theme::instance(), &Theme::changed, this, [] {
        QSettings().setValue(QStringLiteral("light"), static_cast<int>(Theme::instance().light()));
    });
    label();
    connect(&survey_, &Survey::stateChanged, this, &MainWindow::stayAwake);
    go(Place::scan);
    showCaution();
}

void MainWindow::resizeEvent(QResizeEvent *) {
    layOut();
}

// A fault pushes the view down; a word lies over its head line and moves nothing.
void MainWindow::layOut() {
    const int left = spine_->width(), said = notice_->lineHeight();
    const int down = notice_->isFault() ? said : 0;
    spine_->setGeometry(0, 0, left, height());
    stack_->setGeometry(left, down, width() - left, height() - down);
    const int over = notice_->isFault() ? left : left + 288;
    // A word leaves the keys at the head of Read in sight.
    const int keep = !notice_->isFault() && stack_->currentWidget() == read_ ? ReadView::right_width + 8 : 0;
    if (said > 0)
        notice_->setGeometry(over, 0, width() - over - keep, said);
    notice_->raise();
}

// Once at every start, where it is read and in nobody's way.
void MainWindow::showCaution() {
    notice_->showWord(QStringLiteral("caution"),
                      tr("Look out first: a screen is no lookout, and nothing here is for navigation. Life "
                         "jackets on; local rules come first."));
}

void MainWindow::go(Place place) {
    stack_->setCurrentIndex(static_cast<int>(place));
    spine_->setCurrent(place);
    layOut();
    stack_->currentWidget()->setFocus();
}

void MainWindow::nextUnits() {
    survey_.setUnits(survey_.units() == UnitSystem::feet ? UnitSystem::metres : UnitSystem::feet);
}

void MainWindow::goConnections() {
    spine_->setNone();
    stack_->setCurrentWidget(connections_);
    connections_->setFocus();
}
void MainWindow::goTrips() {
    spine_->setNone();
    stack_->setCurrentWidget(trips_);
    trips_->setFocus();
}

// While pings come in the machine must neither sleep nor go dark.
void MainWindow::stayAwake() {
    keepAwake(survey_.source() == Survey::Source::sounder && survey_.flow() == Survey::Flow::flowing,
              tr("Young Heron is sounding"));
}

void MainWindow::askFile() {
    QMenu menu(this);
    const auto *open = menu.addAction(tr("Open a recording or a trip …"));
    const auto *trips = menu.addAction(tr("Trips that were kept"));
    auto *back = menu.addAction(tr("Back to the sounder"));
    back->setEnabled(survey_.hasSounder() && survey_.source() != Survey::Source::sounder);
    auto *fresh = menu.addAction(tr("Begin a new trip"));
    fresh->setEnabled(survey_.keeping());
    const auto *connections = menu.addAction(tr("Connections"));
    const auto *in = menu.addAction(tr("Import marks …"));
    const auto *out = menu.addAction(tr("Export marks …"));
    menu.setStyleSheet(QStringLiteral("QMenu { font-size: 15px; } QMenu::item { padding: 12px 24px; }"));
    const auto *chosen = menu.exec(spine_->mapToGlobal(QPoint(spine_->width(), spine_->height() - 360)));
    if (chosen == open) {
        const auto path =
            QFileDialog::getOpenFileName(this, tr("Open a recording or a trip"), QString(),
                                         tr("Recordings and trips (*.nc *.trip.gpkg);;All files (*)"));
        if (path.endsWith(QLatin1String(TripFile::suffix))) {
            go(Place::scan);
            survey_.openTrip(path);
        } else if (!path.isEmpty()) {
            go(Place::scan);
            survey_.openRecording(path);
        }
    } else if (chosen == trips) {
        goTrips();
    } else if (chosen == back) {
        survey_.backToSounder();
    } else if (chosen == fresh) {
        survey_.beginNewTrip();
    } else if (chosen == connections) {
        goConnections();
    } else if (chosen == in) {
        marks_->importAsked();
    } else if (chosen == out) {
        marks_->exportAsked();
    }
}

} // namespace heron::app
