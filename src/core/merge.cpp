#include "merge.hpp"

#include <algorithm>
#include <map>
#include <tuple>

#include "cut.hpp"
#include "even-odd.hpp"
#include "geodesy.hpp"
#include "link.hpp"
#include "meridian.hpp"
#include "sew.hpp"

namespace ochre {

namespace {

// A point, or a way there and back: nothing lies within.
bool is_flat(const ArcNet& net, uint32_t arc) {
  auto from = net.vertex.begin() + net.arc_from(arc), to = net.vertex.begin() + net.arc_end[arc];
  return to - from < 2 || std::equal(from, to, std::make_reverse_iterator(to));
}

// Each use of an arc by an area, seen in the arc's own direction.
struct Use {
  uint32_t arc;
  int group;
  uint32_t feature;
  bool left;  // the land is on the left
};

std::vector<Use> uses_of(const FlatLayer& layer, const BorderNet& b,
                         const std::vector<int>& group) {
  std::vector<Use> out;
  out.reserve(b.net.run_arc.size());
  for (size_t f = 0; f < layer.features(); ++f) {
    if (group[f] < 0) continue;
    for (size_t p = layer.first_part(f); p < layer.feature_end[f]; ++p) {
      if (layer.part_shape[p] != Shape::polygon) continue;
      for (size_t r = layer.first_ring(p); r < layer.part_end[p]; ++r) {
        bool shell = r == layer.first_ring(p);
        // The land is on the left of a shell that runs counter-clockwise.
        bool left = (ring_area_m2(layer.ring(r), layer.ring_size(r)) > 0) == shell;
        for (size_t i = b.net.run_from(r); i < b.net.run_end[r]; ++i) {
          int32_t ref = b.net.run_arc[i];
          uint32_t arc = static_cast<uint32_t>(ref < 0 ? ~ref : ref);
          if (is_flat(b.net, arc)) continue;
          out.push_back({arc, group[f], static_cast<uint32_t>(f), left == (ref >= 0)});
        }
      }
    }
  }
  return out;
}

struct DirectedArc {
  uint32_t arc;
  bool back;
};

DirectedEdge edge_of(const BorderNet& b, DirectedArc a) {
  size_t from = b.net.arc_from(a.arc), last = b.net.arc_end[a.arc] - 1;
  auto at = [&](size_t i) {
    return b.vertex[b.net.vertex[i]];
  };
  if (a.back) return {b.net.vertex[last], b.net.vertex[from], at(last - 1), at(from + 1)};
  return {b.net.vertex[from], b.net.vertex[last], at(from + 1), at(last - 1)};
}

void append_arc(const BorderNet& b, DirectedArc a, std::vector<Point>& out, size_t start) {
  size_t from = b.net.arc_from(a.arc), n = b.net.arc_end[a.arc] - from;
  for (size_t k = out.size() > start ? 1 : 0; k < n; ++k) {
    out.push_back(b.vertex[b.net.vertex[from + (a.back ? n - 1 - k : k)]]);
  }
}

// What bounds each group: arcs whose uses in one direction outnumber those in the other.
std::vector<std::vector<DirectedArc>> bounds_of(std::vector<Use> uses, int groups) {
  auto key = [](const Use& u) {
    return std::make_pair(u.group, u.arc);
  };
  std::sort(uses.begin(), uses.end(), [&](const Use& a, const Use& b) { return key(a) < key(b); });
  std::vector<std::vector<DirectedArc>> out(groups);
  for (size_t i = 0, k; i < uses.size(); i = k) {
    int net = 0;
    for (k = i; k < uses.size() && key(uses[k]) == key(uses[i]); ++k)
      net += uses[k].left ? 1 : -1;
    if (net != 0) out[uses[i].group].push_back({uses[i].arc, net < 0});
  }
  return out;
}

// Vertices of one group only, numbered anew, so that the cost is that of its own borders.
std::vector<Point> renumber(const BorderNet& b, std::vector<DirectedEdge>& edges) {
  std::vector<uint32_t> known;
  for (const DirectedEdge& e : edges) {
    known.push_back(e.from);
    known.push_back(e.to);
  }
  std::sort(known.begin(), known.end());
  known.erase(std::unique(known.begin(), known.end()), known.end());
  auto number = [&](uint32_t v) {
    return static_cast<uint32_t>(std::lower_bound(known.begin(), known.end(), v) - known.begin());
  };
  for (DirectedEdge& e : edges) {
    e.from = number(e.from);
    e.to = number(e.to);
  }
  std::vector<Point> vertex;
  vertex.reserve(known.size());
  for (uint32_t v : known)
    vertex.push_back(b.vertex[v]);
  return vertex;
}

void put_group(const BorderNet& b, const std::vector<DirectedArc>& bounds, FlatLayer& out) {
  std::vector<DirectedEdge> edges;
  edges.reserve(bounds.size());
  for (DirectedArc a : bounds)
    edges.push_back(edge_of(b, a));
  std::vector<Point> vertex = renumber(b, edges);
  RingSet rings;
  for (const auto& ring : link_rings(edges, vertex)) {
    size_t start = rings.points.size();
    for (uint32_t e : ring)
      append_arc(b, bounds[e], rings.points, start);
    rings.end.push_back(rings.points.size());
  }
  size_t before = out.part_end.size();
  put_rings(rings, out);
  out.end_feature(out.part_end.size() - before == 1 ? Shape::polygon : Shape::multipolygon);
}

double feature_area(const FlatLayer& layer, size_t f) {
  double sum = 0;
  for (size_t p = layer.first_part(f); p < layer.feature_end[f]; ++p)
    if (layer.part_shape[p] == Shape::polygon) sum += part_area_m2(layer, p);
  return sum;
}

}  // namespace

MergedAreas merge_areas(const FlatLayer& given, const std::vector<int>& group, int groups) {
  FlatLayer layer = cut_layer(given, 180);
  BorderNet b = border_net(layer);
  MergedAreas out;
  for (const auto& bounds : bounds_of(uses_of(layer, b, group), groups))
    put_group(b, bounds, out.layer);
  std::vector<double> sum(groups, 0);
  for (size_t f = 0; f < layer.features(); ++f)
    if (group[f] >= 0) sum[group[f]] += feature_area(given, f);
  for (int g = 0; g < groups; ++g)
    if (!(std::fabs(feature_area(out.layer, g) - sum[g]) <= 1e-9 * sum[g]))
      out.not_the_sum.push_back(g);
  return out;
}

namespace {

// One use an arc and area: what a ring runs along there and back again is no border of it.
std::vector<Use> net_uses(std::vector<Use> uses) {
  auto key = [](const Use& u) {
    return std::make_pair(u.arc, u.feature);
  };
  std::sort(uses.begin(), uses.end(), [&](const Use& a, const Use& b) { return key(a) < key(b); });
  std::vector<Use> out;
  for (size_t i = 0, k; i < uses.size(); i = k) {
    int net = 0;
    for (k = i; k < uses.size() && key(uses[k]) == key(uses[i]); ++k)
      net += uses[k].left ? 1 : -1;
    if (net == 0) continue;
    out.push_back(uses[i]);
    out.back().left = net > 0;
  }
  return out;
}

// Whether a ring of an area crosses itself, so that its land is not on one side of it.
class Crossing {
 public:
  explicit Crossing(const FlatLayer& layer) : layer_(layer), known_(layer.features(), 2) {}
  bool operator()(uint32_t f) {
    if (known_[f] < 2) return known_[f];
    bool crosses = false;
    Point where;
    for (size_t p = layer_.first_part(f); p < layer_.feature_end[f] && !crosses; ++p)
      for (size_t r = layer_.first_ring(p); r < layer_.part_end[p] && !crosses; ++r) {
        std::vector<Point> ring = unroll_run(layer_.ring(r), layer_.ring_size(r), true);
        crosses = crosses_itself(ring.data(), ring.size(), where);
      }
    known_[f] = crosses;
    return crosses;
  }

