#include "prepare-layer.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include "cut.hpp"
#include "meridian.hpp"
#include "rings.hpp"
#include "sew.hpp"
#include "share-out.hpp"

namespace ochre {

int inset_of(const std::vector<Box>& boxes, const Point* p, size_t n) {
  for (size_t k = 0; k < boxes.size(); ++k) {
    const Box& b = boxes[k];
    double middle = (b.x0 + b.x1) / 2, half = (b.x1 - b.x0) / 2;
    auto inside = [&](Point q) {
      return std::fabs(std::remainder(q.x - middle, 360)) <= half && q.y >= b.y0 && q.y <= b.y1;
    };
    if (n > 0 && std::all_of(p, p + n, inside)) return static_cast<int>(k);
  }
  return -1;
}

namespace {

// How far an edge goes in degrees, along the axis that it goes further.
double degrees_along(Point a, Point b) {
  return std::max(std::fabs(step_east(a, b)), std::fabs(b.y - a.y));
}
bool is_long(double degrees) {
  return degrees > 2 && degrees <= 720;
}

bool has_long_edges(const FlatLayer& in) {
  for (size_t r = 0; r < in.ring_end.size(); ++r)
    for (size_t i = 1; i < in.ring_size(r); ++i)
      if (is_long(degrees_along(in.ring(r)[i - 1], in.ring(r)[i]))) return true;
  return false;
}

}  // namespace

FlatLayer bend_edges(FlatLayer in) {
  if (!has_long_edges(in)) return in;
  FlatLayer out = in;
  out.points.clear();
  for (size_t r = 0; r < in.ring_end.size(); ++r) {
    const Point* p = in.ring(r);
    for (size_t i = 0; i < in.ring_size(r); ++i) {
      out.points.push_back(p[i]);
      if (i + 1 == in.ring_size(r)) break;
      Point a = p[i], b = p[i + 1];
      bool turned = b.x < a.x || (b.x == a.x && b.y < a.y);
      if (turned) std::swap(a, b);
      const double dx = step_east(a, b), dy = b.y - a.y, longest = degrees_along(a, b);
      if (!is_long(longest)) continue;
      int pieces = static_cast<int>(std::ceil(longest / 2));
      for (int k = 1; k < pieces; ++k) {
        double t = double(turned ? pieces - k : k) / pieces;
        out.points.push_back({a.x + t * dx, a.y + t * dy});
      }
    }
    out.ring_end[r] = out.points.size();
  }
  return out;
}

namespace {

class Drawing {
 public:
  Drawing(FlatLayer in, const Projection& map, const std::vector<Inset>& insets)
      : in_(std::move(in)), map_(map), insets_(insets) {
    for (const Inset& i : insets)
      boxes_.push_back(i.box);
  }

  PreparedLayer finish() {
    PreparedLayer out;
    if (boxes_.empty() && (!azimuthal() || is_near())) {
      project(in_.points);
      out.inset.assign(in_.part_end.size(), -1);
      out.layer = std::move(in_);
      return out;
    }
    out.layer.name = in_.name;
    out.layer.points.reserve(in_.points.size());
    projected_.resize(in_.points.size());
    project(projected_);
    for (size_t f = 0; f < in_.features(); ++f) {
      for (size_t p = in_.first_part(f); p < in_.feature_end[f]; ++p) {
        size_t first = in_.first_ring(p);
        bool none = boxes_.empty() || first == in_.part_end[p];
        int inset = none ? -1 : inset_of(boxes_, in_.ring(first), in_.ring_size(first));
        size_t ring = out.layer.ring_end.size();
        for (size_t r = first; r < in_.part_end[p]; ++r)
          add_ring(r, inset, out.layer);
        bool area = in_.part_shape[p] == Shape::polygon && azimuthal();
        if (inset < 0 && area && far_off(out.layer, ring) && holds_far_side(p)) {
          add_rim(out.layer, ring);
        }
        out.layer.end_part(in_.part_shape[p]);
        out.inset.push_back(inset);
      }
      out.layer.end_feature(in_.feature_shape[f]);
    }
    return out;
  }

 private:
  bool azimuthal() const { return map_.kind() == ProjectionKind::azimuthal; }

