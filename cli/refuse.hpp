// How a command says no: one line on stderr, exit code 2.
#pragma once

#include "fault/fault.hpp"

namespace heron::cli {

/// Prints the fault in one line; returns 2.
int refuse(const Fault &fault);

} // namespace heron::cli
