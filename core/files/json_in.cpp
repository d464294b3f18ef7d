#include "files/json_in.hpp"

#include <nlohmann/json.hpp>

namespace heron {
namespace {

int depth_of(std::string_view text) {
    int depth = 0, deepest = 0;
    bool in_text = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (in_text) {
            i += c == '\\' ? 1 : 0;
            in_text = c != '"';
        } else if (c == '"') {
            in_text = true;
        } else if (c == '[' || c == '{') {
            deepest = std::max(deepest, ++depth);
        } else if (c == ']' || c == '}') {
            --depth;
        }
    }
    return deepest;
}

} // namespace

nlohmann::json parse_json(std::string_view text, std::size_t most_bytes, int most_depth) {
    // Nothing at all is no JSON, so parsing it tells the caller as anything else that is none does.
    return nlohmann::json::parse(text.size() > most_bytes || depth_of(text) > most_depth ? std::string_view()
                                                                                         : text);
}

} // namespace heron
