#include "label-point.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <queue>
#include <utility>

#include "geodesy.hpp"
#include "meridian.hpp"
#include "prepare-layer.hpp"
#include "pulse.hpp"
#include "sew.hpp"
#include "share-out.hpp"

namespace ochre {

namespace {

constexpr double kPi = 3.14159265358979323846, kRad = kPi / 180;

Vector3 minus(Vector3 a, Vector3 b) {
  return {a.x - b.x, a.y - b.y, a.z - b.z};
}
double dot(Vector3 a, Vector3 b) {
  return a.x * b.x + a.y * b.y + a.z * b.z;
}

// An edge of the border as a chord of the unit sphere.
struct Edge {
  Vector3 from, way;
  double scale;  // one over the squared length
  Point a, b;    // degrees
};
// An edge in unrolled degrees that tells inside from outside; seams belong to these too.
struct Wall {
  double x, y, dx, dy;
};

class Inside {
 public:
  explicit Inside(const FlatLayer& sewn, size_t part) {
    FlatLayer one;
    one.copy_part(sewn, part);
    FlatLayer bent = bend_edges(one);
    for (size_t r = 0; r < bent.ring_end.size(); ++r)
      add_border(bent.ring(r), bent.ring_size(r));
    for (const auto& ring : unroll_part(one, 0)) {
      for (size_t i = 0; i + 1 < ring.size(); ++i) {
        walls_.push_back(
            {ring[i].x, ring[i].y, ring[i + 1].x - ring[i].x, ring[i + 1].y - ring[i].y});
      }
      if (box_.empty())
        for (const Point& p : ring)
          box_.add(p.x, p.y);
    }
  }
  const Box& box() const { return box_; }

  // Distance to the nearest border on the unit sphere, negative outside. As soon as the border is
  // nearer than `enough` the place cannot matter, and -`enough` is the answer; the search begins
  // at the edge that was nearest to a place close by, which is where it mostly ends.
  double depth(Point p, double enough, uint32_t& nearest) const {
    pulse();
    Vector3 at = on_sphere(p.x, p.y);
    double best = 1e300, stop = enough > 0 ? enough * enough : -1;
    const uint32_t start = nearest, n = static_cast<uint32_t>(edges_.size());
    for (uint32_t k = 0, i = start; k < n; ++k, i = i + 1 == n ? 0 : i + 1) {
      double d = squared(edges_[i], at);
      if (d >= best) continue;
      best = d;
      nearest = i;
      if (d < stop) return -enough;
    }
    return inside(p) ? std::sqrt(best) : -std::sqrt(best);
  }

  // The area's centre of mass in degrees, a good first guess.
  Point centre() const {
    double a = 0, x = 0, y = 0;
    for (const Wall& w : walls_) {
      double ux = w.x - box_.x0, uy = w.y - box_.y0, vx = ux + w.dx, vy = uy + w.dy,
             c = ux * vy - vx * uy;
      a += c;
      x += (ux + vx) * c;
      y += (uy + vy) * c;
    }
    if (a == 0) return {(box_.x0 + box_.x1) / 2, (box_.y0 + box_.y1) / 2};
    return {box_.x0 + x / (3 * a), box_.y0 + y / (3 * a)};
  }

  // Metres on the ellipsoid to an edge.
  double metres(Point p, uint32_t edge) const {
    pulse();
    const Edge& e = edges_[edge];
    auto at = [&](double t) {
      return geodesic(p, {e.a.x + t * step_east(e.a, e.b), e.a.y + t * (e.b.y - e.a.y)}).metres;
    };
    // By the golden section, because the distance to a straight line has one low.
    constexpr double kGold = 0.6180339887498949;
    double low = 0, high = 1, l = 1 - kGold, h = kGold, at_l = at(l), at_h = at(h);
    for (int i = 0; i < 34; ++i) {
      if (at_l < at_h) {
        high = std::exchange(h, l);
        at_h = at_l;
        l = high - kGold * (high - low);
        at_l = at(l);
      } else {
        low = std::exchange(l, h);
        at_l = at_h;
        h = low + kGold * (high - low);
        at_h = at(h);
      }
    }
    return std::min(at_l, at_h);
  }

 private:
  void add_border(const Point* p, size_t n) {
    for (size_t i = 0; i + 1 < n; ++i) {
      Vector3 a = on_sphere(p[i].x, p[i].y), b = on_sphere(p[i + 1].x, p[i + 1].y),
              way = minus(b, a);
      double square = dot(way, way);
      edges_.push_back({a, way, square > 0 ? 1 / square : 0, p[i], p[i + 1]});
    }
  }

