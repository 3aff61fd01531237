#include "check.hpp"

#include <algorithm>
#include <cmath>
#include <map>

#include "borders-near.hpp"
#include "cut.hpp"
#include "even-odd.hpp"
#include "predicates.hpp"
#include "rings.hpp"

namespace ochre {

namespace {
Box box_of(const FlatLayer& layer) {
  Box box;
  for (const Point& p : layer.points)
    if (std::isfinite(p.x) && std::isfinite(p.y)) box.add(p.x, p.y);
  if (box.empty()) box.add(0, 0);
  return box;
}
}  // namespace

EdgeIndex::EdgeIndex(const FlatLayer& layer) : grid(box_of(layer), layer.points.size()) {
  for (size_t f = 0; f < layer.features(); ++f)
    for (size_t p = layer.first_part(f); p < layer.feature_end[f]; ++p) {
      if (layer.part_shape[p] != Shape::polygon) continue;
      for (size_t r = layer.first_ring(p); r < layer.part_end[p]; ++r) {
        const Point* q = layer.ring(r);
        if (steps_over(q, layer.ring_size(r))) continue;  // cut it first
        for (size_t i = 0; i + 1 < layer.ring_size(r); ++i) {
          if (q[i] == q[i + 1] || !std::isfinite(q[i].x + q[i].y + q[i + 1].x + q[i + 1].y))
            continue;
          grid.add(static_cast<uint32_t>(edges.size()), q[i], q[i + 1]);
          edges.push_back({q[i], q[i + 1], static_cast<uint32_t>(f), static_cast<uint32_t>(r),
                           layer.first_point(r) + i});
        }
      }
    }
}

namespace {

class FeatureChecker {
 public:
  FeatureChecker(const FlatLayer& layer, std::vector<Finding>& out) : layer_(layer), out_(out) {}

  void check(int f, bool height) {
    if (static_cast<uint32_t>(layer_.feature_shape[f]) == 0) {
      found(Kind::no_geometry, f, {0, 0});
      return;
    }
    size_t from = layer_.first_part(f), to = layer_.feature_end[f], points = 0;
    for (size_t p = from; p < to; ++p)
      for (size_t r = layer_.first_ring(p); r < layer_.part_end[p]; ++r)
        points += layer_.ring_size(r);
    if (!points) {
      found(Kind::empty_geometry, f, {0, 0});
      return;
    }
    if (height) found(Kind::height, f, layer_.ring(layer_.first_ring(from))[0]);
    for (size_t p = from; p < to; ++p) {
      for (size_t r = layer_.first_ring(p); r < layer_.part_end[p]; ++r)
        positions(f, r);
      if (layer_.part_shape[p] == Shape::polygon)
        polygon(f, p);
      else if (layer_.part_shape[p] == Shape::line)
        for (size_t r = layer_.first_ring(p); r < layer_.part_end[p]; ++r)
          if (steps_over(layer_.ring(r), layer_.ring_size(r)))
            found(Kind::antimeridian, f, layer_.ring(r)[0]);
    }
    for (auto& [kind, finding] : now_)
      out_.push_back(finding);
    now_.clear();
  }

 private:
  // Of each kind one finding a feature, with the first place and how often.
  void found(Kind kind, int f, Point at) {
    if (kind == Kind::no_geometry || kind == Kind::empty_geometry) {
      out_.push_back({kind, f});
      return;
    }
    auto it = now_.find(kind);
    if (it != now_.end())
      it->second.amount += 1;
    else
      now_[kind] = {kind, f, -1, at, 1};
  }

  void positions(int f, size_t r) {
    const Point* p = layer_.ring(r);
    for (size_t i = 0; i < layer_.ring_size(r); ++i) {
      if (!std::isfinite(p[i].x) || !std::isfinite(p[i].y))
        found(Kind::not_a_number, f, p[i]);
      else if (std::fabs(p[i].x) > 180 || std::fabs(p[i].y) > 90)
        found(Kind::beyond_degrees, f, p[i]);
      if (i && p[i] == p[i - 1]) found(Kind::repeated_point, f, p[i]);
    }
  }

