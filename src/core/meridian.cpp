#include "meridian.hpp"

#include <algorithm>

#include "geodesy.hpp"

namespace ochre {

namespace {

// All on the meridian of 180°, with a step from one of its sides to the other off the poles.
bool band_round_earth(const Point* p, size_t n) {
  bool round = false;
  for (size_t i = 0; i < n; ++i) {
    if (std::fabs(p[i].x) != 180) return false;
    if (i && std::fabs(p[i].x - p[i - 1].x) == 360 && !along_pole(p[i - 1], p[i])) round = true;
  }
  return round;
}

// Edges to and from a pole run along meridians: a pole has the longitude of the place before it,
// and stands once more with that of the place after it.
// A closed ring begins off the poles, so that no way along one is taken apart.
std::vector<Point> with_meridians(const Point* from, size_t n, bool closed) {
  std::vector<Point> p(from, from + n), out;
  auto off = std::find_if(p.begin(), p.end(), [](Point q) { return !at_pole(q); });
  if (closed && off != p.begin() && off != p.end()) {
    std::rotate(p.begin(), off, p.end() - 1);
    p.back() = p.front();
  }
  for (size_t i = 0; i < n; ++i) {
    bool pole = at_pole(p[i]);
    size_t before = i ? i - 1 : closed && n > 1 ? n - 2 : i;
    size_t after = i + 1 < n ? i + 1 : closed && n > 1 ? 1 : i;
    if (pole && !at_pole(p[before])) out.push_back({p[before].x, p[i].y});
    bool ends = pole && (!at_pole(p[before]) || !at_pole(p[after]));
    if (!ends) out.push_back(p[i]);
    if (pole && !at_pole(p[after])) out.push_back({p[after].x, p[i].y});
  }
  return out;
}

// A ring that comes through a pole does not go around it, so the steps along the pole make up for
// the others, whichever way they are written.
void close_through_pole(std::vector<Point>& ring) {
  size_t from = ring.size(), to = 0;
  for (size_t i = 0; i + 1 < ring.size(); ++i) {
    if (!along_pole(ring[i], ring[i + 1])) continue;
    if (from < ring.size() && i > to) return;  // more than one way along a pole
    if (from == ring.size()) from = i;
    to = i + 1;
  }
  if (from == ring.size() || (from == 0 && to + 1 == ring.size())) return;
  double turn = turn_of(ring);
  if (std::fabs(turn) < 180) return;
  for (size_t i = to; i < ring.size(); ++i)
    ring[i].x -= turn;
}

}  // namespace

bool steps_over(const Point* p, size_t n) {
  for (size_t i = 1; i < n; ++i)
    if (std::fabs(p[i].x - p[i - 1].x) > 180 && !along_pole(p[i - 1], p[i])) return true;
  return false;
}

std::vector<Point> unroll_run(const Point* p, size_t n, bool closed) {
  bool pole = std::any_of(p, p + n, at_pole);
  std::vector<Point> given = pole ? with_meridians(p, n, closed) : std::vector<Point>(p, p + n);
  if (closed && band_round_earth(p, n)) return given;
  std::vector<Point> out = given;
  // Whole turns are added, so that places before the first step over 180° stay as they are.
  double turns = 0;
  for (size_t i = 1; i < out.size(); ++i) {
    double step = step_east(given[i - 1], given[i]);
    turns += std::round((step - (given[i].x - given[i - 1].x)) / 360);
    out[i].x += 360 * turns;
  }
  if (pole && closed) close_through_pole(out);
  return out;
}

double turn_of(const std::vector<Point>& unrolled) {
  return unrolled.empty() ? 0 : unrolled.back().x - unrolled.front().x;
}

namespace {

// A ring round a pole, from where it meets the meridian of 180° farthest in the direction of `to`,
// a latitude.
std::vector<Point> from_meridian(const std::vector<Point>& ring, double to) {
  double turn = turn_of(ring), best = 1e300;
  Point start;
  size_t after = 0;
  for (size_t i = 0; i + 1 < ring.size(); ++i) {
    Point a = ring[i], b = ring[i + 1];
    double at = 180 + 360 * std::ceil((std::min(a.x, b.x) - 180) / 360);
    if (at > std::max(a.x, b.x)) continue;
    double y = a.x == b.x ? a.y : a.y + (b.y - a.y) * (at - a.x) / (b.x - a.x);
    if (std::fabs(y - to) >= best) continue;
    best = std::fabs(y - to);
    start = {at, y};
    after = i + 1;
  }
  std::vector<Point> out{start};
  size_t n = ring.size() - 1;
  for (size_t k = 0; k < n; ++k) {
    Point p = ring[(after + k) % n];
    p.x += after + k >= n ? turn : 0;
    if (p != out.back()) out.push_back(p);
  }
  start.x += turn;
  if (start != out.back()) out.push_back(start);
  return out;
}

double least_x(const std::vector<Point>& ring) {
  auto west =
      std::min_element(ring.begin(), ring.end(), [](Point a, Point b) { return a.x < b.x; });
  return west == ring.end() ? 0 : west->x;
}

// The land between two rings round a pole as one ring, whose way in lies on the meridian of 180°.
std::vector<Point> between_rings(const std::vector<Point>& outer, const std::vector<Point>& inner,
                                 double pole) {
  std::vector<Point> out = from_meridian(outer, pole), way = from_meridian(inner, -pole);
  if (turn_of(out) * turn_of(way) > 0) std::reverse(way.begin(), way.end());
  double shift = out.back().x - way.front().x;
  for (Point p : way)
    out.push_back({p.x + shift, p.y});
  out.push_back(out.front());
  return out;
}

}  // namespace

std::vector<std::vector<Point>> unroll_part(const FlatLayer& layer, size_t part) {
  std::vector<std::vector<Point>> out, round_rings;
  double pole = 0, most = 0;
  size_t widest = 0, round = 0, second = 0;
  for (size_t r = layer.first_ring(part); r < layer.part_end[part]; ++r) {
    std::vector<Point> ring = unroll_run(layer.ring(r), layer.ring_size(r), true);
    double turn = turn_of(ring);
    if (std::fabs(turn) >= 180) {
      // The side with less land: south of the equator on the whole, the south pole.
      if (pole == 0) pole = strip_m2(ring.data(), ring.size()) * turn < 0 ? 90 : -90;
      round_rings.push_back(ring);
      Point first = ring.front(), last = ring.back();
      ring.push_back({last.x, pole});
      ring.push_back({first.x, pole});
      ring.push_back(first);
      double area = std::fabs(strip_m2(ring.data(), ring.size()));
      second = out.size();
      if (round++ == 0 || area > most) {
        second = widest;
        most = area;
        widest = out.size();
      }
    }
    out.push_back(std::move(ring));
  }
  // Of several that go around the pole, the widest is the shell of the others.
  if (round == 2) {
    bool swapped = second < widest;
    out[widest] = between_rings(round_rings[swapped], round_rings[!swapped], pole);
    std::swap(out[0], out[widest]);
    out.erase(out.begin() + (second == 0 ? widest : second));
  } else if (round > 1) {
    std::swap(out[0], out[widest]);
  }
  double low = out.empty() ? 0 : least_x(out[0]);
  for (size_t r = 1; r < out.size(); ++r) {
    double shift = 360 * std::ceil((low - least_x(out[r])) / 360 - 1e-12);
    if (shift != 0)
      for (Point& p : out[r])
        p.x += shift;
  }
  return out;
}

}  // namespace ochre
