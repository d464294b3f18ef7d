// A key: outlined, 3 px corners, a glyph, a word and its letter. Large enough for gloves.
#pragma once

#include <QAbstractButton>
#include <QFont>
#include <QKeySequence>
#include <QStringList>

namespace heron::app {

class KeyButton : public QAbstractButton {
    Q_OBJECT
  public:
    /// `letter`: the key that does the same, shown on it and in its tip; it becomes the button's shortcut. A
    /// key without a letter is reached by Tab, and pressed by Space or Enter.
    KeyButton(const QString &glyph, const QString &text, const QKeySequence &letter, const QString &tip,
              QWidget *parent = nullptr);
    void setPrimary(bool primary); ///< the one thing to do here: filled with the accent
    void setGlyph(const QString &glyph);
    void setStacked(bool stacked); ///< the glyph over the word, for narrow keys
    /// A new word; unlike the base class's, the letter stays.
    void setText(const QString &text);
    QSize sizeHint() const override;
    /// Whether its word stands large and on one line at the size that it has now.
    bool wordFits() const;

  protected:
    bool event(QEvent *event) override;
    void keyPressEvent(QKeyEvent *event) override;
    void moveEvent(QMoveEvent *event) override;
    void paintEvent(QPaintEvent *event) override;

  private:
    /// Its word as it is set: large where there is room, else smaller, else on two lines.
    struct Setting {
        QFont font;
        QStringList lines;
        bool whole = true;
        double width = 0; ///< of the longest line
    };
    Setting settingFor(int wide, int tall, int largest) const;
    int roomForWords() const; ///< across, its letter aside
    QString glyph_;
    QKeySequence letter_;
    bool primary_ = false, stacked_ = false;
};

} // namespace heron::app
