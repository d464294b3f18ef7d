// How to steer to the second look, over the head of the picture: read in two seconds.
#pragma once

#include "parts/view_context.hpp"

#include <QWidget>

namespace heron::app {

class KeyButton;

class CueBar : public QWidget {
    Q_OBJECT
  public:
    CueBar(ViewContext &context, QWidget *parent = nullptr);
    static constexpr int high = 92;
    /// What it says now: the steering, then how far, then where the thing is.
    QString steering() const { return steering_; }
    QString distance() const { return distance_; }
    QString thing() const { return thing_; }
    /// A pass that is done waits to be read.
    bool waits() const { return waits_; }
    void dismiss();

  signals:
    void shownChanged();
    void readAsked(const heron::GeoPoint &place, std::size_t row);

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;

  private:
    int keyWidth() const;
    void refresh();
    QString length(double m) const;
    ViewContext &context_;
    PassPlanner &planner_;
    KeyButton *do_, *end_;
    QString steering_, distance_, thing_;
    int turn_ = 0; ///< −1 left, 0 straight on, 1 right
    bool waits_ = false, fine_ = false;
};

} // namespace heron::app
