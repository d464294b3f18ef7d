// What the rays of the head at the bow say of its settings: one advice at a time, and the search for a gain.
#pragma once

#include "session/session.hpp"
#include "session/window_state.hpp"
#include "tuning/advice_offer.hpp"
#include "tuning/gain_search.hpp"
#include "tuning/watcher.hpp"

#include <QObject>
#include <QTimer>

namespace heron::app {

class HeadWatch : public QObject {
    Q_OBJECT
  public:
    explicit HeadWatch(Session &session, QObject *parent = nullptr);

    PictureHealth health() const { return watcher_.health(); }
    /// What holds for three seconds is offered; nothing where there is nothing to mend.
    const std::optional<TuningAdvice> &advice() const { return offer_.advice(); }
    /// Does what is advised, at the head or in the window where it was taken.
    void take(WindowState &window);
    void putOff(); ///< not offered again for a minute
    /// Brackets the gain, or stops doing so.
    void tune();
    bool tuning() const { return search_.has_value(); }
    /// The window that shows the circle, whose floor is looked at.
    void attend(WindowState &window) { window_ = &window; }

  signals:
    void changed();

  private:
    Gear gear() const;
    void rowArrived(std::size_t row);
    void think();

    Session &session_;
    QPointer<WindowState> window_;
    Watcher watcher_;
    AdviceOffer offer_;
    std::optional<GainSearch> search_;
    int search_from_ = 0;
    QTimer timer_;
};

} // namespace heron::app
