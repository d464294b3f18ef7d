// Where the guide enters the boat: its hull, the head, the antenna and the seats, beside a picture of what
// was entered.
#pragma once

#include "around/own_boat.hpp"
#include "parts/view_context.hpp"

#include <QWidget>
#include <functional>
#include <vector>

class QComboBox;
class QGridLayout;
class QLineEdit;

namespace heron::app {

class KeyButton;
class PaperLabel;

/// The boat of today from above, true to scale, with measures.
class BoatSketch : public QWidget {
    Q_OBJECT
  public:
    BoatSketch(ViewContext &context, QWidget *parent = nullptr);

  protected:
    void paintEvent(QPaintEvent *event) override;

  private:
    ViewContext &context_;
};

class BoatPage : public QWidget {
    Q_OBJECT
  public:
    BoatPage(ViewContext &context, QWidget *parent = nullptr);

  signals:
    void closed();

  private:
    /// A field for a length; `put` writes it into the boat.
    QLineEdit *addLength(const char *name, const std::function<double(const OwnBoat &)> &get,
                         std::function<void(OwnBoat &, double)> put);
    QLineEdit *addText(const char *name, const std::function<std::string(const OwnBoat &)> &get,
                       std::function<void(OwnBoat &, std::string)> put);
    KeyButton *addKey(const char *name, const QString &text, const QKeySequence &letter, const QString &tip);
    void take(const std::function<void(OwnBoat &)> &put);
    void buildSeats();
    void refresh();

    ViewContext &context_;
    QComboBox *which_;
    QGridLayout *seats_;
    std::vector<std::function<void()>> fill_, fill_seats_;
    std::vector<QWidget *> seat_widgets_;
    std::size_t built_seats_ = 99;
    PaperLabel *refusal_;
    bool filling_ = false;
};

} // namespace heron::app
