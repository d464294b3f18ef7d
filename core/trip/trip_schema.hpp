// The tables of a trip, and how older ones become today's.
#pragma once

#include "files/database.hpp"

namespace heron {

/// Makes an empty database a trip of today's schema. Inside a transaction of the caller's.
bool make_trip_schema(Database &db);

/// Copies the trip beside itself, upgrades the copy, and puts it in the place of the first when it is whole.
/// The connection given must be closed afterwards: it looks at the file that was replaced.
Result<void> upgrade_on_a_copy(Database &db, std::int64_t schema);

} // namespace heron
