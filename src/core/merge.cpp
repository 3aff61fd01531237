#include "merge.hpp"

#include <algorithm>
#include <map>

#include "link.hpp"

namespace ochre {

namespace {

// The groups on both sides of each arc, seen in the arc's own direction; -1 where nobody is. An
// arc that one group has on both sides, or that areas laid over each other use again and again,
// keeps what the last two uses say.
struct Sides { int left = -1, right = -1; };

std::vector<Sides> sides_of(const FlatLayer& layer, const BorderNet& b, const std::vector<int>& group) {
  std::vector<Sides> sides(b.net.arcs());
  for (size_t f = 0; f < layer.features(); ++f) {
    if (group[f] < 0) continue;
    for (size_t p = layer.first_part(f); p < layer.feature_end[f]; ++p) {
      if (layer.part_shape[p] != Shape::polygon) continue;
      for (size_t r = layer.first_ring(p); r < layer.part_end[p]; ++r) {
        bool shell = r == layer.first_ring(p);
        // The land is on the left of a shell that runs counter-clockwise.
        bool left = (signed_area(layer.ring(r), layer.ring_size(r)) > 0) == shell;
        for (size_t i = b.net.run_from(r); i < b.net.run_end[r]; ++i) {
          int32_t ref = b.net.run_arc[i];
          bool on_left = left == (ref >= 0);
          Sides& s = sides[ref < 0 ? ~ref : ref];
          (on_left ? s.left : s.right) = group[f];
        }
      }
    }
  }
  return sides;
}

DirectedEdge edge_of(const BorderNet& b, size_t arc, bool back) {
  size_t from = b.net.arc_from(arc), last = b.net.arc_end[arc] - 1;
  auto at = [&](size_t i) { return b.vertex[b.net.vertex[i]]; };
  if (back) return {b.net.vertex[last], b.net.vertex[from], at(last - 1), at(from + 1)};
  return {b.net.vertex[from], b.net.vertex[last], at(from + 1), at(last - 1)};
}

void append_arc(const BorderNet& b, size_t arc, bool back, std::vector<Point>& out, size_t start) {
  size_t from = b.net.arc_from(arc), n = b.net.arc_end[arc] - from;
  for (size_t k = out.size() > start ? 1 : 0; k < n; ++k) out.push_back(b.vertex[b.net.vertex[from + (back ? n - 1 - k : k)]]);
}

}  // namespace

FlatLayer merge_areas(const FlatLayer& layer, const std::vector<int>& group, int groups) {
  BorderNet b = border_net(layer);
  std::vector<Sides> sides = sides_of(layer, b, group);
  struct Ref { uint32_t arc; bool back; };
  std::vector<std::vector<Ref>> of(groups);
  for (uint32_t a = 0; a < sides.size(); ++a) {
    if (sides[a].left == sides[a].right || b.net.arc_end[a] - b.net.arc_from(a) < 2) continue;
    if (sides[a].left >= 0) of[sides[a].left].push_back({a, false});
    if (sides[a].right >= 0) of[sides[a].right].push_back({a, true});
  }
  FlatLayer out;
  for (int g = 0; g < groups; ++g) {
    std::vector<DirectedEdge> edges;
    for (const Ref& r : of[g]) edges.push_back(edge_of(b, r.arc, r.back));
    // Vertices of this group only, numbered anew, so that the cost is that of its own borders.
    std::vector<uint32_t> known;
    for (const DirectedEdge& e : edges) { known.push_back(e.from); known.push_back(e.to); }
    std::sort(known.begin(), known.end());
    known.erase(std::unique(known.begin(), known.end()), known.end());
    std::vector<Point> vertex;
    for (uint32_t v : known) vertex.push_back(b.vertex[v]);
    auto renumber = [&](uint32_t v) { return static_cast<uint32_t>(std::lower_bound(known.begin(), known.end(), v) - known.begin()); };
    for (DirectedEdge& e : edges) { e.from = renumber(e.from); e.to = renumber(e.to); }
    RingSet rings;
    for (const auto& ring : link_rings(edges, vertex)) {
      size_t start = rings.points.size();
      for (uint32_t e : ring) append_arc(b, of[g][e].arc, of[g][e].back, rings.points, start);
      rings.end.push_back(rings.points.size());
    }
    size_t before = out.part_end.size();
    put_rings(rings, out);
    out.end_feature(out.part_end.size() - before == 1 ? Shape::polygon : Shape::multipolygon);
  }
  return out;
}

BorderLines border_lines(const FlatLayer& layer, const std::vector<int>& group, bool outer) {
  BorderNet b = border_net(layer);
  std::vector<Sides> sides = sides_of(layer, b, group);
  std::map<std::pair<int, int>, std::vector<uint32_t>> pairs;
  for (uint32_t a = 0; a < sides.size(); ++a) {
    int left = std::min(sides[a].left, sides[a].right), right = std::max(sides[a].left, sides[a].right);
    if (left == right || (left < 0) != outer || b.net.arc_end[a] - b.net.arc_from(a) < 2) continue;
    pairs[outer ? std::make_pair(-1, -1) : std::make_pair(left, right)].push_back(a);
  }
  BorderLines out;
  for (auto& [pair, arcs] : pairs) {
    // Arcs that follow each other at a place where no third one ends are one line.
    std::map<uint32_t, std::vector<uint32_t>> at;
    for (uint32_t a : arcs) {
      at[b.net.vertex[b.net.arc_from(a)]].push_back(a);
      at[b.net.vertex[b.net.arc_end[a] - 1]].push_back(a);
    }
    std::map<uint32_t, bool> used;
    auto walk = [&](uint32_t arc, uint32_t from) {
      size_t start = out.lines.points.size();
      for (;;) {
        used[arc] = true;
        bool back = b.net.vertex[b.net.arc_from(arc)] != from;
        append_arc(b, arc, back, out.lines.points, start);
        uint32_t end = back ? b.net.vertex[b.net.arc_from(arc)] : b.net.vertex[b.net.arc_end[arc] - 1];
        const auto& next = at[end];
        if (next.size() != 2 || used[next[0] == arc ? next[1] : next[0]]) break;
        arc = next[0] == arc ? next[1] : next[0];
        from = end;
      }
      out.lines.ring_end.push_back(out.lines.points.size());
      out.lines.end_part(Shape::line);
    };
    for (auto& [v, here] : at) if (here.size() != 2) for (uint32_t a : here) if (!used[a]) walk(a, v);
    for (uint32_t a : arcs) if (!used[a]) walk(a, b.net.vertex[b.net.arc_from(a)]);
    out.lines.end_feature(Shape::multiline);
    out.left.push_back(pair.first);
    out.right.push_back(pair.second);
  }
  return out;
}

}  // namespace ochre
