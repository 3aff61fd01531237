#include "rings.hpp"

#include <cmath>

#include "pulse.hpp"

namespace ochre {

double signed_area(const Point* p, size_t n) {
  double sum = 0;
  for (size_t i = 1; i + 1 < n; ++i)
    sum += (p[i].x - p[0].x) * (p[i + 1].y - p[0].y) - (p[i + 1].x - p[0].x) * (p[i].y - p[0].y);
  return sum / 2;
}

bool in_ring(const Point* p, size_t n, double x, double y) {
  bool inside = false;
  for (size_t i = 0; i + 1 < n; ++i) {
    Point a = p[i], b = p[i + 1];
    if ((a.y > y) == (b.y > y)) continue;
    if (a.y > b.y) std::swap(a, b);  // the same sum for either direction of a shared border
    double side = (b.x - a.x) * (y - a.y) - (x - a.x) * (b.y - a.y);
    if (side > 0) inside = !inside;
  }
  return inside;
}

namespace {

// Whether ring `inner` lies in ring `outer`: its first point that is not a corner of the other.
bool lies_in(const RingSet& rings, size_t inner, size_t outer) {
  const Point* p = rings.begin(inner);
  const Point* q = rings.begin(outer);
  size_t n = rings.count(inner), m = rings.count(outer);
  // The middle of an edge is seldom on the other ring's border.
  for (size_t i = 0; i + 1 < std::min<size_t>(n, 4); ++i) {
    double x = (p[i].x + p[i + 1].x) / 2, y = (p[i].y + p[i + 1].y) / 2;
    bool on = false;
    for (size_t k = 0; k + 1 < m && !on; ++k)
      on = (q[k] == p[i] && q[k + 1] == p[i + 1]) || (q[k] == p[i + 1] && q[k + 1] == p[i]);
    if (!on) return in_ring(q, m, x, y);
  }
  return in_ring(q, m, p[0].x, p[0].y);
}

std::vector<Box> boxes_of(const RingSet& rings) {
  std::vector<Box> boxes(rings.size());
  for (size_t r = 0; r < rings.size(); ++r)
    for (size_t i = rings.from(r); i < rings.end[r]; ++i)
      boxes[r].add(rings.points[i].x, rings.points[i].y);
  return boxes;
}

bool within(const Box& inner, const Box& outer) {
  return inner.x0 >= outer.x0 && inner.x1 <= outer.x1 && inner.y0 >= outer.y0 &&
         inner.y1 <= outer.y1;
}

}  // namespace

std::vector<size_t> assign_holes(const RingSet& rings, std::vector<bool>& shell, bool exact) {
  std::vector<size_t> owner(rings.size());
  std::vector<size_t> shells;
  for (size_t r = 0; r < rings.size(); ++r) {
    owner[r] = r;
    if (shell[r]) shells.push_back(r);
  }
  if (shells.size() == rings.size()) return owner;
  std::vector<Box> boxes = boxes_of(rings), shell_boxes;
  if (shells.size() == 1 && !exact) {
    for (size_t r = 0; r < rings.size(); ++r) {
      if (within(boxes[r], boxes[shells[0]]))
        owner[r] = shells[0];
      else
        shell[r] = true;
    }
    return owner;
  }
  std::vector<double> area(rings.size());
  for (size_t r : shells) {
    shell_boxes.push_back(boxes[r]);
    area[r] = std::fabs(signed_area(rings.begin(r), rings.count(r)));
  }
  BoxTree tree(shell_boxes);
  for (size_t r = 0; r < rings.size(); ++r) {
    if (shell[r]) continue;
    pulse();
    size_t best = rings.size();
    tree.search(boxes[r], [&](uint32_t k) {
      size_t s = shells[k];
      if ((best == rings.size() || area[s] < area[best]) && within(boxes[r], boxes[s]) &&
          lies_in(rings, r, s))
        best = s;
      return true;
    });
    if (best == rings.size())
      shell[r] = true;
    else
      owner[r] = best;
  }
  return owner;
}

std::vector<bool> shells_by_nesting(const RingSet& rings) {
  std::vector<Box> boxes = boxes_of(rings);
  BoxTree tree(boxes);
  std::vector<bool> shell(rings.size());
  for (size_t r = 0; r < rings.size(); ++r) {
    int around = 0;
    pulse();
    tree.search(boxes[r], [&](uint32_t k) {
      if (k != r && within(boxes[r], boxes[k]) && !(within(boxes[k], boxes[r]) && k > r) &&
          lies_in(rings, r, k))
        ++around;
      return true;
    });
    shell[r] = around % 2 == 0;
  }
  return shell;
}

}  // namespace ochre
