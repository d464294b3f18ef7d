// The guide's boats, kept from start to start; one of them is the one that floats today.
#pragma once

#include "around/own_boat.hpp"
#include "session/notices.hpp"

#include <QObject>

namespace heron::app {

class Boats : public QObject {
    Q_OBJECT
  public:
    explicit Boats(Notices &notices, QObject *parent = nullptr);

    const std::vector<OwnBoat> &all() const { return boats_; }
    std::size_t current() const { return current_; }
    const OwnBoat &boat() const { return boats_[current_]; }
    void choose(std::size_t which);
    /// Changes the one that floats today.
    void change(const OwnBoat &boat);
    /// Another, like the one of today; it is chosen.
    void addAnother();
    /// Takes away the one of today; the last one stays.
    void remove();

  signals:
    void changed();

  private:
    void keep();
    std::vector<OwnBoat> boats_;
    std::size_t current_ = 0;
};

} // namespace heron::app
