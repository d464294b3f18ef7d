// The place Marks: the wall of chips, and beside it the mark in hand to name, sort and write about.
#pragma once

#include "parts/view_context.hpp"

#include <QComboBox>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QScrollArea>
#include <QWidget>

namespace heron::app {

class KeyButton;
class MarkWall;

class MarksView : public QWidget {
    Q_OBJECT
  public:
    explicit MarksView(ViewContext &context, QWidget *parent = nullptr);
    MarkWall &wall() { return *wall_; }
    /// What is told of a mark, a line each: what it is, a bar, its figure in the units now shown.
    QStringList facts(const Mark &mark) const;

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void keyPressEvent(QKeyEvent *event) override;

  private:
    void showSelected();
    void keep(); ///< writes what the fields say into the mark
    void dress();

    ViewContext &context_;
    MarkWall *wall_;
    QScrollArea *scroll_;
    QLineEdit *name_;
    QComboBox *family_, *kind_;
    QPlainTextEdit *note_;
    KeyButton *export_, *import_, *remove_, *undo_;
    bool filling_ = false;
};

} // namespace heron::app
