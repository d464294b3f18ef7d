// XML that comes from outside.
#pragma once

#include <string_view>

namespace heron {

/// Whether it brings a document type or entities of its own: no file of ours or of a chart's needs them, and
/// both have been used to fill a machine's memory and to read its files.
inline bool defines_entities(std::string_view xml) {
    return xml.find("<!DOCTYPE") != std::string_view::npos || xml.find("<!ENTITY") != std::string_view::npos;
}

} // namespace heron
