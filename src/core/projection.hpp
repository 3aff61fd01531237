// Map projections, in each direction. Degrees in, metres out. A choropleth needs equal areas, so
// that a shaded area takes as much ink as it has land; those that are not are here for strips, for
// tiles and for data that ask for them.
//
// Snyder, J.P. (1987) Map Projections: A Working Manual, USGS Professional Paper 1395. The worked
//   examples of its appendix A are this file's tests.
// Šavrič, B., Patterson, T., Jenny, B. (2019) The Equal Earth map projection,
//   International Journal of Geographical Information Science 33(3), 454-465.
// Karney, C.F.F. (2011) Transverse Mercator with an accuracy of a few nanometers, Journal of
//   Geodesy 85, 475-485 (the series of Krüger, 1912).
#pragma once
#include <cstddef>
#include <string>
#include <vector>

#include "point.hpp"

namespace ochre {

enum class ProjectionKind { azimuthal, conic, world, transverse, web_mercator, equirectangular };
std::string projection_name(ProjectionKind kind);
bool projection_kind(const std::string& name, ProjectionKind& kind);

class Projection {
 public:
  // Semi-major axis in metres and eccentricity squared; the default is WGS 84.
  static constexpr double kAxis = 6378137.0;
  static constexpr double kEcc2 = 0.0066943799901413165;

  // `lat1`, `lat2`: the standard parallels of the conic, and of the equirectangular (the first).
  Projection(ProjectionKind kind, double lon0, double lat0, double lat1 = 0, double lat2 = 0,
             double axis = kAxis, double ecc2 = kEcc2);

  // The same with another middle meridian.
  Projection around(double lon0) const {
    return Projection(kind_, lon0, lat0_, lat1_, lat2_, axis_, ecc2_);
  }

  Point forward(double lon, double lat) const;
  Point inverse(double x, double y) const;

  ProjectionKind kind() const { return kind_; }
  double lon0() const { return lon0_; }
  double lat0() const { return lat0_; }
  double lat1() const { return lat1_; }
  double lat2() const { return lat2_; }
  // Where the azimuthal map ends, in metres from its centre: the ellipse with the half axes
  // rim() * stretch() and rim() / stretch().
  double rim() const;
  double stretch() const { return d_; }
  // Whether the map is torn along the meridian opposite its centre, where geometry must be cut.
  bool torn() const {
    return kind_ == ProjectionKind::world || kind_ == ProjectionKind::web_mercator ||
           kind_ == ProjectionKind::equirectangular || kind_ == ProjectionKind::conic;
  }

 private:
  struct Authalic {
    double sin, cos;
  };
  double q(double sin_lat) const;
  Authalic authalic(double lat) const;
  Point azimuthal(double dl, double lat) const;
  double latitude(double authalic) const;
  void prepare_conic();
  void prepare_transverse();
  Point transverse(double dl, double lat) const;
  Point transverse_inverse(double x, double y) const;

  ProjectionKind kind_;
  double lon0_, lat0_, lat1_, lat2_, axis_, ecc2_;
  double qp_, rq_, sin_b1_, cos_b1_, d_;          // equal-area azimuthal and world
  double n_ = 0, c_ = 0, rho0_ = 0;               // conic
  double radius_ = 0, y0_ = 0, to_[6], from_[6];  // transverse Mercator
};

// Collects positions and says which projection suits them and where its centre lies.
class ExtentFinder {
 public:
  void add(double lon, double lat);
  void add_run(const Point* p, size_t n);  // with the places that its edges lead through
  bool empty() const { return n_ == 0; }
  double west() const;  // degrees; east() may be past 180 when the data cross that meridian
  double east() const;
  double south() const { return south_; }
  double north() const { return north_; }
  Projection fit() const;
  // The given kind with its centre and parallels fitted to the data.
  Projection fit(ProjectionKind kind) const;
  // The middle meridian of a map of the whole world whose edge cuts the least land: the one nearest
  // to 0 where several cut as little.
  double least_cut() const;

 private:
  void add_cuts(const Point* p, size_t n);
  void gap(int& first, int& last) const;
  static constexpr int kBins = 720;
  struct Bin {
    double low = 1e9, high = -1e9;
  };
  std::vector<Bin> bins_ = std::vector<Bin>(kBins);
  // How much land lies under each meridian between two bins, in sines of latitudes.
  std::vector<double> cuts_ = std::vector<double>(kBins);
  double south_ = 90, north_ = -90;
  size_t n_ = 0;
  bool any_longitude_ = false;
};

}  // namespace ochre
