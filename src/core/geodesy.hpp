// Lengths and areas on the WGS 84 ellipsoid, in metres and square metres. Degrees in.
//
// Distance and direction: Vincenty, T. (1975) Direct and inverse solutions of geodesics on the
//   ellipsoid with application of nested equations, Survey Review 23(176), 88-93; where its
//   iteration does not settle (almost opposite points), the azimuth is found by bisection of the
//   longitude that it leads to.
// Areas: the edges of a ring are straight lines in longitude and latitude, as RFC 7946 has them.
//   The area between an edge and the equator is the integral of the authalic sine along it, done
//   by Gauss-Legendre quadrature.
#pragma once
#include <cstddef>

#include "flat.hpp"
#include "point.hpp"

namespace ochre {

constexpr double kAuthalicRadius = 6371007.1809;  // of the sphere with the ellipsoid's area
struct Vector3 {
  double x, y, z;
};
Vector3 on_sphere(double lon, double lat);  // a unit vector

struct Ellipsoid {
  double axis = 6378137.0, flattening = 1 / 298.257223563;
};

struct Geodesic {
  double metres, azimuth;
};  // azimuth at the start, degrees from north
Geodesic geodesic(Point from, Point to, const Ellipsoid& e = {});
Point geodesic_end(Point from, double azimuth, double metres, const Ellipsoid& e = {});

double run_length_m(const Point* p, size_t n);
// Of a run whose longitudes run on past 180°: what lies between it and the equator, positive where
// it runs west in the north; of a closed ring, its area, positive when counter-clockwise.
double strip_m2(const Point* p, size_t n, const Ellipsoid& e = {});
// Positive when the ring runs counter-clockwise. A ring around a pole includes the side of it with
// less land.
double ring_area_m2(const Point* p, size_t n, const Ellipsoid& e = {});
// A polygon without its holes: never negative, whichever way its rings run. Between two rings
// around one pole lies a band. Holes that do not lie in their shell are land.
double part_area_m2(const FlatLayer& layer, size_t part);

}  // namespace ochre
