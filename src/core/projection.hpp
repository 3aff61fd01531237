// Map projections. The default is equal-area and fitted to the data, so that a shaded area
// takes as much ink as it has land: Lambert's azimuthal equal-area on the ellipsoid for
// anything up to a hemisphere, Equal Earth for the world. Degrees in, metres out.
//
// Snyder, J.P. (1987) Map Projections: A Working Manual, USGS Professional Paper 1395,
//   pages 187-190 (ellipsoidal form) and 332-335 (worked examples).
// Šavrič, B., Patterson, T., Jenny, B. (2019) The Equal Earth map projection,
//   International Journal of Geographical Information Science 33(3), 454-465.
#pragma once
#include <cstddef>
#include <string>
#include <vector>

namespace ochre {

struct Point {
  double x, y;
};

enum class ProjectionKind { azimuthal, equal_earth };

class Projection {
 public:
  // Semi-major axis in metres and eccentricity squared; the default is WGS 84.
  static constexpr double kAxis = 6378137.0;
  static constexpr double kEcc2 = 0.0066943799901413165;

  Projection(ProjectionKind kind, double lon0, double lat0, double axis = kAxis, double ecc2 = kEcc2);

  Point forward(double lon, double lat) const;
  Point inverse(double x, double y) const;

  ProjectionKind kind() const { return kind_; }
  std::string name() const;
  double lon0() const { return lon0_; }
  double lat0() const { return lat0_; }

 private:
  double q(double sin_lat) const;
  double latitude(double authalic) const;

  ProjectionKind kind_;
  double lon0_, lat0_, axis_, ecc2_;
  double qp_, rq_, sin_b1_, cos_b1_, d_;
};

// Collects positions and says which projection suits them and where its centre lies.
class ExtentFinder {
 public:
  void add(double lon, double lat);
  bool empty() const { return n_ == 0; }
  double west() const;   // degrees; east() may be past 180 when the data cross that meridian
  double east() const;
  double south() const { return south_; }
  double north() const { return north_; }
  Projection fit() const;

 private:
  void gap(int& first, int& last) const;
  static constexpr int kBins = 720;
  struct Bin { double low = 1e9, high = -1e9; };
  std::vector<Bin> bins_ = std::vector<Bin>(kBins);
  double south_ = 90, north_ = -90;
  size_t n_ = 0;
};

}  // namespace ochre
