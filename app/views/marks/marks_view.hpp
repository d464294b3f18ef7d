// The place Marks: the wall of chips, and beside it the selected mark to name, sort and write about.
#pragma once

#include "marks/mark_groups.hpp"
#include "parts/view_context.hpp"

#include <QComboBox>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QWidget>

class QLayout;

namespace heron::app {

class ItemList;
class KeyButton;
class PaperLabel;

class MarksView : public QWidget {
    Q_OBJECT
  public:
    explicit MarksView(ViewContext &context, QWidget *parent = nullptr);
    ItemList &wall() { return *wall_; }
    /// What is told of a mark, a line each: what it is, a bar, its figure in the units now shown.
    QStringList facts(const Mark &mark) const;

  protected:
    void keyPressEvent(QKeyEvent *event) override;
    void hideEvent(QHideEvent *event) override;
    bool eventFilter(QObject *watched, QEvent *event) override;

  private:
    QLayout *buildWall();
    QWidget *buildSide();
    void showSelected();
    void fill(const Mark *mark);
    void keep(); ///< writes what the fields say into the mark
    void paintPicture(QPainter &p, QRect box);
    void paintFacts(QPainter &p, QRect box);

    ViewContext &context_;
    ItemList *wall_;
    PaperLabel *count_, *first_, *title_;
    QWidget *picture_, *facts_;
    QLineEdit *name_;
    QComboBox *family_, *kind_;
    QPlainTextEdit *note_;
    KeyButton *export_, *import_, *remove_, *undo_;
    QTimer pause_;
    QString editing_; ///< the mark whose fields are shown
    bool filling_ = false;
};

} // namespace heron::app
