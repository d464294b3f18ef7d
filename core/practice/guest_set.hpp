// Questions to give to guests: pictures and answers in one file, and nothing of where or when or whose.
#pragma once

#include "fault/fault.hpp"
#include "practice/lesson.hpp"

#include <string>
#include <string_view>
#include <vector>

namespace heron {

struct GuestSet {
    static constexpr std::string_view suffix = ".practice.json";
    static constexpr std::size_t most_questions = 200, longest_text = 500, most_bytes = std::size_t{64} << 20;
    static constexpr int widest_picture = 1024;

    std::string title;
    std::vector<PracticeQuestion> questions; ///< each with its picture
};

/// JSON: `format` "heron-practice", `version` 1, `title`, `questions`: `asks`, `choices`, `right` (from 0),
/// `explains`, `picture` (a grey PNG as base64). Questions without a picture are left out.
std::string text_of(const GuestSet &set);
/// Reads such a file of another making: texts, lists and pictures beyond the bounds above, an answer that is
/// not among its choices, and what is no set are refused with the field's name.
Result<GuestSet> guest_set_of(std::string_view text, const std::string &file);

} // namespace heron