 private:
  const FlatLayer& layer_;
  std::vector<uint8_t> known_;
};

// The groups on both sides of each arc. Of two areas that seem to lie on one side, with nobody on
// the other, one that crosses itself is taken for a neighbour.
struct Sides {
  std::vector<int> left, right;
};

std::vector<Sides> sides_of(const FlatLayer& layer, const std::vector<Use>& uses, size_t arcs) {
  std::vector<Sides> sides(arcs);
  Crossing crosses(layer);
  for (size_t i = 0, k; i < uses.size(); i = k) {
    Sides& s = sides[uses[i].arc];
    for (k = i; k < uses.size() && uses[k].arc == uses[i].arc; ++k) {
      (uses[k].left ? s.left : s.right).push_back(uses[k].group);
    }
    if (k - i < 2 || (!s.left.empty() && !s.right.empty())) continue;
    std::vector<int>&full = s.left.empty() ? s.right : s.left,
    &none = s.left.empty() ? s.left : s.right;
    for (size_t u = i; u < k && none.empty(); ++u) {
      if (!crosses(uses[u].feature)) continue;
      none.push_back(full[u - i]);
      full.erase(full.begin() + (u - i));
    }
  }
  return sides;
}

using Pairs = std::map<std::pair<int, int>, std::vector<uint32_t>>;

Pairs pairs_of(const std::vector<Sides>& sides, bool outer) {
  Pairs pairs;
  for (uint32_t a = 0; a < sides.size(); ++a) {
    const Sides& s = sides[a];
    if (outer && s.left.empty() != s.right.empty()) pairs[{-1, -1}].push_back(a);
    if (outer) continue;
    for (int l : s.left)
      for (int r : s.right) {
        if (l == r) continue;
        std::vector<uint32_t>& arcs = pairs[{std::min(l, r), std::max(l, r)}];
        if (arcs.empty() || arcs.back() != a) arcs.push_back(a);
      }
  }
  return pairs;
}

// Arcs that follow each other at a place where no third one ends are one line.
class LineWalk {
 public:
  LineWalk(const BorderNet& b, const std::vector<uint32_t>& arcs) : b_(b), arcs_(arcs) {
    for (uint32_t a : arcs) {
      at_[start(a)].push_back(a);
      at_[end(a)].push_back(a);
    }
  }

