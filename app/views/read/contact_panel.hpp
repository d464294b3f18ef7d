// What is said of the selected contact: what it may be and why, why it looks so, where the fish are now, and
// what the guide says that it is.
#pragma once

#include "parts/view_context.hpp"

#include <QElapsedTimer>
#include <QWidget>

namespace heron::app {

class KeyButton;

class ContactPanel : public QWidget {
    Q_OBJECT
  public:
    ContactPanel(ViewContext &context, QWidget *parent = nullptr);
    void show(const Contact *contact, ReadContacts &read);

    enum class Page { what, why, fish, pick };
    Page page() const { return page_; }
    void setPage(Page page);
    const std::optional<SecondLook> &plan() const { return plan_; }
    const std::optional<FishOrLeave> &fishOrLeave() const { return worth_; }
    bool lastHour() const { return last_hour_; }
    /// All that stands on the page, line by line.
    QStringList said() const { return said_; }

  signals:
    void runAsked();  ///< the second look begins
    void corrected(); ///< the guide said what it is

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void showEvent(QShowEvent *event) override;

  private:
    KeyButton *addKey(const char *name, const QString &glyph, const QString &text, const QKeySequence &letter,
                      const QString &tip);
    void layOut();
    void compute();
    void say(Kind kind);
    bool circle() const { return read_ != &context_.reader; }
    double paintLikely(QPainter &p, double y);
    double paintReasons(QPainter &p, double y, double end);
    void paintPlan(QPainter &p, double y);
    void paintWhy(QPainter &p);
    void paintFish(QPainter &p);
    void paintPassMap(QPainter &p, const QRectF &map) const;
    double paintTally(QPainter &p, double y);
    void paintWorth(QPainter &p, double y);
    void paintPick(QPainter &p);
    double wrapped(QPainter &p, double x, double y, const QString &words, int px, bool bold, const char *ink,
                   double end = 1e9);
    QString length(double m, int decimals = 0) const;

    ViewContext &context_;
    ContactReader &reader_;
    PassPlanner &planner_;
    KeyButton *what_, *why_, *fish_, *pick_, *run_, *hour_, *shorter_, *longer_, *take_back_, *weigh_;
    std::vector<std::pair<Kind, KeyButton *>> kinds_;
    Page page_ = Page::what;
    ReadContacts *read_; ///< of which `contact_` is one
    std::optional<Contact> contact_;
    std::optional<SecondLook> plan_;
    std::optional<FishOrLeave> worth_;
    FishTally tally_;
    std::vector<std::string> reasons_;
    bool last_hour_ = false;
    QStringList said_;
};

} // namespace heron::app
