// Scan with no source yet: three large keys, and what each does.
#pragma once

#include "parts/view_context.hpp"

#include <QWidget>

namespace heron::app {

class KeyButton;

class FirstStart : public QWidget {
    Q_OBJECT
  public:
    explicit FirstStart(ViewContext &context, QWidget *parent = nullptr);

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;

  private:
    struct Choice {
        KeyButton *key;
        QString does;
    };
    ViewContext &context_;
    std::vector<Choice> choices_;
};

} // namespace heron::app
