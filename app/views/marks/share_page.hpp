// The live link between screens and boats: where, as whom, how it stands, and which edits were overruled.
#pragma once

#include "parts/view_context.hpp"

#include <QComboBox>
#include <QLineEdit>
#include <QWidget>

namespace heron::app {

class KeyButton;

class SharePage : public QWidget {
    Q_OBJECT
  public:
    explicit SharePage(ViewContext &context, QWidget *parent = nullptr);

  protected:
    void paintEvent(QPaintEvent *event) override;

  private:
    void fill();
    ViewContext &context_;
    QLineEdit *where_, *screen_, *service_, *user_, *password_, *ca_;
    QComboBox *role_;
    KeyButton *on_;
};

} // namespace heron::app
