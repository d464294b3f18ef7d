// Conditions of a day, written down in the evening or put right: a press a word, two figures.
#pragma once

#include "parts/condition_words.hpp"
#include "parts/view_context.hpp"
#include "story/log_book.hpp"

#include <QLineEdit>
#include <QWidget>

namespace heron::app {

class ConditionsForm : public QWidget {
    Q_OBJECT
  public:
    ConditionsForm(ViewContext &context, LogBook &book, QWidget *parent);
    /// Of a day, "2026-05-14".
    void show(const QString &date, const DayConditions &known);

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;

  private:
    struct Row : ConditionKeys {
        std::string DayConditions::*word = nullptr;
    };
    void press(const Row &row, std::size_t key);
    void keepFigures();
    bool keepFigure(QLineEdit *field, std::optional<double> DayConditions::*figure,
                    const std::optional<double> &typed, bool lawful);
    void lay();
    static constexpr int label_wide = 66;

    ViewContext &context_;
    LogBook &book_;
    QString date_;
    DayConditions known_;
    std::vector<Row> rows_;
    QLineEdit *temperature_, *level_;
};

} // namespace heron::app
