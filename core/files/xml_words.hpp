// Words in XML.
#pragma once

#include <string>
#include <string_view>

namespace heron {

/// Without the control characters that XML 1.0 allows in no way: all but tab and line ends.
std::string xml_printable(const std::string &text);
/// The name of an element or attribute without its prefix.
std::string_view xml_local(const char *name);

} // namespace heron
