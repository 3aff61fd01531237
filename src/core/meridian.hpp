// What a step over 180° is: the one rule. Everything that follows edges in degrees (extent, area,
// cutting, sewing, bending, projecting, checks) asks here.
//
// An edge is a straight line in longitude and latitude (RFC 7946). One that is more than 180°
// long is the short way over 180° instead, so that an edge from 180 to -180 is no way at all. Two
// kinds of edges are an exception: those along a pole, where longitude means nothing, and those of
// a ring that lies on the meridian of 180° as a whole, which is a band round the earth.
#pragma once
#include <cmath>
#include <vector>

#include "flat.hpp"

namespace ochre {

inline bool at_pole(Point p) {
  return std::fabs(p.y) >= 90 - 1e-9;
}
inline bool along_pole(Point a, Point b) {
  return at_pole(a) && at_pole(b) && a.y * b.y > 0;
}

// How far east an edge leads, in degrees.
inline double step_east(Point a, Point b) {
  double dx = b.x - a.x;
  return std::fabs(dx) <= 180 || along_pole(a, b) ? dx : std::remainder(dx, 360);
}

// Whether a run of positions steps over 180°.
bool steps_over(const Point* p, size_t n);

// The run with longitudes that run on past 180°. A pole between two edges stands twice, at the
// longitudes from which and to which the way leads.
std::vector<Point> unroll_run(const Point* p, size_t n, bool closed = false);

// Degrees that an unrolled ring went round the earth; ±360 for one that goes around a pole.
double turn_of(const std::vector<Point>& unrolled);

// The rings of one polygon, unrolled, the shell first: holes lie on its turn. Rings that go around
// a pole are closed along it, all of them along the same, where the first has less land.
std::vector<std::vector<Point>> unroll_part(const FlatLayer& layer, size_t part);

}  // namespace ochre
