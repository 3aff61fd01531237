#include "cut.hpp"

#include <algorithm>
#include <cmath>

#include "arcs.hpp"
#include "link.hpp"

namespace ochre {

namespace {

void orient(std::vector<Point>& ring, bool shell) {
  if ((signed_area(ring.data(), ring.size()) > 0) != shell) std::reverse(ring.begin(), ring.end());
}

// The rings on one side of a line x = at: pieces between crossings are linked in the order in
// which they meet the line, which is inside between every second pair of crossings.
class SideClip {
 public:
  SideClip(double at, bool less) : at_(at), less_(less) {}

  void add(const std::vector<Point>& ring) {
    size_t n = ring.size() - 1, start = n;
    for (size_t i = 0; i < n && start == n; ++i)
      if (!in(ring[i]) && in(ring[(i + 1) % n])) start = i;
    if (start == n) {
      if (n > 0 && in(ring[0])) whole_.push_back(ring);
      return;
    }
    std::vector<Point> piece;
    for (size_t k = 0; k < n; ++k) {
      const Point &a = ring[(start + k) % n], &b = ring[(start + k + 1) % n];
      if (in(a) != in(b)) {
        double t = (at_ - a.x) / (b.x - a.x);
        piece.push_back({at_, a.y + t * (b.y - a.y)});
        if (in(a)) {
          pieces_.push_back(piece);
          piece.clear();
        }
      }
      if (in(b)) piece.push_back(b);
    }
    if (!piece.empty()) pieces_.push_back(piece);
  }

  std::vector<std::vector<Point>> finish() {
    struct End {
      double y;
      size_t piece;
      bool last;
    };
    std::vector<End> ends;
    for (size_t i = 0; i < pieces_.size(); ++i) {
      ends.push_back({pieces_[i].front().y, i, false});
      ends.push_back({pieces_[i].back().y, i, true});
    }
    std::stable_sort(ends.begin(), ends.end(),
                     [](const End& a, const End& b) { return a.y < b.y; });
    std::vector<std::pair<size_t, bool>> partner(2 * pieces_.size());
    for (size_t i = 0; i + 1 < ends.size(); i += 2) {
      partner[2 * ends[i].piece + ends[i].last] = {ends[i + 1].piece, ends[i + 1].last};
      partner[2 * ends[i + 1].piece + ends[i + 1].last] = {ends[i].piece, ends[i].last};
    }
    std::vector<bool> used(pieces_.size());
    std::vector<std::vector<Point>> out = std::move(whole_);
    for (size_t i = 0; i < pieces_.size(); ++i) {
      if (used[i]) continue;
      std::vector<Point> ring;
      size_t now = i;
      bool forward = true;
      while (!used[now]) {
        used[now] = true;
        std::vector<Point> p = pieces_[now];
        if (!forward) std::reverse(p.begin(), p.end());
        ring.insert(ring.end(), p.begin(), p.end());
        auto next = partner[2 * now + forward];
        now = next.first;
        forward = !next.second;
      }
      ring.erase(std::unique(ring.begin(), ring.end()), ring.end());
      if (ring.size() > 1 && ring.front() == ring.back()) ring.pop_back();
      if (ring.size() < 3) continue;
      ring.push_back(ring.front());
      out.push_back(ring);
    }
    return out;
  }

 private:
  bool in(const Point& p) const { return less_ ? p.x < at_ : p.x > at_; }
  double at_;
  bool less_;
  std::vector<std::vector<Point>> whole_, pieces_;
};

std::vector<std::vector<Point>> clip(const std::vector<std::vector<Point>>& rings, double at,
                                     bool less) {
  SideClip side(at, less);
  for (const auto& r : rings)
    side.add(r);
  return side.finish();
}

// A ring that comes through a place twice, as two that touch there.
std::vector<std::vector<Point>> without_touches(const std::vector<Point>& ring) {
  VertexIndex<Point> index(ring.size());
  std::vector<std::vector<Point>> out;
  std::vector<Point> way;
  std::vector<uint32_t> number;
  std::vector<size_t> place(ring.size(), 0);  // where on the way a vertex stands, plus one
  for (const Point& p : ring) {
    uint32_t v = index.number(p);
    if (place[v]) {
      size_t at = place[v] - 1;
      std::vector<Point> loop(way.begin() + at, way.end());
      loop.push_back(p);
      if (loop.size() > 3) out.push_back(loop);
      for (size_t i = at; i < way.size(); ++i)
        place[number[i]] = 0;
      way.resize(at);
      number.resize(at);
    }
    way.push_back(p);
    number.push_back(v);
    place[v] = way.size();
  }
  return out;
}

// A turn forth and back costs a longitude its last bits, and with them what it shares with a
// neighbour: it is looked up among those of the part as given.
class TurnedBack {
 public:
  TurnedBack(const FlatLayer& layer, size_t part) {
    for (size_t r = layer.first_ring(part); r < layer.part_end[part]; ++r)
      for (size_t i = 0; i < layer.ring_size(r); ++i)
        known_.push_back(layer.ring(r)[i].x);
    std::sort(known_.begin(), known_.end());
  }
  double operator()(double x) const {
    auto near = std::lower_bound(known_.begin(), known_.end(), x - 1e-12);
    return near != known_.end() && *near <= x + 1e-12 ? *near : x;
  }

