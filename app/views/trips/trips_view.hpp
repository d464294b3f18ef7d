// The trips that were kept: open one, thin an old one, give one away as a recording.
#pragma once

#include "parts/view_context.hpp"
#include "tuning/last_time.hpp"

#include <QWidget>
#include <functional>

namespace heron::app {

class KeyButton;

class TripsView : public QWidget {
    Q_OBJECT
  public:
    explicit TripsView(ViewContext &context, QWidget *parent = nullptr);
    void refresh();
    const std::vector<TripSummary> &trips() const { return trips_; }
    int selected() const { return selected_; }

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;
    void mouseDoubleClickEvent(QMouseEvent *event) override;
    void keyPressEvent(QKeyEvent *event) override;
    void showEvent(QShowEvent *event) override;

  private:
    void openSelected();
    void thinSelected();
    void giveAway();
    void work(const QString &what, std::function<Result<QString>()> job);

    ViewContext &context_;
    std::vector<TripSummary> trips_;
    int selected_ = 0, first_ = 0;
    KeyButton *open_, *thin_, *export_;
    QString saving_; ///< what thinning would save, asked before it is done
    bool thin_asked_ = false, working_ = false;
};

} // namespace heron::app
