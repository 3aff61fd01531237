// Rings on a plane: area, containment, and which hole belongs to which shell.
#pragma once
#include <cstddef>
#include <vector>

#include "box-tree.hpp"
#include "point.hpp"

namespace ochre {

// Closed runs of points in one flat array (the first point is repeated at the end).
struct RingSet {
  std::vector<Point> points;
  std::vector<size_t> end;
  size_t size() const { return end.size(); }
  size_t from(size_t r) const { return r ? end[r - 1] : 0; }
  const Point* begin(size_t r) const { return points.data() + from(r); }
  size_t count(size_t r) const { return end[r] - from(r); }
  void clear() {
    points.clear();
    end.clear();
  }
};

// Positive when counter-clockwise; of a ring with its first point repeated.
double signed_area(const Point* p, size_t n);

// Even-odd; a point on the left or lower edge is inside, on the right or upper outside, so that of
// areas that share borders each point is in exactly one.
bool in_ring(const Point* p, size_t n, double x, double y);

// Which shell each ring belongs to: `shell[r]` is true for shells, and the result has for each
// ring its own number when it is a shell, else that of the smallest shell around it. A hole
// without a shell becomes one itself. With a single shell its box decides, unless `exact`.
std::vector<size_t> assign_holes(const RingSet& rings, std::vector<bool>& shell,
                                 bool exact = false);

// Whether each ring is a shell by how many rings lie around it, whatever way it runs.
std::vector<bool> shells_by_nesting(const RingSet& rings);

}  // namespace ochre