  // The points of the layer on the map; they may be `to` themselves.
  void project(std::vector<Point>& to) const {
    share_out(to.size(), 1 << 14, [&](size_t from, size_t end) {
      for (size_t i = from; i < end; ++i)
        to[i] = map_.forward(in_.points[i].x, in_.points[i].y);
    });
  }
  // Nothing is bent and nothing filled up to the rim within this many degrees of the centre.
  bool is_near() const {
    return std::all_of(in_.points.begin(), in_.points.end(), [&](Point p) {
      return std::fabs(std::remainder(p.x - map_.lon0(), 360)) < 30 &&
             std::fabs(p.y - map_.lat0()) < 30;
    });
  }

  void add_ring(size_t r, int inset, FlatLayer& out) const {
    const Point* p = in_.ring(r);
    for (size_t i = 0; i < in_.ring_size(r); ++i) {
      if (inset >= 0) {
        const Inset& k = insets_[inset];
        Point m = k.projection.forward(p[i].x, p[i].y);
        out.points.push_back({k.dx + k.scale * m.x, k.dy + k.scale * m.y});
        continue;
      }
      const Point m = projected_[in_.first_point(r) + i];
      if (i && azimuthal()) bend_near_rim(p[i - 1], p[i], out.points.back(), m, 0, out.points);
      out.points.push_back(m);
    }
    out.ring_end.push_back(out.points.size());
  }

  // Near the rim a small step on the globe is a large one on the map.
  void bend_near_rim(Point a, Point b, Point from, Point to, int depth,
                     std::vector<Point>& out) const {
    double far = 1.9 / 2 * map_.rim();
    if (std::hypot(from.x, from.y) < far || std::hypot(to.x, to.y) < far) return;
    if (depth > 10 || std::hypot(to.x - from.x, to.y - from.y) < map_.rim() / 50) return;
    Point c{a.x + step_east(a, b) / 2, (a.y + b.y) / 2}, middle = map_.forward(c.x, c.y);
    bend_near_rim(a, c, from, middle, depth + 1, out);
    out.push_back(middle);
    bend_near_rim(c, b, middle, to, depth + 1, out);
  }

  // Whether anything from this ring on lies in the outer half of the map.
  bool far_off(const FlatLayer& out, size_t ring) const {
    double half = map_.rim() / 2;
    auto far = [&](Point p) {
      return p.x * p.x + p.y * p.y > half * half;
    };
    return std::any_of(out.points.begin() + out.first_point(ring), out.points.end(), far);
  }

  bool holds_far_side(size_t part) const {
    double x = map_.lon0() + 180, y = std::clamp(-map_.lat0(), -90 + 1e-9, 90 - 1e-9);
    bool inside = false;
    for (const auto& ring : unroll_part(in_, part))
      for (double turn : {-720.0, -360.0, 0.0, 360.0})
        inside ^= in_ring(ring.data(), ring.size(), x + turn, y);
    return inside;
  }

  // The rim becomes the shell of a part; what was one is a hole in it.
  void add_rim(FlatLayer& out, size_t ring) const {
    std::vector<Point> rim;
    for (int k = 0; k <= 360; ++k) {
      double a = k % 360 * 3.14159265358979323846 / 180;
      double x = map_.rim() * map_.stretch(), y = map_.rim() / map_.stretch();
      rim.push_back({x * std::cos(a), y * std::sin(a)});
    }
    size_t from = out.first_point(ring);
    out.points.insert(out.points.begin() + from, rim.begin(), rim.end());
    for (size_t r = ring; r < out.ring_end.size(); ++r)
      out.ring_end[r] += rim.size();
    out.ring_end.insert(out.ring_end.begin() + ring, from + rim.size());
  }

  FlatLayer in_;
  const Projection& map_;
  const std::vector<Inset>& insets_;
  std::vector<Box> boxes_;
  std::vector<Point> projected_;  // the points of `in_` on the main map
};

}  // namespace

PreparedLayer prepare_layer(FlatLayer in, const Projection& map, const std::vector<Inset>& insets) {
  FlatLayer whole = sew_layer(std::move(in));
  if (map.torn()) whole = cut_layer(whole, map.lon0() + 180);
  return Drawing(bend_edges(std::move(whole)), map, insets).finish();
}

}  // namespace ochre
