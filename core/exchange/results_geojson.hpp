// Results of a reading as GeoJSON (RFC 7946, WGS 84): docs/recording.md tells every property.
#pragma once

#include "picture/stretches.hpp"
#include "reading/contact.hpp"
#include "screen/picture_reading.hpp"

#include <string>
#include <vector>

namespace heron {

/// One Point feature for each contact that has a place; `left_out` counts those that have none. Coordinates
/// carry seven decimals, a centimetre.
std::string geojson_from_contacts(const std::vector<Contact> &contacts, std::size_t *left_out = nullptr);
/// The same of a picture: each with its `pixel` on the original; what has no place has the geometry null.
std::string geojson_from_picture(const std::vector<PictureContact> &contacts);
/// One LineString for each stretch of the track that has positions.
std::string geojson_from_stretches(const std::vector<Stretch> &stretches);

} // namespace heron
