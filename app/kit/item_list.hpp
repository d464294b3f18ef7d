// The one list of the program: chips on a wall, or rows. Keys, scrolling and what a screen reader says come
// from Qt; the delegate draws.
#pragma once

#include "kit/id_list_model.hpp"

#include <QImage>
#include <QListView>
#include <QStyledItemDelegate>
#include <functional>

namespace heron::app {

class ItemDelegate : public QStyledItemDelegate {
    Q_OBJECT
  public:
    enum class Shape { chip, row };
    ItemDelegate(Shape shape, QSize size, QObject *parent);
    /// The picture of an item by its id; painted scaled to the picture's size.
    std::function<QImage(const QString &id)> picture;
    QSize sizeHint(const QStyleOptionViewItem &option, const QModelIndex &index) const override;
    void paint(QPainter *painter, const QStyleOptionViewItem &option,
               const QModelIndex &index) const override;

  private:
    void paintChip(QPainter &p, const QRect &box, const QModelIndex &index, bool selected) const;
    void paintRow(QPainter &p, const QRect &box, const QModelIndex &index, bool selected) const;
    void paintHeader(QPainter &p, const QRect &box, const QModelIndex &index) const;
    Shape shape_;
    QSize picture_;
};

class ItemList : public QListView {
    Q_OBJECT
  public:
    using Shape = ItemDelegate::Shape;
    ItemList(Shape shape, QSize picture, QWidget *parent = nullptr);
    void setPictures(std::function<QImage(const QString &id)> picture);
    void setItems(IdListModel *model);
    QString currentId() const;
    void selectId(const QString &id);
    /// Moves the selection by so many items, past heads of groups.
    void step(int by);

  signals:
    void chosen(const QString &id); ///< by pointer or key
    void opened(const QString &id); ///< pressed twice

  protected:
    void currentChanged(const QModelIndex &current, const QModelIndex &previous) override;
    /// Where what was selected goes, the view says what is selected next.
    void rowsAboutToBeRemoved(const QModelIndex &parent, int first, int last) override;
    void keyboardSearch(const QString &) override {} // letters are keys of the views

  private:
    IdListModel *items_ = nullptr;
    ItemDelegate *delegate_;
    bool selecting_ = false;
};

} // namespace heron::app
