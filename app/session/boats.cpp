#include "session/boats.hpp"

#include <QSettings>
#include <algorithm>

namespace heron::app {
namespace {

const auto boats_key = QStringLiteral("boats"), current_key = QStringLiteral("boat_of_today");

} // namespace

Boats::Boats(Notices &notices, QObject *parent) : QObject(parent), boats_{usual_boat()} {
    const QSettings kept;
    const auto text = kept.value(boats_key).toString().toStdString();
    if (text.empty())
        return;
    if (auto boats = boats_from_json(text); !boats)
        notices.raise(QStringLiteral("boats"), boats.error());
    else if (!boats->empty())
        boats_ = std::move(*boats);
    current_ = std::min<std::size_t>(kept.value(current_key).toUInt(), boats_.size() - 1);
}

void Boats::keep() {
    QSettings kept;
    kept.setValue(boats_key, QString::fromStdString(boats_to_json(boats_)));
    kept.setValue(current_key, static_cast<uint>(current_));
    emit changed();
}

void Boats::choose(std::size_t which) {
    current_ = std::min(which, boats_.size() - 1);
    keep();
}

void Boats::change(const OwnBoat &boat) {
    if (boat == boats_[current_])
        return;
    boats_[current_] = boat;
    keep();
}

void Boats::addAnother() {
    auto another = boat();
    another.name = tr("%1, another").arg(QString::fromStdString(another.name)).left(80).toStdString();
    boats_.push_back(std::move(another));
    choose(boats_.size() - 1);
}

void Boats::remove() {
    if (boats_.size() < 2)
        return;
    boats_.erase(boats_.begin() + static_cast<std::ptrdiff_t>(current_));
    choose(current_ > 0 ? current_ - 1 : 0);
}

} // namespace heron::app
