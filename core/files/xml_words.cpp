#include "files/xml_words.hpp"

namespace heron {

std::string xml_printable(const std::string &text) {
    std::string out;
    for (const char c : text)
        if (static_cast<unsigned char>(c) >= 0x20 || c == '\t' || c == '\n' || c == '\r')
            out += c;
    return out;
}

std::string_view xml_local(const char *name) {
    const std::string_view whole = name;
    const auto colon = whole.find(':');
    return colon == std::string_view::npos ? whole : whole.substr(colon + 1);
}

} // namespace heron
