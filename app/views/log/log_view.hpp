// The place Log: days on the left; of the one in hand its time line, what the whole record supports, and a
// round over marks.
#pragma once

#include "parts/view_context.hpp"
#include "story/log_book.hpp"

#include <QComboBox>
#include <QLineEdit>
#include <QWidget>
#include <set>

namespace heron::app {

class DayPage;
class KeyButton;

class LogView : public QWidget {
    Q_OBJECT
  public:
    explicit LogView(ViewContext &context, QWidget *parent = nullptr);
    enum class Page : std::uint8_t { day, record, round, rules };
    Page page() const { return page_; }
    void setPage(Page page);
    LogBook &book() { return book_; }
    DayPage &dayPage() { return *day_page_; }
    /// What the page says, a line each.
    QStringList lines() const;
    std::size_t day() const { return day_; }
    /// The day in hand and what the record supports, as a PDF.
    void writeReport(const QString &path);
    /// The marks of the round, in their order.
    const std::vector<QString> &round() const { return round_.marks; }
    const LogBook::Round &planned() const { return round_; }
    /// Where a mark of the round was drawn last.
    QPointF spotOf(const QString &mark) const;
    /// What is foretold and wanted of the round.
    LogBook::RoundWish wish() const;

  protected:
    void showEvent(QShowEvent *event) override;
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;
    void wheelEvent(QWheelEvent *event) override;
    void keyPressEvent(QKeyEvent *event) override;

  private:
    static constexpr int panel = 284, day_high = 56, key_high = 56, top = 14;
    void refresh();
    void makeRound();
    void choose(std::ptrdiff_t day);
    int daysShown() const;
    QRect dayRect(std::size_t row) const;
    void paintDays(QPainter &p);
    QString promiseWords(const QString &id) const;
    static QString ruleWords(const LocalRule &rule);
    static QString chanceWords(const Finding &finding);
    void paintRecord(QPainter &p, QRectF room);
    void paintRound(QPainter &p, QRectF room);
    void paintRoundList(QPainter &p, const QRectF &room, const GeoPoint &start);
    void paintRules(QPainter &p, QRectF room);
    void addRoundKeys();
    /// Of the keys that say what is foretold.
    int roundRows() const;
    void addRuleFields();
    void addRule();
    QRectF ruleRect(std::size_t rule) const;
    QString length(double metres) const;

    ViewContext &context_;
    LogBook book_;
    DayPage *day_page_;
    std::vector<KeyButton *> page_keys_;
    KeyButton *table_, *go_, *route_, *report_;
    QComboBox *kind_;
    Page page_ = Page::day;
    std::size_t day_ = 0, first_ = 0, first_finding_ = 0;
    QComboBox *hours_, *wind_, *strength_, *fuel_;
    KeyButton *all_marks_, *add_rule_, *remove_rule_;
    QLineEdit *rule_text_, *rule_water_, *rule_from_, *rule_to_;
    LogBook::Round round_;
    std::set<QString> left_out_;
    std::vector<std::pair<QRectF, QString>> round_spots_; ///< where marks of the round are drawn
    std::optional<std::size_t> rule_;
};

} // namespace heron::app
