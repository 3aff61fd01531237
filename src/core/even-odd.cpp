#include "even-odd.hpp"

#include <algorithm>
#include <cmath>
#include <map>

#include "arcs.hpp"
#include "link.hpp"
#include "predicates.hpp"
#include "segment-grid.hpp"

namespace ochre {

namespace {

struct Piece {
  Point a, b;
};

SegmentGrid grid_of(const std::vector<Piece>& pieces) {
  Box box;
  for (const Piece& s : pieces) {
    box.add(s.a.x, s.a.y);
    box.add(s.b.x, s.b.y);
  }
  SegmentGrid grid(box, pieces.size());
  for (size_t i = 0; i < pieces.size(); ++i)
    grid.add(static_cast<uint32_t>(i), pieces[i].a, pieces[i].b);
  return grid;
}

// Where three pieces meet, each pair of them computes the place a little differently. On a grid of
// a hundredth of a millimetre on the ground it is one.
Point on_grid(Point p) {
  constexpr double kGrid = 1e10;
  return {std::round(p.x * kGrid) / kGrid, std::round(p.y * kGrid) / kGrid};
}

// Thinner than the grid can tell: such a ring encloses nothing.
bool is_flat(const Point* p, size_t n) {
  double around = 0;
  for (size_t i = 1; i < n; ++i)
    around += std::hypot(p[i].x - p[i - 1].x, p[i].y - p[i - 1].y);
  return std::fabs(signed_area(p, n)) <= 1e-10 * around;
}

// Cuts pieces where they meet; true when anything was cut. Rounding may make new meetings, so the
// caller asks again.
bool cut_pieces(std::vector<Piece>& pieces) {
  SegmentGrid grid = grid_of(pieces);
  std::vector<Piece> out;
  bool any = false;
  for (size_t i = 0; i < pieces.size(); ++i) {
    Piece s = pieces[i];
    std::vector<Point> cuts;
    auto cut = [&](Point p) {
      if (p != s.a && p != s.b) cuts.push_back(p);
    };
    grid.search(s.a, s.b, 0, [&](uint32_t j) {
      if (j == i) return;
      Piece t = pieces[j];
      switch (meeting(s.a, s.b, t.a, t.b)) {
        case Meeting::cross: {
          // Computed the same way for both pieces.
          Piece u = i < j ? s : t, v = i < j ? t : s;
          double ux = u.b.x - u.a.x, uy = u.b.y - u.a.y, vx = v.b.x - v.a.x, vy = v.b.y - v.a.y;
          double k = ((v.a.x - u.a.x) * vy - (v.a.y - u.a.y) * vx) / (ux * vy - uy * vx);
          cut(on_grid({u.a.x + k * ux, u.a.y + k * uy}));
          break;
        }
        case Meeting::touch:
        case Meeting::overlap:
          if (on_segment(s.a, s.b, t.a)) cut(t.a);
          if (on_segment(s.a, s.b, t.b)) cut(t.b);
          break;
        default:
          break;
      }
    });
    bool x = std::fabs(s.b.x - s.a.x) >= std::fabs(s.b.y - s.a.y),
         up = x ? s.b.x > s.a.x : s.b.y > s.a.y;
    std::sort(cuts.begin(), cuts.end(), [&](Point p, Point q) {
      return x ? (up ? p.x < q.x : p.x > q.x) : (up ? p.y < q.y : p.y > q.y);
    });
    Point last = s.a;
    cuts.push_back(s.b);
    any |= cuts.size() > 1;
    for (Point c : cuts)
      if (c != last) {
        out.push_back({last, c});
        last = c;
      }
  }
  pieces.swap(out);
  return any;
}

struct Half {
  uint32_t to;
  double angle;
  int times;
};

}  // namespace

bool crosses_itself(const Point* p, size_t n, Point& where) {
  std::vector<Piece> pieces;
  for (size_t i = 0; i + 1 < n; ++i)
    if (p[i] != p[i + 1]) pieces.push_back({p[i], p[i + 1]});
  if (pieces.size() < 3) return false;
  SegmentGrid grid = grid_of(pieces);
  size_t m = pieces.size();
  bool found = false;
  for (size_t i = 0; i < m && !found; ++i) {
    Piece s = pieces[i];
    grid.search(s.a, s.b, 0, [&](uint32_t j) {
      if (found || j <= i) return;
      Piece t = pieces[j];
      Meeting k = meeting(s.a, s.b, t.a, t.b);
      if (k == Meeting::none) return;
      bool next = j == i + 1 || (i == 0 && j == m - 1);
      if (k == Meeting::ends && next) return;
      found = true;
      where = on_segment(s.a, s.b, t.a) ? t.a : on_segment(s.a, s.b, t.b) ? t.b : s.a;
      if (k == Meeting::cross) {
        double ux = s.b.x - s.a.x, uy = s.b.y - s.a.y, vx = t.b.x - t.a.x, vy = t.b.y - t.a.y;
        double r = ((t.a.x - s.a.x) * vy - (t.a.y - s.a.y) * vx) / (ux * vy - uy * vx);
        where = {s.a.x + r * ux, s.a.y + r * uy};
      }
    });
  }
  return found;
}

RingSet even_odd_rings(const Point* p, size_t n) {
  std::vector<Piece> pieces;
  for (size_t i = 0; i + 1 < n; ++i)
    if (p[i] != p[i + 1]) pieces.push_back({p[i], p[i + 1]});
  for (int round = 0; round < 8 && cut_pieces(pieces); ++round) {}

  // The pieces as edges between numbered vertices, each with the number of times it is run along.
  VertexIndex<Point> index(2 * pieces.size());
  std::map<std::pair<uint32_t, uint32_t>, int> times;
  for (const Piece& s : pieces) {
    uint32_t a = index.number(s.a), b = index.number(s.b);
    if (a != b) ++times[{std::min(a, b), std::max(a, b)}];
  }
  const std::vector<Point>& v = index.points;
  RingSet out;
  if (v.empty()) return out;
  std::vector<std::vector<Half>> half(v.size());
  for (auto& [ends, k] : times) {
    auto angle = [&](uint32_t a, uint32_t b) {
      return std::atan2(v[b].y - v[a].y, v[b].x - v[a].x);
    };
    half[ends.first].push_back({ends.second, angle(ends.first, ends.second), k});
    half[ends.second].push_back({ends.first, angle(ends.second, ends.first), k});
  }
  for (auto& h : half)
    std::sort(h.begin(), h.end(), [](const Half& a, const Half& b) { return a.angle < b.angle; });

  // inside[u][i]: whether the wedge counter-clockwise of the i-th edge at u is land. Left of the
  // leftmost vertex nothing is, and there the wedge after its last edge opens (angles end at 180°).
  std::vector<std::vector<uint8_t>> inside(v.size());
  auto fill = [&](uint32_t u, size_t from, bool value) {
    inside[u].resize(half[u].size());
    for (size_t k = 0; k < half[u].size(); ++k) {
      size_t i = (from + k) % half[u].size();
      if (k) value ^= half[u][i].times & 1;
      inside[u][i] = value;
    }
  };
  uint32_t first = 0;
  for (uint32_t u = 1; u < v.size(); ++u)
    if (v[u].x < v[first].x || (v[u].x == v[first].x && v[u].y < v[first].y)) first = u;
  std::vector<uint32_t> open(1, first);
  fill(first, half[first].size() - 1, false);
  while (!open.empty()) {
    uint32_t u = open.back();
    open.pop_back();
    for (size_t i = 0; i < half[u].size(); ++i) {
      uint32_t w = half[u][i].to;
      if (!inside[w].empty()) continue;
      size_t back = 0;
      while (half[w][back].to != u)
        ++back;
      // Left of the edge from u is right of it from w, which is the wedge before it.
      fill(w, (back + half[w].size() - 1) % half[w].size(), inside[u][i]);
      open.push_back(w);
    }
  }
  std::vector<DirectedEdge> edges;
  for (uint32_t u = 0; u < v.size(); ++u)
    for (size_t i = 0; i < half[u].size(); ++i)
      if ((half[u][i].times & 1) && !inside[u].empty() && inside[u][i])
        edges.push_back({u, half[u][i].to, v[half[u][i].to], v[u]});
  for (const auto& ring : link_rings(edges, v)) {
    if (ring.size() < 3) continue;
    size_t start = out.points.size();
    for (uint32_t e : ring)
      out.points.push_back(v[edges[e].from]);
    out.points.push_back(v[edges[ring[0]].from]);
    if (is_flat(out.points.data() + start, out.points.size() - start))
      out.points.resize(start);
    else
      out.end.push_back(out.points.size());
  }
  return out;
}

}  // namespace ochre
