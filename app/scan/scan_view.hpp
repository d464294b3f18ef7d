// The place Scan: panel, gutter, picture under its ruler, the trip, and the row of keys.
#pragma once

#include "feed/survey.hpp"

#include <QWidget>

namespace heron::app {

class Gutter;
class KeyButton;
class PictureView;
class RangeRuler;
class ScanPanel;
class TripStrip;

class ScanView : public QWidget {
    Q_OBJECT
  public:
    explicit ScanView(Survey &survey, QWidget *parent = nullptr);
    PictureView &picture() { return *picture_; }
    ScanPanel &panel() { return *panel_; }
    RangeRuler &ruler() { return *ruler_; }
    /// Marks what is measured, else what is pointed at, else the boat itself.
    void mark(Family family);

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void keyPressEvent(QKeyEvent *event) override;

  private:
    KeyButton *addKey(const char *name, const QString &glyph, const QString &text, const QKeySequence &letter,
                      const QString &tip);
    void refreshKeys();

    Survey &survey_;
    PictureView *picture_;
    RangeRuler *ruler_;
    Gutter *gutter_;
    TripStrip *trip_;
    ScanPanel *panel_;
    std::vector<KeyButton *> keys_;
    KeyButton *freeze_, *measure_, *undo_;
    QTimer timer_;
};

} // namespace heron::app