 private:
  std::vector<double> known_;
};

void put_polygons(const std::vector<std::vector<Point>>& rings, double shift,
                  const TurnedBack& back, FlatLayer& out) {
  RingSet set;
  for (const auto& whole : rings)
    for (const auto& r : without_touches(whole)) {
      if (signed_area(r.data(), r.size()) == 0) continue;
      for (Point p : r)
        set.points.push_back({back(p.x + shift), p.y});
      set.end.push_back(set.points.size());
    }
  put_rings(set, out);
}

void cut_polygon(const FlatLayer& in, size_t part, double meridian, FlatLayer& out) {
  std::vector<std::vector<Point>> rings = unroll_part(in, part);
  double low = 1e300, high = -1e300;
  for (size_t r = 0; r < rings.size(); ++r) {
    orient(rings[r], r == 0);
    if (r) continue;
    for (const Point& p : rings[r]) {
      low = std::min(low, p.x);
      high = std::max(high, p.x);
    }
  }
  if (rings.empty()) return;
  TurnedBack back(in, part);
  for (double k = std::floor((low - meridian) / 360); meridian + 360 * k < high; ++k) {
    double west = meridian + 360 * k;
    std::vector<std::vector<Point>> band = rings;
    if (low < west) band = clip(band, west, false);
    if (high > west + 360) band = clip(band, west + 360, true);
    put_polygons(band, -360 * (k + 1), back, out);
  }
}

void cut_line(const FlatLayer& in, size_t part, double meridian, FlatLayer& out) {
  TurnedBack back(in, part);
  for (size_t r = in.first_ring(part); r < in.part_end[part]; ++r) {
    if (in.ring_size(r) < 2) continue;
    std::vector<Point> line = unroll_run(in.ring(r), in.ring_size(r)), now;
    // Which turn the line begins on; from the meridian itself, the side that it goes to.
    double k = std::floor((line[0].x - meridian) / 360);
    if (line[0].x == meridian + 360 * k && line[1].x < line[0].x) k -= 1;
    auto put = [&] {
      if (now.size() < 2) return;
      for (Point& p : now)
        p.x = back(p.x - 360 * (k + 1));
      out.add_ring(now.data(), now.size());
      out.end_part(Shape::line);
    };
    now.push_back(line[0]);
    for (size_t i = 1; i < line.size(); ++i) {
      Point a = line[i - 1], b = line[i];
      double edge = b.x > a.x ? meridian + 360 * (k + 1) : meridian + 360 * k;
      while (b.x != a.x && (b.x > a.x ? b.x > edge : b.x < edge)) {
        Point c{edge, a.y + (b.y - a.y) * (edge - a.x) / (b.x - a.x)};
        now.push_back(c);
        put();
        now.assign(1, c);
        k += b.x > a.x ? 1 : -1;
        edge += b.x > a.x ? 360 : -360;
      }
      now.push_back(b);
    }
    put();
  }
}

bool crosses(const FlatLayer& in, size_t part, double meridian) {
  for (size_t r = in.first_ring(part); r < in.part_end[part]; ++r) {
    const Point* p = in.ring(r);
    if (steps_over(p, in.ring_size(r))) return true;
    double low = 1e300, high = -1e300;
    for (size_t i = 0; i < in.ring_size(r); ++i) {
      low = std::min(low, p[i].x);
      high = std::max(high, p[i].x);
    }
    double first = meridian + 360 * std::ceil((low - meridian) / 360);
    if (first > low && first < high) return true;
    if (first == low && first + 360 < high) return true;
  }
  return false;
}

}  // namespace

void cut_part(const FlatLayer& in, size_t part, double meridian, FlatLayer& out, bool always) {
  bool any = in.first_ring(part) < in.part_end[part];
  if (!any || in.part_shape[part] == Shape::point || !(always || crosses(in, part, meridian))) {
    out.copy_part(in, part);
    return;
  }
  if (in.part_shape[part] == Shape::polygon)
    cut_polygon(in, part, meridian, out);
  else
    cut_line(in, part, meridian, out);
}

FlatLayer cut_layer(const FlatLayer& in, double meridian) {
  FlatLayer out;
  out.name = in.name;
  out.points.reserve(in.points.size());
  for (size_t f = 0; f < in.features(); ++f) {
    for (size_t p = in.first_part(f); p < in.feature_end[f]; ++p)
      cut_part(in, p, meridian, out);
    out.end_feature(in.feature_shape[f]);
  }
  return out;
}

}  // namespace ochre