  static double squared(const Edge& e, Vector3 p) {
    Vector3 off = minus(p, e.from);
    double t = dot(off, e.way) * e.scale;
    t = t < 0 ? 0 : t > 1 ? 1 : t;
    Vector3 rest{off.x - t * e.way.x, off.y - t * e.way.y, off.z - t * e.way.z};
    return dot(rest, rest);
  }

  bool inside(Point p) const {
    bool in = false;
    for (const Wall& w : walls_) {
      double px = p.x - w.x, py = p.y - w.y;
      if ((py < 0) == (py < w.dy)) continue;
      in ^= w.dy > 0 ? px * w.dy < w.dx * py : px * w.dy > w.dx * py;
    }
    return in;
  }

  std::vector<Edge> edges_;
  std::vector<Wall> walls_;
  Box box_;
};

struct Cell {
  Point at;
  double half, depth, most;
  uint32_t nearest;
  bool operator<(const Cell& o) const { return most < o.most; }
};

// How far a cell's corner can be from its middle, on the unit sphere.
double reach_of(Point middle, double half) {
  double nearest_equator = std::max(0.0, std::fabs(middle.y) - half);
  double narrow = std::cos(std::min(nearest_equator, 90.0) * kRad);
  return half * kRad * std::sqrt(1 + narrow * narrow);
}

LabelPoint search(const Inside& in) {
  const Box& box = in.box();
  double side = std::min(box.x1 - box.x0, box.y1 - box.y0);
  Point middle = in.centre();
  Cell best{middle, 0, 0, 0, 0};
  best.depth = in.depth(middle, 0, best.nearest);
  auto degrees = [](Point p) {
    return Point{std::remainder(p.x, 360), p.y};
  };
  if (!(side > 0)) return {degrees(best.at), 0};
  auto cell = [&](Point at, double half, uint32_t nearest) {
    double reach = reach_of(at, half), d = in.depth(at, 1.01 * best.depth - reach, nearest);
    return Cell{at, half, d, d + reach, nearest};
  };
  std::priority_queue<Cell> open;
  // A long thin part would have any number of cells; eight along its length are enough to start.
  double half = std::max(side / 2, std::max(box.x1 - box.x0, box.y1 - box.y0) / 16);
  for (double x = box.x0; x < box.x1; x += 2 * half)
    for (double y = box.y0; y < box.y1; y += 2 * half) {
      open.push(cell({x + half, std::min(y + half, 90.0)}, half, 0));
    }
  for (int tries = 0; !open.empty() && tries < 4000; ++tries) {
    Cell c = open.top();
    open.pop();
    if (c.depth > best.depth) best = c;
    if (c.most - best.depth <= std::max(0.01 * best.depth, 1e-6 * side * kRad)) break;
    half = c.half / 2;
    for (int k = 0; k < 4; ++k) {
      Point at{c.at.x + (k & 1 ? half : -half), c.at.y + (k & 2 ? half : -half)};
      Cell d = cell(at, half, c.nearest);
      if (d.depth > best.depth) best = d;
      if (d.most > best.depth) open.push(d);
    }
  }
  double metres = in.metres(degrees(best.at), best.nearest);
  return {degrees(best.at), best.depth < 0 ? -metres : metres};
}

}  // namespace

LabelPoint label_point(const FlatLayer& layer, size_t f) {
  constexpr double kNan = std::numeric_limits<double>::quiet_NaN();
  FlatLayer one;
  for (size_t p = layer.first_part(f); p < layer.feature_end[f]; ++p) {
    size_t r = layer.first_ring(p);
    bool area =
        layer.part_shape[p] == Shape::polygon && r < layer.part_end[p] && layer.ring_size(r) >= 4;
    if (area) one.copy_part(layer, p);
  }
  one.end_feature(Shape::multipolygon);
  if (one.part_end.empty()) return {{kNan, kNan}, kNan};
  FlatLayer sewn = sew_layer(one);
  size_t largest = 0;
  double most = -1;
  for (size_t p = 0; p < sewn.part_end.size() && sewn.part_end.size() > 1; ++p) {
    double area = part_area_m2(sewn, p);
    if (area > most) {
      most = area;
      largest = p;
    }
  }
  return search(Inside(sewn, largest));
}

std::vector<LabelPoint> label_points(const FlatLayer& layer) {
  std::vector<LabelPoint> out(layer.features());
  share_out(out.size(), 64, [&](size_t from, size_t to) {
    for (size_t f = from; f < to; ++f)
      out[f] = label_point(layer, f);
  });
  return out;
}

}  // namespace ochre
