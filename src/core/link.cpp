#include "link.hpp"

#include <algorithm>
#include <cmath>

#include "pulse.hpp"

namespace ochre {

namespace {
double angle(Point from, Point to) {
  return std::atan2(to.y - from.y, to.x - from.x);
}
constexpr double kTurn = 6.283185307179586;
}  // namespace

std::vector<std::vector<uint32_t>> link_rings(const std::vector<DirectedEdge>& edges,
                                              const std::vector<Point>& vertex) {
  // Outgoing edges of each vertex, as runs of one array.
  std::vector<uint32_t> order(edges.size()), start;
  for (uint32_t i = 0; i < order.size(); ++i)
    order[i] = i;
  std::sort(order.begin(), order.end(),
            [&](uint32_t a, uint32_t b) { return edges[a].from < edges[b].from; });
  auto outgoing = [&](uint32_t v) {
    return std::lower_bound(order.begin(), order.end(), v,
                            [&](uint32_t e, uint32_t w) { return edges[e].from < w; });
  };
  std::vector<uint8_t> used(edges.size(), 0);
  std::vector<uint32_t> place(vertex.size(), 0);  // where on the way a vertex was met, plus one
  std::vector<std::vector<uint32_t>> rings;
  for (uint32_t first = 0; first < edges.size(); ++first) {
    if (used[first]) continue;
    std::vector<uint32_t> way;
    uint32_t e = first;
    for (;;) {
      pulse();
      used[e] = 1;
      way.push_back(e);
      place[edges[e].from] = static_cast<uint32_t>(way.size());
      uint32_t v = edges[e].to;
      if (place[v]) {
        uint32_t at = place[v] - 1;
        rings.emplace_back(way.begin() + at, way.end());
        for (uint32_t i = at; i < way.size(); ++i)
          place[edges[way[i]].from] = 0;
        way.resize(at);
      }
      double back = angle(vertex[v], edges[e].behind), best = 1e9;
      uint32_t next = UINT32_MAX;
      for (auto it = outgoing(v); it != order.end() && edges[*it].from == v; ++it) {
        if (used[*it]) continue;
        double turn = back - angle(vertex[v], edges[*it].ahead);
        while (turn <= 1e-14)
          turn += kTurn;
        while (turn > kTurn)
          turn -= kTurn;
        if (turn < best) {
          best = turn;
          next = *it;
        }
      }
      if (way.empty() || next == UINT32_MAX) break;
      e = next;
    }
    for (uint32_t i : way)
      place[edges[i].from] = 0;
  }
  return rings;
}

void put_rings(const RingSet& rings, FlatLayer& out) {
  std::vector<bool> shell(rings.size());
  for (size_t r = 0; r < rings.size(); ++r)
    shell[r] = signed_area(rings.begin(r), rings.count(r)) > 0;
  std::vector<size_t> owner = assign_holes(rings, shell, true), order(rings.size());
  for (size_t r = 0; r < order.size(); ++r)
    order[r] = r;
  std::stable_sort(order.begin(), order.end(), [&](size_t a, size_t b) {
    return owner[a] != owner[b] ? owner[a] < owner[b] : owner[a] == a && owner[b] != b;
  });
  for (size_t k = 0; k < order.size(); ++k) {
    size_t r = order[k];
    if (k && owner[r] == r) out.end_part(Shape::polygon);
    std::vector<Point> ring(rings.begin(r), rings.begin(r) + rings.count(r));
    // A hole that lay outside of every shell is land.
    if (owner[r] == r && signed_area(ring.data(), ring.size()) < 0)
      std::reverse(ring.begin(), ring.end());
    out.add_ring(ring.data(), ring.size());
  }
  if (!order.empty()) out.end_part(Shape::polygon);
}

}  // namespace ochre
