// What stands in the tables of a trip, in bytes and text. Inside core/trip only.
#pragma once

#include "files/database.hpp"
#include "geo/position.hpp"
#include "sonar/ping_codec.hpp"
#include "sonar/sounded_row.hpp"
#include "sonar/stream.hpp"

#include <optional>
#include <string>

namespace heron::trip_codec {

std::string text_of(const Installation &installation);
Installation installation_in(const std::string &text); ///< as it was, or none where it cannot be read
void append_row(ByteWriter &w, const SoundedRow &row);
std::optional<SoundedRow> read_row(ByteReader &r);
UnixNs whole_in(const std::string &text); ///< 0 for what is no number
std::int64_t number_of(StreamId stream);
/// The one number that a query about a stream (?1) gives; 0 where there is none.
std::int64_t number_of(const Database &db, const char *sql, StreamId stream);
/// Under which key of `heron_trip` it stands where a stream's transducer hangs.
std::string installation_key(StreamId stream);

} // namespace heron::trip_codec
