#include "sew.hpp"

#include <algorithm>
#include <map>

#include "arcs.hpp"
#include "link.hpp"
#include "meridian.hpp"
#include "rings.hpp"

namespace ochre {

namespace {

using Ring = std::vector<Point>;

bool on_meridian(Point p) {
  return std::fabs(std::fabs(p.x) - 180) < 1e-6;
}

// One place, one position: 180 for -180, and one longitude for a pole.
Point place_of(Point p) {
  if (at_pole(p)) return {0, p.y > 0 ? 90.0 : -90.0};
  double x = std::remainder(p.x, 360);
  return {std::fabs(std::fabs(x) - 180) < 1e-6 ? 180 : x, p.y};
}

bool has_seam(const FlatLayer& layer, size_t part) {
  if (layer.part_shape[part] != Shape::polygon) return false;
  for (size_t r = layer.first_ring(part); r < layer.part_end[part]; ++r) {
    const Point* p = layer.ring(r);
    for (size_t i = 0; i < layer.ring_size(r); ++i) {
      if (at_pole(p[i])) return true;
      if (i && on_meridian(p[i]) && on_meridian(p[i - 1]) && p[i].y != p[i - 1].y) return true;
    }
  }
  return false;
}

// The parts of one feature that have a seam, taken apart to edges with the land on their left and
// put together without those that run along the seam in both directions.
class Sewing {
 public:
  void add(const FlatLayer& layer, size_t part) {
    std::vector<Ring> rings = unroll_part(layer, part);
    for (size_t r = 0; r < rings.size(); ++r) {
      Ring& ring = rings[r];
      if ((signed_area(ring.data(), ring.size()) > 0) != (r == 0))
        std::reverse(ring.begin(), ring.end());
      for (size_t i = 0; i + 1 < ring.size(); ++i) {
        add_edge(ring[i], ring[i + 1]);
      }
    }
  }

  std::vector<Ring> finish() {
    std::vector<Edge> all = cut_alike();
    VertexIndex<Point> index(2 * all.size());
    std::vector<DirectedEdge> left = unpaired(all, index);
    std::vector<Ring> out;
    for (const auto& run : link_rings(left, index.points)) {
      Ring ring;
      for (uint32_t e : run)
        ring.push_back(index.points[left[e].from]);
      ring.push_back(ring.front());
      if (ring.size() > 3) out.push_back(ring);
    }
    return out;
  }

 private:
  struct Edge {
    Point a, b;
  };

  // An edge that leads all around the earth would begin where it ends; half of it has two ways.
  void add_edge(Point a, Point b) {
    double dx = b.x - a.x;
    if (std::fabs(dx) > 120 && !along_pole(a, b)) {
      Point c{a.x + dx / 2, (a.y + b.y) / 2};
      add_edge(a, c);
      add_edge(c, b);
      return;
    }
    a = place_of(a);
    b = place_of(b);
    if (a != b) edges_.push_back({a, b});
  }

  static bool seam(const Edge& e) {
    return at_pole(e.a) || at_pole(e.b) || (e.a.x == 180 && e.b.x == 180);
  }

  // Edges along the meridian are cut at each vertex that lies on them, so that both sides agree.
  std::vector<Edge> cut_alike() const {
    std::vector<double> heights;
    for (const Edge& e : edges_)
      if (seam(e)) {
        heights.push_back(e.a.y);
        heights.push_back(e.b.y);
      }
    std::sort(heights.begin(), heights.end());
    heights.erase(std::unique(heights.begin(), heights.end()), heights.end());
    std::vector<Edge> out;
    for (const Edge& e : edges_) {
      bool along = seam(e) && (e.a.x == 180 || e.b.x == 180);
      double low = std::min(e.a.y, e.b.y), high = std::max(e.a.y, e.b.y);
      auto from = std::upper_bound(heights.begin(), heights.end(), low);
      auto to = std::lower_bound(heights.begin(), heights.end(), high);
      if (!along || from >= to) {
        out.push_back(e);
        continue;
      }
      std::vector<Point> way(1, e.a);
      for (auto it = from; it != to; ++it)
        way.push_back({180, *it});
      if (e.a.y > e.b.y) std::reverse(way.begin() + 1, way.end());
      way.push_back(e.b);
      for (size_t i = 0; i + 1 < way.size(); ++i)
        out.push_back({way[i], way[i + 1]});
    }
    return out;
  }

  static std::vector<DirectedEdge> unpaired(const std::vector<Edge>& all,
                                            VertexIndex<Point>& index) {
    std::map<std::pair<uint32_t, uint32_t>, int> net;
    auto ends = [&](const Edge& e) {
      return std::make_pair(index.number(e.a), index.number(e.b));
    };
    for (const Edge& e : all) {
      auto [a, b] = ends(e);
      if (seam(e)) net[{std::min(a, b), std::max(a, b)}] += a < b ? 1 : -1;
    }
    std::vector<DirectedEdge> out;
    for (const Edge& e : all) {
      auto [a, b] = ends(e);
      if (seam(e)) {
        int& times = net[{std::min(a, b), std::max(a, b)}];
        int way = a < b ? 1 : -1;
        if (times * way <= 0) continue;
        times -= way;
      }
      out.push_back({a, b, beside(e.a, e.b), beside(e.b, e.a)});
    }
    return out;
  }

