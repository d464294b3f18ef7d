// The one version of the program; CMakeLists.txt says it.
#pragma once

namespace heron {

extern const char *const version;
extern const char *const program_and_version;

} // namespace heron
