// One cell of a table (RFC 4180).
#pragma once

#include <string>

namespace heron {

/// Quoted where it must be. What a spreadsheet would take for a formula stands behind a quote, which makes it
/// words.
inline std::string csv_cell(const std::string &text) {
    std::string s = text;
    if (!s.empty() && std::string_view("=+-@\t\r").find(s.front()) != std::string_view::npos)
        s.insert(s.begin(), '\'');
    if (s.find_first_of(",\"\n\r;") == std::string::npos)
        return s;
    std::string out = "\"";
    for (const char c : s)
        out += c == '"' ? "\"\"" : std::string(1, c);
    return out + "\"";
}

} // namespace heron
