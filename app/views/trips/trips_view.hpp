// The trips that were kept: open one, thin an old one, give one away as a recording.
#pragma once

#include "parts/view_context.hpp"
#include "session/trip_list.hpp"

#include <QWidget>
#include <functional>

namespace heron::app {

class ItemList;
class KeyButton;
class PaperLabel;

class TripsView : public QWidget {
    Q_OBJECT
  public:
    explicit TripsView(ViewContext &context, QWidget *parent = nullptr);
    const std::vector<TripSummary> &trips() const { return model_->trips(); }
    /// What is told under the list: what thinning would save, or what is going on.
    QString told() const;

  protected:
    void showEvent(QShowEvent *event) override;

  private:
    const TripSummary *selected() const;
    QImage picture(const QString &id) const;
    void refresh();
    void openSelected();
    void thinSelected();
    void giveAway();
    void work(const QString &what, std::function<Result<QString>(JobControl &)> job);

    ViewContext &context_;
    TripList *model_;
    ItemList *list_;
    PaperLabel *folder_, *told_;
    KeyButton *open_, *thin_, *export_, *stop_;
    QTimer progress_;
    std::shared_ptr<JobControl> work_; ///< what goes on now
    QString doing_, thin_asked_;       ///< the trip of which thinning was told, to be pressed again
};

} // namespace heron::app
