// What is connected and what it delivers; adding and taking away; the check of the installation; and which
// words are spoken.
#pragma once

#include "parts/view_context.hpp"
#include "session/connection_list.hpp"

#include <QComboBox>
#include <QLineEdit>
#include <QWidget>

class QGridLayout;
class QVBoxLayout;

namespace heron::app {

class ItemList;
class KeyButton;
class PaperLabel;

class ConnectionsView : public QWidget {
    Q_OBJECT
  public:
    ConnectionsView(ViewContext &context, QWidget *parent = nullptr);
    /// The lines of the table, for tests and the eye alike.
    QStringList lines() const;

  private:
    KeyButton *addKey(const char *name, const QString &text, const QString &tip,
                      const QKeySequence &letter = {});
    void buildSources(QVBoxLayout &page);
    void buildCheck(QVBoxLayout &page);
    void buildSpeech(QVBoxLayout &page);
    void add();
    void removeSelected();
    void refresh();
    void refreshSpeech();

    ViewContext &context_;
    ConnectionList *model_;
    ItemList *list_;
    QComboBox *kind_, *way_;
    QLineEdit *address_;
    PaperLabel *head_, *clocks_, *missing_, *refusal_, *check_;
    KeyButton *add_, *remove_, *check_left_, *check_right_, *speak_;
    std::vector<std::pair<QString, KeyButton *>> spoken_; ///< kinds and their keys
};

} // namespace heron::app
