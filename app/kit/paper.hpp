// Labels, fields and choices on the paper of a page: plain Qt widgets in the colours and type of the light.
#pragma once

#include <QLabel>
#include <QString>
#include <QWidget>

namespace heron::app {

enum class Ink { plain, quiet, alarm };

/// A line or a paragraph of words.
class PaperLabel : public QLabel {
    Q_OBJECT
  public:
    PaperLabel(const QString &words, int px, bool bold = false, Ink ink = Ink::plain,
               QWidget *parent = nullptr);
    void setInk(Ink ink);

  private:
    void dress();
    int px_;
    bool bold_;
    Ink ink_;
};

/// A hairline from edge to edge.
QWidget *paperRule(QWidget *parent = nullptr);
/// Dresses a page's plain fields, and the page itself, in the colours of the light; again when it changes.
void dressPage(QWidget *page);

} // namespace heron::app
