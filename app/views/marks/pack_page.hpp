// What goes to whom: a receiver, what he will and will not see in plain words, and the file; one mark to a
// phone as a code.
#pragma once

#include "parts/view_context.hpp"

#include <QComboBox>
#include <QWidget>

namespace heron::app {

class KeyButton;

class PackPage : public QWidget {
    Q_OBJECT
  public:
    explicit PackPage(ViewContext &context, QWidget *parent = nullptr);
    /// Which marks are packed: those that the wall shows.
    void setMarks(std::vector<std::string> ids);
    PackSettings settings() const;
    /// What the receiver's device can show of a name.
    NameProfile names() const;
    /// What is told of the pack, a line each.
    QStringList told() const;
    void write(const QString &path);
    /// The pack as pages to read: pictures, what the receiver may know, cautions.
    void writeSheet(const QString &path);

  protected:
    void paintEvent(QPaintEvent *event) override;
    void showEvent(QShowEvent *event) override;

  private:
    std::vector<Mark> chosen() const;
    void refresh();
    void paintCode(QPainter &p, QRectF box);
    ViewContext &context_;
    QComboBox *receiver_, *circle_, *only_, *names_;
    KeyButton *write_;
    std::vector<std::string> ids_;
};

} // namespace heron::app
