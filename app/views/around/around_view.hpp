// The place Around: the circle at the bow, the cast card, and what the head does.
#pragma once

#include "parts/view_context.hpp"

#include <QWidget>
#include <vector>

namespace heron::app {

class BoatPage;
class BoatSketch;
class CastCard;
class CirclePicture;
class DownStrip;
class HeadControls;
class KeyButton;
class LevelBox;

class AroundView : public QWidget {
    Q_OBJECT
  public:
    AroundView(ViewContext &context, QWidget *parent = nullptr);
    CirclePicture &picture() { return *picture_; }
    CastCard &card() { return *card_; }
    HeadControls &controls() { return *controls_; }
    BoatPage &boat() { return *boat_; }
    /// Marks what is pointed at or aimed at.
    void mark(Family family);
    /// The circle shows the mark that is aimed at a little elsewhere: what is pointed at (else what was read
    /// nearest to it) becomes another sighting of it.
    void nudge();

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void keyPressEvent(QKeyEvent *event) override;

  private:
    KeyButton *addKey(const char *name, const QString &glyph, const QString &text, const QKeySequence &letter,
                      const QString &tip);
    void addKeys();
    void layOut();
    void refreshKeys();
    void aimAt(QPointF position);
    void nextUp();
    void nextWind();
    void holdOffGoal(const Way::Goal &goal);
    Mark markSeenAt(const Cursor &at, const Contact *contact, Family family) const;

    ViewContext &context_;
    CirclePicture *picture_;
    CastCard *card_;
    HeadControls *controls_;
    BoatPage *boat_;
    BoatSketch *sketch_;
    LevelBox *levels_;
    KeyButton *freeze_, *cast_, *up_, *strip_, *rod_, *boat_key_, *back_, *rings_, *hold_, *where_, *measure_,
        *loupe_, *picture_key_, *down_key_, *guests_, *wind_, *nudge_;
    DownStrip *down_;
    std::vector<KeyButton *> mark_keys_;
};

} // namespace heron::app