  // Where the other end of an edge lies as seen from this one: the short way over 180°, and around
  // a pole in the direction of its longitude.
  static Point beside(Point here, Point other) {
    if (!at_pole(here)) return {here.x + (at_pole(other) ? 0 : step_east(here, other)), other.y};
    double a = other.x * 3.14159265358979323846 / 180;
    return {here.x + std::cos(a), here.y + std::copysign(std::sin(a), here.y * std::sin(a))};
  }

  std::vector<Edge> edges_;
};

// A ring that goes around a pole with the land on its left: positive when it runs east, which is
// land to the north of it.
double round_pole(const Ring& ring) {
  double turn = turn_of(unroll_run(ring.data(), ring.size(), true));
  return std::fabs(turn) < 180 ? 0 : turn;
}

double mean_latitude(const Ring& ring) {
  double sum = 0;
  for (const Point& p : ring)
    sum += p.y;
  return sum / ring.size();
}

// Rings with the land on their left as polygons. Of those around the poles, one with land to the
// north and the next one northward with land to the south have a band between them.
void put_sewn(const std::vector<Ring>& rings, FlatLayer& out) {
  std::vector<std::vector<Ring>> parts;
  std::vector<Ring> holes, round;
  for (const Ring& ring : rings) {
    if (round_pole(ring) != 0) {
      round.push_back(ring);
      continue;
    }
    Ring flat = unroll_run(ring.data(), ring.size(), true);
    if (signed_area(flat.data(), flat.size()) > 0)
      parts.push_back({ring});
    else
      holes.push_back(ring);
  }
  std::sort(round.begin(), round.end(),
            [](const Ring& a, const Ring& b) { return mean_latitude(a) < mean_latitude(b); });
  size_t first_cap = parts.size();
  for (size_t k = 0; k < round.size(); ++k) {
    bool band = k && round_pole(round[k - 1]) > 0 && round_pole(round[k]) < 0;
    if (band)
      parts.back().push_back(round[k]);
    else
      parts.push_back({round[k]});
  }
  std::vector<FlatLayer> shells(parts.size());
  for (size_t i = 0; i < parts.size(); ++i) {
    for (const Ring& ring : parts[i])
      shells[i].add_ring(ring.data(), ring.size());
    shells[i].end_part(Shape::polygon);
  }
  auto holds = [&](size_t i, const Ring& hole) {
    bool inside = false;
    for (const Ring& ring : unroll_part(shells[i], 0))
      for (double turn : {-360.0, 0.0, 360.0})
        inside ^= in_ring(ring.data(), ring.size(), (hole[0].x + hole[1].x) / 2 + turn,
                          (hole[0].y + hole[1].y) / 2);
    return inside;
  };
  for (Ring& hole : holes) {
    size_t owner = parts.size();
    for (size_t i = 0; i < first_cap && owner == parts.size(); ++i)
      if (holds(i, hole)) owner = i;
    if (owner == parts.size() && first_cap < parts.size()) owner = first_cap;
    if (owner < parts.size()) {
      parts[owner].push_back(hole);
      continue;
    }
    std::reverse(hole.begin(), hole.end());  // a hole in nothing is land
    parts.push_back({hole});
  }
  for (const auto& part : parts) {
    for (const Ring& ring : part)
      out.add_ring(ring.data(), ring.size());
    out.end_part(Shape::polygon);
  }
}

}  // namespace

FlatLayer sew_layer(FlatLayer in) {
  std::vector<uint8_t> seam(in.part_end.size());
  bool any = false;
  for (size_t p = 0; p < seam.size(); ++p)
    any |= (seam[p] = has_seam(in, p));
  if (!any) return in;
  FlatLayer out;
  out.name = in.name;
  for (size_t f = 0; f < in.features(); ++f) {
    Sewing sewing;
    bool some = false;
    size_t before = out.part_end.size();
    for (size_t p = in.first_part(f); p < in.feature_end[f]; ++p) {
      if (seam[p])
        sewing.add(in, p);
      else
        out.copy_part(in, p);
      some |= seam[p];
    }
    std::vector<Ring> rings = sewing.finish();
    if (!rings.empty()) put_sewn(rings, out);
    // What lies on the seam as a whole stays as it was.
    for (size_t p = in.first_part(f); some && rings.empty() && p < in.feature_end[f]; ++p)
      if (seam[p]) out.copy_part(in, p);
    // Whoever ends at the meridian without a seam calls it by the same name.
    for (size_t i = out.part_end.size() > before ? out.first_point(out.first_ring(before))
                                                 : out.points.size();
         i < out.points.size(); ++i) {
      if (std::fabs(out.points[i].x + 180) < 1e-6) out.points[i].x = 180;
    }
    bool one = out.part_end.size() - before == 1;
    Shape shape = in.feature_shape[f];
    out.end_feature(shape == Shape::polygon && !one ? Shape::multipolygon : shape);
  }
  return out;
}

}  // namespace ochre
