// How a hand gets out of what Tab led to: Escape leaves a field as it was, Enter as it is; Escape leaves a
// key.
#pragma once

#include <QObject>
#include <QPointer>
#include <QString>

namespace heron::app {

/// Watches every field and key of one window. Without it the letters and digits that are keys everywhere else
/// would go on being written into a field that was reached by Tab. A field with the property `ownKeys` is
/// left to its place; one with `staysOnEnter` is not left by Enter.
class FieldKeys : public QObject {
    Q_OBJECT
  public:
    explicit FieldKeys(QWidget *window);
    bool eventFilter(QObject *watched, QEvent *event) override;

  signals:
    /// A field was left: whatever is shown takes the keys again.
    void left();

  private:
    void takeBack();
    QWidget *window_;
    QPointer<QWidget> field_;
    QString before_;
};

} // namespace heron::app
