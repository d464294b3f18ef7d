// All places of the program; the one spot where a new one is named.
#pragma once

#include "parts/place.hpp"

namespace heron::app {

Places allPlaces();

} // namespace heron::app
