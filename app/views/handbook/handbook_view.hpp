// The handbook: a page a place, written for a guide; and as PDF.
#pragma once

#include "parts/view_context.hpp"

#include <QTextBrowser>
#include <QWidget>

namespace heron::app {

class KeyButton;

class HandbookView : public QWidget {
    Q_OBJECT
  public:
    HandbookView(ViewContext &context, QWidget *parent = nullptr);
    /// The page of a place, by its id; the first where it has none.
    void openFor(const QString &place);
    int page() const { return page_; }
    int pages() const { return static_cast<int>(keys_.size()); }
    QString text() const { return text_->toPlainText(); }
    /// All pages as one PDF.
    bool saveAs(const QString &file) const;

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;

  private:
    void show(int page);
    void dress();

    ViewContext &context_;
    std::vector<KeyButton *> keys_;
    KeyButton *save_, *back_;
    QTextBrowser *text_;
    QString from_;
    int page_ = 0;
};

} // namespace heron::app
