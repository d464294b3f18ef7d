// What was pressed in the live picture: what the program takes it for, and two keys to go on from there.
#pragma once

#include "parts/view_context.hpp"

#include <QWidget>

namespace heron::app {

class KeyButton;
class PictureView;

class ContactBox : public QWidget {
    Q_OBJECT
  public:
    ContactBox(ViewContext &context, PictureView &picture, QWidget *parent = nullptr);
    /// All that stands here, line by line.
    QStringList lines() const { return lines_; }

  signals:
    void readAsked();
    void markAsked();

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;

  private:
    ViewContext &context_;
    PictureView &picture_;
    KeyButton *read_, *mark_;
    QStringList lines_;
};

} // namespace heron::app