  void polygon(int f, size_t part) {
    size_t first = layer_.first_ring(part);
    bool crossing = false;
    for (size_t r = first; r < layer_.part_end[part]; ++r) {
      std::vector<Point> ring(layer_.ring(r), layer_.ring(r) + layer_.ring_size(r));
      if (ring.empty()) continue;
      for (const Point& p : ring)
        if (!std::isfinite(p.x) || !std::isfinite(p.y)) return;
      if (ring.front() != ring.back()) {
        found(Kind::open_ring, f, ring.back());
        ring.push_back(ring.front());
      }
      if (steps_over(ring.data(), ring.size())) {
        found(Kind::antimeridian, f, ring[0]);
        crossing = true;
        continue;
      }
      double area = signed_area(ring.data(), ring.size());
      Point where;
      if (crosses_itself(ring.data(), ring.size(), where)) {
        bool land = even_odd_rings(ring.data(), ring.size()).size() > 0;
        found(land ? Kind::bow_tie : Kind::flat_ring, f, where);
        continue;
      }
      if (area == 0) {
        found(Kind::flat_ring, f, ring[0]);
        continue;
      }
      if ((area > 0) != (r == first)) found(Kind::backward_ring, f, ring[0]);
      if (r > first && !crossing) {
        const Point* shell = layer_.ring(first);
        std::vector<Point> outer(shell, shell + layer_.ring_size(first));
        if (outer.front() != outer.back()) outer.push_back(outer.front());
        size_t out = 0;
        for (size_t i = 0; i + 1 < ring.size() && i < 3; ++i)
          out += !in_ring(outer.data(), outer.size(), (ring[i].x + ring[i + 1].x) / 2,
                          (ring[i].y + ring[i + 1].y) / 2);
        if (out >= 2) found(Kind::hole_outside, f, ring[0]);
      }
    }
  }

  const FlatLayer& layer_;
  std::vector<Finding>& out_;
  std::map<Kind, Finding> now_;
};

}  // namespace

std::vector<Finding> check_features(const FlatLayer& layer, const std::vector<bool>& height) {
  std::vector<Finding> out;
  FeatureChecker checker(layer, out);
  for (size_t f = 0; f < layer.features(); ++f)
    checker.check(static_cast<int>(f), height[f]);
  return out;
}

std::vector<Finding> check_borders(const FlatLayer& layer, double metres) {
  EdgeIndex index(layer);
  std::map<std::pair<uint32_t, uint32_t>, Finding> overlaps, slivers;
  auto note = [](auto& into, Kind kind, uint32_t a, uint32_t b, Point at, double amount,
                 bool largest) {
    auto key = std::make_pair(std::min(a, b), std::max(a, b));
    auto it = into.find(key);
    if (it == into.end())
      into[key] = {kind, static_cast<int>(key.first), static_cast<int>(key.second), at, amount};
    else if (largest)
      it->second.amount = std::max(it->second.amount, amount);
    else
      it->second.amount += amount;
  };
  for (uint32_t i = 0; i < index.edges.size(); ++i) {
    const auto& e = index.edges[i];
    LocalScale scale(e.a.y);
    double room = metres / std::min(scale.x, scale.y);
    index.grid.search(e.a, e.b, 0, [&](uint32_t j) {
      const auto& g = index.edges[j];
      if (j <= i || g.feature == e.feature) return;
      Meeting m = meeting(e.a, e.b, g.a, g.b);
      if (m == Meeting::cross)
        note(overlaps, Kind::overlap, e.feature, g.feature,
             {(g.a.x + g.b.x) / 2, (g.a.y + g.b.y) / 2}, 1, false);
    });
    // The edge's first vertex against borders of others; a ring's last vertex is another edge's
    // first.
    index.grid.search(e.a, e.a, room, [&](uint32_t j) {
      const auto& g = index.edges[j];
      if (g.feature == e.feature || g.a == e.a || g.b == e.a) return;
      double t = scale.nearest(g.a, g.b, e.a);
      Point foot{g.a.x + t * (g.b.x - g.a.x), g.a.y + t * (g.b.y - g.a.y)};
      double d = scale.distance(foot, e.a);
      if (d <= metres) note(slivers, Kind::sliver, e.feature, g.feature, e.a, d, true);
    });
  }
  std::vector<Finding> out;
  out.reserve(overlaps.size() + slivers.size());
  for (auto& [key, finding] : overlaps)
    out.push_back(finding);
  for (auto& [key, finding] : slivers)
    if (!overlaps.count(key)) out.push_back(finding);
  return out;
}

}  // namespace ochre
