// The story of the mark in hand: its looks, what it turned out to be, what came of visits, who may see it.
#pragma once

#include "parts/view_context.hpp"

#include <QComboBox>
#include <QLineEdit>
#include <QWidget>
#include <vector>

namespace heron::app {

class ItemList;
class KeyButton;
class PaperLabel;

class StoryPage : public QWidget {
    Q_OBJECT
  public:
    explicit StoryPage(ViewContext &context, QWidget *parent = nullptr);
    void show(const Mark *mark);
    /// Looks and outcomes, a line each, as they are painted.
    QStringList lines() const { return lines_; }

  protected:
    void paintEvent(QPaintEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;

  private:
    void keep();
    void sayOfContact(const Mark &found_out);
    void visit(Outcome::What what);
    const Mark *mark() const;
    ViewContext &context_;
    QLineEdit *tags_, *lake_, *species_, *length_;
    QComboBox *level_, *confirmed_, *turned_out_;
    KeyButton *looked_, *fished_, *bite_, *landed_, *split_;
    QString id_;
    std::size_t look_ = 0;
    bool filling_ = false;
    int list_top_ = 0;
    QStringList lines_;
    std::size_t looks_shown_ = 0;
};

} // namespace heron::app
