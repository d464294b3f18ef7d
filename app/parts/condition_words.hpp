// The words that a day's conditions are told by: the same when a trip begins and in the evening, so that the
// record can count them together.
#pragma once

#include "kit/key_button.hpp"

#include <vector>

namespace heron::app {

/// One condition and its choices, a key each; the keys stand on `parent` and can be checked.
struct ConditionKeys {
    QString label;
    std::vector<KeyButton *> keys;
};

/// Wind, sky, clarity and level, in this order; the keys' object names are `wind0` and so on, after `prefix`.
std::vector<ConditionKeys> conditionKeys(QWidget *parent, const QString &prefix = {});

} // namespace heron::app
