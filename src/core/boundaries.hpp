// What every reader of boundaries gives: geometry to a sink as it comes, and typed columns.
#pragma once
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <string>

#include "columns.hpp"

namespace ochre {

// Where geometry goes: once per feature, in order; size 0 stands for a null geometry.
class GeometrySink {
 public:
  virtual ~GeometrySink() = default;
  virtual void geometry(const uint8_t* data, size_t size) = 0;
  // Called now and then with the share of the file that has been read.
  virtual void progress(double) {}
};

struct Boundaries {
  ColumnSet properties;
  Column id;  // empty kind when no feature has one
  size_t features = 0;
  size_t positions = 0;
  size_t beyond_degrees = 0;  // positions outside of ±180, ±90
  double west = 1e300, south = 1e300, east = -1e300, north = -1e300;
  bool topology = false;      // TopoJSON, not GeoJSON
  size_t collections = 0;     // feature collections of GeoJSON, one after the other
  size_t texts_with_nul = 0;  // from which the character U+0000 was left out
  std::string system;         // a reference system that the file names, unless it is WGS 84 degrees

  void see(double x, double y) {
    if (x < west) west = x;
    if (x > east) east = x;
    if (y < south) south = y;
    if (y > north) north = y;
    if (std::fabs(x) > 180 || std::fabs(y) > 90) ++beyond_degrees;
  }
  void finish() {
    id.finish(features);
    properties.finish(features);
  }
};

}  // namespace ochre
