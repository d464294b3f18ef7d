// What the turning head does, and what that buys: range, turn, band and gain.
#pragma once

#include "parts/view_context.hpp"

#include <QWidget>

namespace heron::app {

class KeyButton;

class HeadControls : public QWidget {
    Q_OBJECT
  public:
    /// `display`: how the circle shows its levels.
    HeadControls(ViewContext &context, WindowState &display, QWidget *parent = nullptr);
    static constexpr int high = 152;
    /// What stands under the keys: seconds a turn, what a ray covers at the rim, and what moving smears.
    QString buys() const;

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    /// On the words of an advice: not now.
    void mousePressEvent(QMouseEvent *event) override;

  private:
    KeyButton *add(const char *name, const QString &text, const QKeySequence &letter, const QString &tip);
    void refresh();
    void stepRange(int step);
    void stepTurn(int step);
    void stepBand(int step);
    void stepGain(int step);
    void nextSector();
    /// Sets what is computed for this depth, speed and these casts, and says why.
    void takeAdvice();
    bool live() const;

    ViewContext &context_;
    WindowState &display_;
    struct Group {
        KeyButton *less, *more;
    };
    std::vector<Group> groups_;
    KeyButton *tune_, *sector_, *advise_;
};

} // namespace heron::app
