#include "views/log/conditions_form.hpp"

#include "kit/field_style.hpp"
#include "kit/theme.hpp"

#include <QPainter>

namespace heron::app {

ConditionsForm::ConditionsForm(ViewContext &context, LogBook &book, QWidget *parent)
    : QWidget(parent), context_(context), book_(book) {
    std::string DayConditions::*const words[] = {&DayConditions::wind, &DayConditions::sky,
                                                 &DayConditions::clarity, &DayConditions::level};
    for (auto &keys : conditionKeys(this, QStringLiteral("day_")))
        rows_.push_back({std::move(keys), words[rows_.size()]});
    std::swap(rows_[1], rows_[2]); // wind over sky, clarity over level
    for (const auto &r : rows_)
        for (std::size_t k = 0; k < r.keys.size(); ++k)
            connect(r.keys[k], &KeyButton::clicked, this, [this, &r, k] { press(r, k); });
    const auto field = [this](const char *name) {
        auto *edit = new QLineEdit(this);
        edit->setObjectName(QString::fromLatin1(name));
        edit->setMaxLength(20);
        connect(edit, &QLineEdit::editingFinished, this, &ConditionsForm::keepFigures);
        connect(edit, &QLineEdit::returnPressed, this,
                [this] { parentWidget()->parentWidget()->setFocus(); });
        return edit;
    };
    temperature_ = field("dayTemperature");
    level_ = field("dayLevelFigure");
    dressFields(this);
}

void ConditionsForm::show(const QString &date, const DayConditions &known) {
    const bool other = date != date_;
    date_ = date;
    known_ = known;
    for (const auto &r : rows_)
        for (auto *k : r.keys)
            k->setChecked(k->text().toStdString() == known_.*r.word);
    const auto units = context_.session.preferences.units();
    const bool feet = units == UnitSystem::feet;
    temperature_->setPlaceholderText(feet ? tr("°F") : tr("°C"));
    level_->setPlaceholderText(feet ? tr("ft over the datum") : tr("m over the datum"));
    if (other || !temperature_->hasFocus())
        temperature_->setText(
            known_.temperature_c
                ? QString::fromStdString(print_temperature(*known_.temperature_c, units, 1).text())
                : QString());
    if (other || !level_->hasFocus())
        level_->setText(known_.level_m
                            ? QString::fromStdString(print_length(*known_.level_m, units, 2).text())
                            : QString());
}

// A second press takes the word back: then what the trips tell holds again.
void ConditionsForm::press(const Row &row, std::size_t key) {
    auto own = book_.written(date_);
    const auto word = row.keys[key]->text().toStdString();
    own.*row.word = own.*row.word == word ? std::string() : word;
    book_.writeDown(date_, own);
}

// What is no figure of a water goes back to what it was, with a word.
bool ConditionsForm::keepFigure(QLineEdit *field, std::optional<double> DayConditions::*figure,
                                const std::optional<double> &typed, bool lawful) {
    auto own = book_.written(date_);
    if (field->text().trimmed().isEmpty())
        (own.*figure).reset();
    else if (typed && lawful)
        own.*figure = typed;
    else
        return false;
    if (!(own == book_.written(date_)))
        book_.writeDown(date_, own);
    return true;
}

void ConditionsForm::keepFigures() {
    if (date_.isEmpty())
        return;
    const auto units = context_.session.preferences.units();
    const auto same = [](const QLineEdit *field) { return !field->isModified(); };
    const auto words = [](const QLineEdit *field) { // a true minus sign is how figures are shown
        return field->text().trimmed().replace(QChar(0x2212), QLatin1Char('-')).toStdString();
    };
    const auto celsius = parse_temperature_c(words(temperature_), units);
    const auto metres = parse_length_m(words(level_), units);
    const auto topic = QStringLiteral("day-conditions");
    const auto refuse = [&](QLineEdit *field, const QString &what, const QString &like) {
        context_.session.notices.raise(topic, {what.arg(field->text()).toStdString(),
                                               tr("nothing was changed").toStdString(), like.toStdString()});
        field->setModified(false);
    };
    context_.session.notices.pass(topic);
    if (!same(temperature_) && !keepFigure(temperature_, &DayConditions::temperature_c, celsius,
                                           celsius && DayConditions::lawful_temperature(*celsius)))
        refuse(temperature_, tr("'%1' is no temperature of a water"), tr("54 F or 12 C is"));
    if (!same(level_) &&
        !keepFigure(level_, &DayConditions::level_m, metres, metres && DayConditions::lawful_level(*metres)))
        refuse(level_, tr("'%1' is no level of a lake"), tr("-4 ft or -1.2 m is"));
    show(date_, known_);
}

void ConditionsForm::resizeEvent(QResizeEvent *) {
    lay();
}

// Two columns of words, and the figures under them.
void ConditionsForm::lay() {
    const int half = width() / 2 - 8, each = std::clamp((height() - 8) / 3, 48, 76),
              wide = (half - label_wide - 8) / 3;
    for (std::size_t i = 0; i < rows_.size(); ++i) {
        int x = (i % 2 == 0 ? 0 : half + 16) + label_wide;
        const int y = static_cast<int>(i / 2) * each + (each - 46) / 2;
        for (auto *k : rows_[i].keys) {
            k->setGeometry(x, y, wide, 46);
            x += wide + 4;
        }
    }
    const int y = 2 * each + (each - 46) / 2;
    temperature_->setGeometry(label_wide, y, 3 * wide + 8, 46);
    level_->setGeometry(half + 16 + label_wide, y, 3 * wide + 8, 46);
}

void ConditionsForm::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setFont(Theme::instance().font(14));
    p.setPen(colour("ink2"));
    for (const auto &r : rows_)
        p.drawText(QRect(r.keys.front()->x() - label_wide, r.keys.front()->y(), label_wide - 6, 46),
                   Qt::AlignVCenter, r.label);
    for (const auto &[field, word] : {std::pair{temperature_, tr("Water")}, {level_, tr("Level")}})
        p.drawText(QRect(field->x() - label_wide, field->y(), label_wide - 6, 46), Qt::AlignVCenter, word);
}

} // namespace heron::app
