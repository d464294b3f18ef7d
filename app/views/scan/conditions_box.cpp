#include "views/scan/conditions_box.hpp"

#include "kit/field_style.hpp"
#include "kit/theme.hpp"

#include <QPainter>
#include <QSettings>

namespace heron::app {

ConditionsBox::ConditionsBox(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    water_ = new QLineEdit(this);
    water_->setObjectName(QStringLiteral("waterName"));
    water_->setPlaceholderText(tr("this trip: on which water?"));
    for (auto &keys : conditionKeys(this))
        rows_.push_back({std::move(keys), -1});
    for (std::size_t i = 0; i < rows_.size(); ++i)
        for (std::size_t k = 0; k < rows_[i].keys.size(); ++k)
            connect(rows_[i].keys[k], &KeyButton::clicked, this, [this, i, k] {
                rows_[i].chosen = static_cast<int>(k);
                for (std::size_t j = 0; j < rows_[i].keys.size(); ++j)
                    rows_[i].keys[j]->setChecked(j == k);
            });
    keep_ = new KeyButton(QString(), tr("Keep"), QKeySequence(), tr("Keep these with the trip"), this);
    keep_->setObjectName(QStringLiteral("keepConditions"));
    skip_ = new KeyButton(QString(), tr("Skip"), QKeySequence(), tr("Ask no more on this trip"), this);
    skip_->setObjectName(QStringLiteral("skipConditions"));
    connect(keep_, &KeyButton::clicked, this, [this] { finish(true); });
    connect(skip_, &KeyButton::clicked, this, [this] { finish(false); });
    connect(water_, &QLineEdit::returnPressed, this, [this] { parentWidget()->parentWidget()->setFocus(); });
    connect(&context_.session.trip, &TripKeeper::began, this, [this] {
        if (context_.session.trip.keeping())
            ask();
    });
    connect(&context_.session.shown, &ShownScan::replaced, this, [this] {
        if (asking_ && context_.session.sources.source() != Sources::Source::sounder) {
            asking_ = false;
            emit askingChanged();
        }
    });
    dressFields(this);
    const auto &preferences = context_.session.preferences;
    // Before guests the water has no name.
    connect(&preferences, &Preferences::companyChanged, this, [this, &preferences] {
        water_->setEchoMode(preferences.inCompany() ? QLineEdit::NoEcho : QLineEdit::Normal);
    });
}

void ConditionsBox::ask() {
    asking_ = true;
    water_->setText(context_.session.trip.water().isEmpty()
                        ? QSettings().value(QStringLiteral("water")).toString()
                        : context_.session.trip.water());
    for (auto &r : rows_) {
        r.chosen = -1;
        for (auto *k : r.keys)
            k->setChecked(false);
    }
    emit askingChanged();
}

void ConditionsBox::finish(bool keep) {
    if (keep) {
        const auto word = [this](std::size_t i) {
            const auto &r = rows_[i];
            return r.chosen < 0 ? std::string()
                                : r.keys[static_cast<std::size_t>(r.chosen)]->text().toStdString();
        };
        TripConditions c{word(0), word(1), word(2), word(3), context_.session.connections.waterTemperature()};
        const UnixNs time = context_.session.shown.empty()
                                ? 0
                                : context_.session.shown.scan().facts(context_.session.shown.newest()).time;
        context_.session.trip.keep([time, c](TripFile &trip) { return trip.set_conditions(time, c); });
        if (!water_->text().trimmed().isEmpty()) {
            QSettings().setValue(QStringLiteral("water"), water_->text().trimmed());
            context_.session.trip.setWater(water_->text());
        }
        context_.session.notices.say(QStringLiteral("conditions"), tr("Kept with the trip."));
    }
    asking_ = false;
    emit askingChanged();
}

void ConditionsBox::resizeEvent(QResizeEvent *) {
    const int w = width() - 32;
    constexpr int field = 34, foot = 48;
    water_->setGeometry(16, 2, w, field);
    int y = field + 4;
    const int each = std::clamp((height() - y - foot) / 4, 44, 56), key = (w - 56 - 8) / 3;
    for (auto &r : rows_) {
        int x = 16 + 56;
        // What has no room while a bar stands over the window waits until it is gone.
        const bool fits = y + 44 <= height() - foot;
        for (auto *k : r.keys) {
            k->setVisible(fits);
            k->setGeometry(x, y + (each - 44) / 2, key, 44);
            x += key + 4;
        }
        y += each;
    }
    keep_->setGeometry(16, height() - 46, w / 2 - 4, 45);
    skip_->setGeometry(16 + w / 2 + 4, height() - 46, w / 2 - 4, 45);
}

void ConditionsBox::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setFont(theme.font(13));
    p.setPen(colour("ink2"));
    for (const auto &r : rows_)
        if (r.keys.front()->isVisible())
            p.drawText(QRect(16, r.keys.front()->y(), 54, 44), Qt::AlignVCenter, r.label);
}

} // namespace heron::app
