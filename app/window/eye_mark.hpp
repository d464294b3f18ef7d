// A mark by eye: what stands out of the water, or what somebody points at, by its direction off the bow and
// how far it is guessed to be.
#pragma once

#include "kit/key_button.hpp"
#include "parts/view_context.hpp"

#include <QWidget>
#include <optional>
#include <vector>

namespace heron::app {

class EyeMark : public QWidget {
    Q_OBJECT
  public:
    explicit EyeMark(ViewContext &context, QWidget *parent = nullptr);
    /// Opens over what is shown; says why where position or heading is missing.
    void ask(const QRect &room);

    /// What is pointed at.
    struct Guess {
        double off_bow_deg = 0; ///< −180 … 180, to the right positive
        double distance_m = 20;
    };
    const Guess &guess() const { return guess_; }
    static constexpr double farthest_m = 150;
    /// Where a guess is drawn, and what is meant by a spot: the nearer, the finer.
    QPointF positionOf(const Guess &guess) const;
    Guess guessAt(QPointF position) const;
    /// Keeps it as a mark of this family; false where the boat's place or heading is not known any more.
    bool keep(Family family);
    void end();

  signals:
    void shownChanged(); ///< it came or went: what lies under it takes no keys meanwhile

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;
    void mouseMoveEvent(QMouseEvent *event) override;
    void keyPressEvent(QKeyEvent *event) override;
    void showEvent(QShowEvent *event) override;
    void hideEvent(QHideEvent *event) override;

  private:
    struct Fix {
        GeoPoint boat;
        double heading_deg = 0;
        UnixNs time = 0;
        double sd_m = 2;
    };
    std::optional<Fix> fix() const;
    double radius() const;
    QPointF middle() const;

    ViewContext &context_;
    Guess guess_;
    std::vector<KeyButton *> keys_;
    KeyButton *close_;
};

} // namespace heron::app
