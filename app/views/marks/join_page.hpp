// Which marks are likely one thing: two side by side with the evidence, one key to join them, one to keep
// them apart.
#pragma once

#include "marks/joining.hpp"
#include "parts/view_context.hpp"

#include <QWidget>
#include <set>
#include <utility>
#include <vector>

namespace heron::app {

class KeyButton;

class JoinPage : public QWidget {
    Q_OBJECT
  public:
    explicit JoinPage(ViewContext &context, QWidget *parent = nullptr);
    void refresh();
    std::size_t waiting() const { return proposals_.size(); }
    const JoinProposal *current() const { return proposals_.empty() ? nullptr : &proposals_[at_]; }

  protected:
    void paintEvent(QPaintEvent *event) override;
    void showEvent(QShowEvent *event) override;

  private:
    void step(int by);
    ViewContext &context_;
    KeyButton *join_, *apart_, *next_;
    std::vector<JoinProposal> proposals_;
    std::set<std::pair<std::string, std::string>> kept_apart_;
    std::size_t at_ = 0;
};

} // namespace heron::app
