// The one window: the rail of places, a line for messages, and the place in hand.
#pragma once

#include "feed/survey.hpp"
#include "spine.hpp"

#include <QStackedWidget>
#include <QWidget>

namespace heron::app {

class MarksView;
class NoticeBar;
class ScanView;

class MainWindow : public QWidget {
    Q_OBJECT
  public:
    explicit MainWindow(Survey &survey, QWidget *parent = nullptr);
    ScanView &scanView() { return *scan_; }
    MarksView &marksView() { return *marks_; }
    NoticeBar &notice() { return *notice_; }
    Spine &spine() { return *spine_; }
    void go(Place place);

  protected:
    void resizeEvent(QResizeEvent *event) override;

  private:
    void layOut();
    void askFile();
    void nextUnits();
    void showCaution();

    Survey &survey_;
    Spine *spine_;
    NoticeBar *notice_;
    QStackedWidget *stack_;
    ScanView *scan_;
    MarksView *marks_;
};

} // namespace heron::app
