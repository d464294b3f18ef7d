// A trip from the disk into a scan: what is known of every row, the track, and how to fetch the samples.
#pragma once

#include "picture/scan.hpp"
#include "trip/trip_file.hpp"

namespace heron {

/// Fills an empty scan. Rows at the end whose facts were not written yet (a kill, a power cut) go through the
/// bottom tracker again; what was found is written back where the trip is open to write. `overview` gets the
/// whole trip small. The trip must live as long as the scan fetches from it.
Result<void> open_into(TripFile &trip, Scan &scan, Overview &overview, StreamId stream = StreamId::side);

} // namespace heron
