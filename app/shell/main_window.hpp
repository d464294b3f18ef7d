// The one window: the rail of places, a line for messages, and the place in hand.
#pragma once

#include "feed/survey.hpp"
#include "spine.hpp"

#include <QStackedWidget>
#include <QWidget>

namespace heron::app {

class ConnectionsView;
class MarksView;
class NoticeBar;
class PrepareView;
class ReadView;
class LookDesk;
class ReadingDesk;
class ScanView;
class TripsView;
class TuningDesk;

class MainWindow : public QWidget {
    Q_OBJECT
  public:
    MainWindow(Survey &survey, TuningDesk &desk, QWidget *parent = nullptr);
    PrepareView &prepareView() { return *prepare_; }
    ConnectionsView &connectionsView() { return *connections_; }
    TripsView &tripsView() { return *trips_; }
    ScanView &scanView() { return *scan_; }
    ReadView &readView() { return *read_; }
    ReadingDesk &readingDesk() { return *reading_; }
    LookDesk &lookDesk() { return *looks_; }
    MarksView &marksView() { return *marks_; }
    NoticeBar &notice() { return *notice_; }
    Spine &spine() { return *spine_; }
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
    TuningDesk &desk_;
    Spine *spine_;
    NoticeBar *notice_;
    QStackedWidget *stack_;
    PrepareView *prepare_;
    ConnectionsView *connections_;
    TripsView *trips_;
    ScanView *scan_;
    ReadingDesk *reading_;
    LookDesk *looks_;
    ReadView *read_;
    MarksView *marks_;
};

} // namespace heron::app
