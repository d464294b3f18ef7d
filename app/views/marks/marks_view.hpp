// The place Marks: the wall of chips with what is looked for, and beside it the mark in hand, its story, what
// is doubled, packs, and the live link.
#pragma once

#include "marks/mark_groups.hpp"
#include "parts/view_context.hpp"

#include <QComboBox>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QStackedWidget>
#include <QWidget>

class QLayout;

namespace heron::app {

class ItemList;
class JoinPage;
class KeyButton;
class ManyPage;
class PackPage;
class PaperLabel;
class StoryPage;

class MarksView : public QWidget {
    Q_OBJECT
  public:
    explicit MarksView(ViewContext &context, QWidget *parent = nullptr);
    enum class Page : std::uint8_t { mark, story, join, pack, share, many };
    ItemList &wall() { return *wall_; }
    Page page() const { return page_; }
    void setPage(Page page);
    StoryPage &story() { return *story_; }
    JoinPage &joining() { return *join_; }
    PackPage &packing() { return *pack_; }
    /// A name made from what it is: "Rock pile, 4.0 ft tall, in 17.1 ft, on gravel".
    QString madeName(const Mark &mark) const;
    /// The evening's queue: marks of the newest day that nobody has named, one after the other.
    void setEvening(bool on);
    bool evening() const { return evening_; }
    /// Words of names, notes, tags and kinds, and wishes as on the chart.
    void find(const QString &words);
    /// What is told of a mark, a line each: what it is, a bar, its figure in the units now shown.
    QStringList facts(const Mark &mark) const;

  protected:
    void keyPressEvent(QKeyEvent *event) override;
    void hideEvent(QHideEvent *event) override;
    bool eventFilter(QObject *watched, QEvent *event) override;

  private:
    QLayout *buildWall();
    QLayout *buildSide();
    QWidget *buildMarkPage();
    void tellWall();
    void showSelected();
    void fill(const Mark *mark);
    void keep(); ///< writes what the fields say into the mark
    void paintPicture(QPainter &p, QRect box);
    void paintFacts(QPainter &p, QRect box);

    ViewContext &context_;
    ItemList *wall_;
    MarkGroups *groups_;
    QStackedWidget *pages_;
    StoryPage *story_;
    JoinPage *join_;
    PackPage *pack_;
    ManyPage *many_;
    std::vector<KeyButton *> page_keys_;
    Page page_ = Page::mark;
    QLineEdit *find_;
    KeyButton *by_, *evening_key_, *there_, *differing_;
    bool evening_ = false;
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
