#include "practice/guest_set.hpp"

#include "fault/told.hpp"
#include "files/json.hpp"
#include "marks/mark_json.hpp"
#include "picture/chip_png.hpp"

#include <algorithm>

namespace heron {
namespace {

using nlohmann::json;

constexpr const char *format = "heron-practice";

struct Bad {
    std::string what;
};

std::string text_in(const json &j, const char *field) {
    const auto at = j.find(field);
    if (at == j.end() || !at->is_string())
        throw Bad{told("'{}' is no text", field)};
    auto text = at->get<std::string>();
    if (text.empty() || text.size() > GuestSet::longest_text)
        throw Bad{told("'{}' is empty or longer than {} bytes", field, GuestSet::longest_text)};
    return text;
}

PracticeQuestion question_in(const json &j) {
    if (!j.is_object())
        throw Bad{told("'questions' holds something that is no question")};
    PracticeQuestion q;
    q.skill = Skill::kind;
    q.asks = text_in(j, "asks");
    q.explains = text_in(j, "explains");
    const auto choices = j.find("choices"), right = j.find("right");
    if (choices == j.end() || !choices->is_array() || choices->size() < 2 || choices->size() > 4)
        throw Bad{told("'choices' are not two to four")};
    for (const auto &c : *choices) {
        q.choices.push_back(text_in(json{{"choices", c}}, "choices"));
        if (std::count(q.choices.begin(), q.choices.end(), q.choices.back()) > 1)
            throw Bad{told("'choices' holds one twice")};
    }
    if (right == j.end() || !right->is_number_unsigned() || right->get<std::uint64_t>() >= q.choices.size())
        throw Bad{told("'right' is none of the choices")};
    q.right = right->get<std::size_t>();
    const auto picture = j.find("picture");
    if (picture == j.end() || !picture->is_string())
        throw Bad{told("'picture' is missing")};
    const auto bytes = bytes_of_base64(picture->get_ref<const std::string &>());
    auto chip =
        bytes ? chip_from_png({reinterpret_cast<const char *>(bytes->data()), bytes->size()}) : std::nullopt;
    if (!chip || chip->empty() || chip->width > GuestSet::widest_picture ||
        chip->height > GuestSet::widest_picture)
        throw Bad{told("'picture' is no PNG of {} pixels each way at most", GuestSet::widest_picture)};
    q.picture = std::move(*chip);
    return q;
}

} // namespace

std::string text_of(const GuestSet &set) {
    json questions = json::array();
    for (const auto &q : set.questions) {
        if (!q.picture || q.picture->empty() || questions.size() >= GuestSet::most_questions)
            continue;
        const auto png = png_of_chip(*q.picture);
        questions.push_back({{"asks", q.asks},
                             {"choices", q.choices},
                             {"right", q.right},
                             {"explains", q.explains},
                             {"picture", base64_of({png.begin(), png.end()})}});
    }
    return json{{"format", format}, {"version", 1}, {"title", set.title}, {"questions", questions}}.dump(1);
}

Result<GuestSet> guest_set_of(std::string_view text, const std::string &file) {
    const auto refused = [&](const std::string &what) {
        return fail(file + ": " + what, told("nothing was opened"),
                    told("open a set that this program wrote (*{})", GuestSet::suffix));
    };
    if (text.size() > GuestSet::most_bytes)
        return refused(told("it is larger than {} MiB", GuestSet::most_bytes >> 20));
    const auto j = json::parse(text, nullptr, false);
    if (!j.is_object() || j.value("format", json()) != format)
        return refused(told("it is no set of questions"));
    if (j.value("version", json()) != 1)
        return refused(told("it is of a later version"));
    try {
        GuestSet set;
        set.title = text_in(j, "title");
        const auto questions = j.find("questions");
        if (questions == j.end() || !questions->is_array() || questions->empty() ||
            questions->size() > GuestSet::most_questions)
            throw Bad{told("'questions' are not one to {}", GuestSet::most_questions)};
        for (const auto &q : *questions)
            set.questions.push_back(question_in(q));
        return set;
    } catch (const Bad &bad) {
        return refused(bad.what);
    }
}

} // namespace heron
