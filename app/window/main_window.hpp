// The one window: the rail of places, a line for messages, and the place in hand.
#pragma once

#include "session/survey.hpp"
#include "window/place_rail.hpp"

#include <QStackedWidget>
#include <QWidget>

namespace heron::app {

class ConnectionsView;
class MarksView;
class NoticeBar;
class PrepareView;
class ReadView;
class PassPlanner;
class ContactReader;
class ScanView;
class TripsView;
class Tuner;

class MainWindow : public QWidget {
    Q_OBJECT
  public:
    MainWindow(Survey &survey, Tuner &desk, QWidget *parent = nullptr);
    PrepareView &prepareView() { return *prepare_; }
    ConnectionsView &connectionsView() { return *connections_; }
    TripsView &tripsView() { return *trips_; }
    ScanView &scanView() { return *scan_; }
    ReadView &readView() { return *read_; }
    ContactReader &readingDesk() { return *reading_; }
    PassPlanner &lookDesk() { return *looks_; }
    MarksView &marksView() { return *marks_; }
    NoticeBar &notice() { return *notice_; }
    PlaceRail &spine() { return *spine_; }
    void go(Place place);
    void goConnections();
    void goTrips();

  signals:
    /// The guide changed what is connected.
    void sourcesChosen(std::vector<heron::app::SourceConfig> sources);

  protected:
    void resizeEvent(QResizeEvent *event) override;

  private:
    void layOut();
    void askFile();
    void nextUnits();
    void showCaution();

    void stayAwake();

    Survey &survey_;
    Tuner &desk_;
    PlaceRail *spine_;
    NoticeBar *notice_;
    QStackedWidget *stack_;
    PrepareView *prepare_;
    ConnectionsView *connections_;
    TripsView *trips_;
    ScanView *scan_;
    ContactReader *reading_;
    PassPlanner *looks_;
    ReadView *read_;
    MarksView *marks_;
};

} // namespace heron::app
