#include "files/json_in.hpp"

#include "files/json.hpp"

#include <cmath>

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

std::int64_t whole_in(const nlohmann::json &j, std::int64_t least, std::int64_t most) {
    const auto refused = [&j] {
        return nlohmann::json::type_error::create(302, "is no whole number within its bounds", &j);
    };
    if (j.is_number_unsigned()) {
        const auto v = j.get<std::uint64_t>();
        if (most < 0 || v > static_cast<std::uint64_t>(most) ||
            (least > 0 && v < static_cast<std::uint64_t>(least)))
            throw refused();
        return static_cast<std::int64_t>(v);
    }
    if (j.is_number_integer()) {
        const auto v = j.get<std::int64_t>();
        if (v < least || v > most)
            throw refused();
        return v;
    }
    // Doubles are whole numbers up to 2^53.
    constexpr double exact = 9007199254740992.0;
    const double v = j.is_number_float() ? j.get<double>() : exact * 2;
    if (!(std::fabs(v) <= exact) || v != std::floor(v) || v < static_cast<double>(least) ||
        v > static_cast<double>(most))
        throw refused();
    return static_cast<std::int64_t>(v);
}

nlohmann::json parse_json(std::string_view text, std::size_t most_bytes, int most_depth) {
    // Nothing at all is no JSON, so parsing it tells the caller as anything else that is none does.
    return nlohmann::json::parse(text.size() > most_bytes || depth_of(text) > most_depth ? std::string_view()
                                                                                         : text);
}

} // namespace heron
