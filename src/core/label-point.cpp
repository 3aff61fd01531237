#include "label-point.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <queue>

#include "geodesy.hpp"
#include "rings.hpp"

namespace ochre {

namespace {

struct Edge { double x, y, dx, dy, scale; };  // scale: one over the squared length

// All rings of a part as edges on the plane. Rings across 180° are unrolled.
class Inside {
 public:
  Inside(const FlatLayer& layer, size_t part) {
    size_t first = layer.first_ring(part);
    const Point* shell = layer.ring(first);
    double south = 1e300, north = -1e300;
    for (size_t i = 0; i < layer.ring_size(first); ++i) { south = std::min(south, shell[i].y); north = std::max(north, shell[i].y); }
    squeeze_ = std::max(0.01, std::cos((south + north) / 2 * 3.14159265358979323846 / 180));
    origin_ = shell[0].x;
    for (size_t r = first; r < layer.part_end[part]; ++r) {
      const Point* p = layer.ring(r);
      for (size_t i = 0; i + 1 < layer.ring_size(r); ++i) {
        double ax = along(p[i].x), bx = along(p[i + 1].x), ay = p[i].y, by = p[i + 1].y;
        double dx = bx - ax, dy = by - ay, square = dx * dx + dy * dy;
        edges_.push_back({ax, ay, dx, dy, square > 0 ? 1 / square : 0});
        if (r == first) box_.add(ax, ay);
      }
    }
  }
  const Box& box() const { return box_; }
  double back(double x) const { return std::remainder(x / squeeze_ + origin_, 360); }

  // Distance to the nearest border, negative outside. As soon as the border is nearer than
  // `enough` the place cannot matter, and -`enough` is the answer; the search begins at the edge
  // that was nearest to a place close by, which is where it mostly ends.
  double depth(double x, double y, double enough, uint32_t& nearest) const {
    bool inside = false;
    double best = 1e300, stop = enough > 0 ? enough * enough : -1;
    const uint32_t start = nearest, n = static_cast<uint32_t>(edges_.size());
    for (uint32_t k = 0, i = start; k < n; ++k, i = i + 1 == n ? 0 : i + 1) {
      const Edge& e = edges_[i];
      double px = x - e.x, py = y - e.y;
      if ((py < 0) != (py < e.dy)) inside ^= e.dy > 0 ? px * e.dy < e.dx * py : px * e.dy > e.dx * py;
      double t = (px * e.dx + py * e.dy) * e.scale;
      t = t < 0 ? 0 : t > 1 ? 1 : t;
      double qx = px - t * e.dx, qy = py - t * e.dy, d = qx * qx + qy * qy;
      if (d < best) {
        best = d;
        nearest = i;
        if (d < stop) return -enough;
      }
    }
    return inside ? std::sqrt(best) : -std::sqrt(best);
  }
  // The area's centre of mass, a good first guess.
  Point centre() const {
    double a = 0, x = 0, y = 0;
    for (const Edge& e : edges_) {
      double ux = e.x - box_.x0, uy = e.y - box_.y0, vx = ux + e.dx, vy = uy + e.dy, c = ux * vy - vx * uy;
      a += c;
      x += (ux + vx) * c;
      y += (uy + vy) * c;
    }
    if (a == 0) return {(box_.x0 + box_.x1) / 2, (box_.y0 + box_.y1) / 2};
    return {box_.x0 + x / (3 * a), box_.y0 + y / (3 * a)};
  }

 private:
  double along(double lon) const { return std::remainder(lon - origin_, 360) * squeeze_; }
  std::vector<Edge> edges_;
  Box box_;
  double squeeze_, origin_;
};

struct Cell {
  double x, y, half, depth, most;
  uint32_t nearest;
  bool operator<(const Cell& o) const { return most < o.most; }
};

}  // namespace

LabelPoint label_point(const FlatLayer& layer, size_t f) {
  constexpr double kNan = std::numeric_limits<double>::quiet_NaN(), kDegree = 111194.9;
  size_t largest = layer.feature_end[f];
  double most = -1;
  for (size_t p = layer.first_part(f); p < layer.feature_end[f]; ++p) {
    size_t r = layer.first_ring(p);
    if (layer.part_shape[p] != Shape::polygon || r == layer.part_end[p] || layer.ring_size(r) < 4) continue;
    const Point* q = layer.ring(r);
    double area = layer.feature_end[f] - layer.first_part(f) == 1 ? 0 : std::fabs(signed_area(q, layer.ring_size(r))) * std::cos(q[0].y * 3.14159265358979323846 / 180);
    if (area > most) { most = area; largest = p; }
  }
  if (most < 0) return {{kNan, kNan}, kNan};
  Inside in(layer, largest);
  const Box& box = in.box();
  double side = std::min(box.x1 - box.x0, box.y1 - box.y0);
  Point middle = in.centre();
  Cell best{middle.x, middle.y, 0, 0, 0, 0};
  best.depth = in.depth(middle.x, middle.y, 0, best.nearest);
  auto cell = [&](double x, double y, double half, uint32_t nearest) {
    double reach = half * 1.4142135623730951, d = in.depth(x, y, 1.02 * best.depth - reach, nearest);
    return Cell{x, y, half, d, d + reach, nearest};
  };
  if (!(side > 0)) return {{in.back(best.x), best.y}, 0};
  std::priority_queue<Cell> open;
  double half = side / 2;
  // A long thin part would have any number of cells; eight along its length are enough to start.
  half = std::max(half, std::max(box.x1 - box.x0, box.y1 - box.y0) / 16);
  for (double x = box.x0; x < box.x1; x += 2 * half)
    for (double y = box.y0; y < box.y1; y += 2 * half) open.push(cell(x + half, y + half, half, 0));
  for (int tries = 0; !open.empty() && tries < 2000; ++tries) {
    Cell c = open.top();
    open.pop();
    if (c.depth > best.depth) best = c;
    if (c.most - best.depth <= std::max(0.02 * best.depth, 1e-6 * side)) break;
    half = c.half / 2;
    for (int k = 0; k < 4; ++k) {
      Cell d = cell(c.x + (k & 1 ? half : -half), c.y + (k & 2 ? half : -half), half, c.nearest);
      if (d.depth > best.depth) best = d;
      if (d.most > best.depth) open.push(d);
    }
  }
  return {{in.back(best.x), best.y}, best.depth * kDegree};
}

}  // namespace ochre
