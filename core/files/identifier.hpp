// Identifiers that are given once and stay, whatever a thing is called.
#pragma once

#include <string>

namespace heron {

/// A new random identifier (RFC 9562 version 4), such as "0f8fad5b-d9cb-469f-a165-70867728950e".
std::string new_identifier();

} // namespace heron
