// A row of keys under a picture; two rows where one would leave no room for their words.
#pragma once

#include "kit/key_button.hpp"

#include <QRect>
#include <vector>

namespace heron::app {

struct KeyRow {
    static constexpr int gap = 6, high = 58, high_of_two = 46, narrowest = 56;

    /// How many rows so many keys take in a width.
    static int rows(std::size_t keys, int wide) {
        const int n = static_cast<int>(keys);
        return (wide - (n - 1) * gap) / n < narrowest ? 2 : 1;
    }
    /// How high that is.
    static int height(int rows) { return rows == 1 ? high : 2 * high_of_two + gap; }
    /// Lays them from the room's top; its height is not looked at.
    static void lay(const std::vector<KeyButton *> &keys, const QRect &room, int rows = 1) {
        const auto in_row =
            (keys.size() + static_cast<std::size_t>(rows) - 1) / static_cast<std::size_t>(rows);
        for (std::size_t first = 0, row = 0; first < keys.size(); first += in_row, ++row) {
            const auto n = static_cast<int>(std::min(in_row, keys.size() - first));
            const int each = (room.width() - (n - 1) * gap) / n, tall = rows == 1 ? high : high_of_two,
                      y = room.top() + static_cast<int>(row) * (tall + gap);
            for (int i = 0; i < n; ++i)
                keys[first + static_cast<std::size_t>(i)]->setGeometry(room.left() + i * (each + gap), y,
                                                                       each, tall);
        }
    }
};

} // namespace heron::app
