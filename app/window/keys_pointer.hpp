// A pointer that the keyboard moves: a mouse falls overboard, a touch screen does not heed wet fingers.
#pragma once

#include <QPointer>
#include <QWidget>

namespace heron::app {

/// Ctrl and an arrow key move a cross over the window (further the longer the key is held; with Shift a pixel
/// at a time), Ctrl+Enter presses there, Ctrl+Shift+Enter takes hold and lets go again, Ctrl+PageUp and
/// Ctrl+PageDown turn the wheel. What lies under the cross is told of it by the events that a mouse makes.
/// The cross goes by Escape, with a real mouse, or when the window is left.
class KeysPointer : public QWidget {
    Q_OBJECT
  public:
    explicit KeysPointer(QWidget *window);
    bool eventFilter(QObject *watched, QEvent *event) override;
    /// In pixels of the window; where it stands while it is shown.
    QPoint at() const { return at_; }
    bool holds() const { return held_ != nullptr; }
    static constexpr int step = 12; ///< pixels

  signals:
    void appeared();

  protected:
    void paintEvent(QPaintEvent *event) override;

  private:
    bool takeKey(int key, Qt::KeyboardModifiers modifiers, bool repeated);
    void moveBy(QPoint by);
    void press();
    void letGo();
    void leave();
    void tell(QEvent::Type type, QWidget *to, Qt::MouseButtons buttons);
    QWidget *window_;
    QPointer<QWidget> over_, held_;
    QPoint at_, mouse_at_;
    bool telling_ = false;
    int in_a_row_ = 0;
};

} // namespace heron::app
