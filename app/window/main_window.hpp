// One window: the rail of places, the line that says how it stands, a bar for faults, and the place that is
// shown. What a window has of its own is in its state; all else is the program's, shared with other windows.
#pragma once

#include "parts/place.hpp"
#include "window/place_rail.hpp"
#include "window/program.hpp"

#include <QStackedWidget>
#include <QWidget>
#include <map>

namespace heron::app {

class EyeMark;
class NoticeBar;
class StatusLine;
class WayBar;

class MainWindow : public QWidget {
    Q_OBJECT
  public:
    MainWindow(Program &program, const Places &places, QWidget *parent = nullptr);

    WindowState &state() { return state_; }
    ViewContext &context() { return context_; }
    PlaceRail &rail() { return *rail_; }
    NoticeBar &notice() { return *notice_; }
    StatusLine &status() { return *status_; }
    WayBar &wayBar() { return *way_; }
    EyeMark &eyeMark() { return *eye_; }
    /// The one view of this kind in this window.
    template <class View>
    View &view() {
        return *stack_->findChild<View *>();
    }
    /// The id of what is shown.
    QString current() const { return current_; }
    /// Whether what is shown is covered, as guests look on.
    bool covered() const { return cover_ != nullptr && cover_->isVisible(); }
    void go(const QString &place);

  protected:
    void resizeEvent(QResizeEvent *event) override;

  private:
    void layOut();
    void askFile();
    void openHandbook();
    void goToPointed();
    void cover();
    void dress();

    Program &program_;
    WindowState state_;
    ViewContext context_;
    PlaceRail *rail_;
    NoticeBar *notice_;
    StatusLine *status_;
    WayBar *way_;
    EyeMark *eye_;
    QStackedWidget *stack_;
    QWidget *cover_ = nullptr;
    std::map<QString, QWidget *> views_;
    QString current_;
};

} // namespace heron::app
