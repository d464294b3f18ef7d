// Sentences for the guide, written here in English and translated where a translator is set.
#pragma once

#include <fmt/format.h>
#include <string>
#include <utility>

namespace heron {

/// Gives the words for a sentence with its {} places; the window sets one that asks Qt.
using Translator = std::string (*)(const char *english);
inline Translator &translator() {
    static Translator in_force = nullptr;
    return in_force;
}

/// The sentence in the guide's language, with its figures put in.
template <class... Figures>
std::string told(fmt::format_string<Figures...> english, Figures &&...figures) {
    const fmt::string_view words = english;
    if (translator() == nullptr)
        return fmt::vformat(words, fmt::make_format_args(figures...));
    return fmt::vformat(translator()(std::string(words.data(), words.size()).c_str()),
                        fmt::make_format_args(figures...));
}

} // namespace heron
