// Geometry as text: the "geometry" member of GeoJSON (RFC 7946, shells counter-clockwise), WKT,
// and whole TopoJSON files.
#pragma once
#include <string>
#include <vector>

#include "decimal-text.hpp"
#include "flat.hpp"

namespace ochre {

// Appends one geometry given as plain well-known binary; "null" or "" for one that is missing.
void put_geojson(std::string& out, const uint8_t* data, size_t size, const DecimalText& numbers);
void put_wkt(std::string& out, const uint8_t* data, size_t size, const DecimalText& numbers);

// One object named `name` (JSON text) with each feature's properties as JSON texts (empty for
// none). Coordinates are rounded to `digits` decimals and stored as differences.
std::string topojson_file(const FlatLayer& layer, const std::string& name,
                          const std::vector<std::string>& properties, int digits);

}  // namespace ochre