  void put(FlatLayer& out) {
    for (auto& [vertex, here] : at_) {
      if (here.size() == 2) continue;
      for (uint32_t a : here)
        if (!used_[a]) walk(a, vertex, out);
    }
    for (uint32_t a : arcs_)
      if (!used_[a]) walk(a, start(a), out);
  }

 private:
  uint32_t start(uint32_t a) const { return b_.net.vertex[b_.net.arc_from(a)]; }
  uint32_t end(uint32_t a) const { return b_.net.vertex[b_.net.arc_end[a] - 1]; }

  void walk(uint32_t arc, uint32_t from, FlatLayer& out) {
    std::vector<Point> line;
    for (;;) {
      used_[arc] = true;
      bool back = start(arc) != from;
      append_arc(b_, {arc, back}, line, 0);
      from = back ? start(arc) : end(arc);
      const auto& here = at_[from];
      if (here.size() != 2) break;
      arc = here[0] == arc ? here[1] : here[0];
      if (used_[arc]) break;
    }
    FlatLayer one;
    one.add_ring(line.data(), line.size());
    one.end_part(Shape::line);
    cut_part(one, 0, 180, out);
  }

  const BorderNet& b_;
  const std::vector<uint32_t>& arcs_;
  std::map<uint32_t, std::vector<uint32_t>> at_;
  std::map<uint32_t, bool> used_;
};

}  // namespace

BorderLines border_lines(const FlatLayer& given, const std::vector<int>& group, bool outer) {
  FlatLayer layer = sew_layer(given);
  BorderNet b = border_net(layer);
  BorderLines out;
  std::vector<Sides> sides = sides_of(layer, net_uses(uses_of(layer, b, group)), b.net.arcs());
  for (auto& [pair, arcs] : pairs_of(sides, outer)) {
    LineWalk(b, arcs).put(out.lines);
    out.lines.end_feature(Shape::multiline);
    out.left.push_back(pair.first);
    out.right.push_back(pair.second);
  }
  return out;
}

}  // namespace ochre
