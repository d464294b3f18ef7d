// The place Scan: panel, gutter, picture under its ruler, the look down, the trip, and the row of keys.
#pragma once

#include "parts/view_context.hpp"

#include <QWidget>

namespace heron::app {

class CueBar;
class DownStrip;
class FirstStart;
class Gutter;
class KeyButton;
class PassCompare;
class PictureView;
class RangeRuler;
class ScanPanel;
class TripStrip;

class ScanView : public QWidget {
    Q_OBJECT
  public:
    ScanView(ViewContext &context, QWidget *parent = nullptr);
    PictureView &picture() { return *picture_; }
    ScanPanel &panel() { return *panel_; }
    RangeRuler &ruler() { return *ruler_; }
    PassCompare &passes() { return *passes_; }
    DownStrip &down() { return *down_; }
    CueBar &cue() { return *cue_; }
    /// Marks what is measured, else what is pointed at, else the boat itself.
    void mark(Family family);

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
    void comparePasses();
    void markContact();
    void readContact(int id);
    void keepMark(Mark mark, std::size_t row);

    ViewContext &context_;
    Tuner &tuner_;
    PictureView *picture_;
    RangeRuler *ruler_;
    Gutter *gutter_;
    TripStrip *trip_;
    DownStrip *down_;
    PassCompare *passes_;
    CueBar *cue_;
    FirstStart *first_start_;
    ScanPanel *panel_;
    std::vector<KeyButton *> keys_;
    KeyButton *freeze_, *measure_, *loupe_, *sides_, *strip_, *look_down_, *pass_, *rings_, *undo_;
};

} // namespace heron::app
