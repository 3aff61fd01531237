// GeoJSON (RFC 7946) straight into well-known binary and typed columns, in one pass over the
// text with simdjson's on-demand parser. What a document may be: a FeatureCollection, a
// Feature, or a bare geometry; members may come in any order; members that the standard does
// not know are passed over. Nested objects in properties become columns named "outer.inner",
// arrays stay JSON text.
#pragma once
#include <cstddef>
#include <cstdint>
#include <stdexcept>
#include <string>

#include "columns.hpp"

namespace ochre {

// Where geometry goes: once per feature, in order; size 0 stands for a null geometry.
class GeometrySink {
 public:
  virtual ~GeometrySink() = default;
  virtual void geometry(const uint8_t* data, size_t size) = 0;
  // Called now and then with the share of the text that has been read.
  virtual void progress(double) {}
};

struct GeoJsonError : std::runtime_error {
  GeoJsonError(const std::string& what, const std::string& mend, long feature, size_t line, size_t column)
      : std::runtime_error(what), mend(mend), feature(feature), line(line), column(column) {}
  std::string mend;
  long feature;         // counted from 1; 0 when the fault is outside of a feature
  size_t line, column;  // counted from 1; 0 when unknown
};

struct GeoJsonResult {
  ColumnSet properties;
  Column id;              // empty kind when no feature has one
  size_t features = 0;
  size_t positions = 0;
  size_t beyond_degrees = 0;  // positions outside of ±180, ±90
  double west = 1e300, south = 1e300, east = -1e300, north = -1e300;
};

// Reads a file. Throws GeoJsonError.
GeoJsonResult read_geojson(const std::string& path, GeometrySink& sink);

}  // namespace ochre
