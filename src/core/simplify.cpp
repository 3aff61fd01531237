#include "simplify.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "geodesy.hpp"
#include "meridian.hpp"
#include "predicates.hpp"
#include "pulse.hpp"

namespace ochre {

namespace {
constexpr double kInfinite = std::numeric_limits<double>::infinity();
// By what share of its size an area may change before the next limit holds.
constexpr double kLimits[] = {0.08, 0.2, 0.5, kInfinite};
}  // namespace

void put_sides(std::vector<ArcUse>& uses, AreaSides& out) {
  std::stable_sort(uses.begin(), uses.end(),
                   [](const ArcUse& a, const ArcUse& b) { return a.arc < b.arc; });
  size_t at = 0;
  for (uint32_t a = 0; a < out.uses.size(); ++a) {
    for (; at < uses.size() && uses[at].arc == a; ++at)
      out.side.push_back(uses[at].side);
    out.end.push_back(out.side.size());
  }
}

AreaSides area_sides(const FlatLayer& layer, const ArcNet& net) {
  AreaSides out;
  std::vector<ArcUse> uses;
  out.uses.assign(net.arcs(), 0);
  out.size.assign(layer.features(), 0);
  for (uint32_t f = 0; f < layer.features(); ++f)
    for (size_t p = layer.first_part(f); p < layer.feature_end[f]; ++p) {
      bool polygon = layer.part_shape[p] == Shape::polygon;
      if (polygon) out.size[f] += part_area_m2(layer, p);
      for (size_t r = layer.first_ring(p); r < layer.part_end[p]; ++r) {
        bool shell = r == layer.first_ring(p);
        bool left = polygon && (ring_area_m2(layer.ring(r), layer.ring_size(r)) > 0) == shell;
        for (size_t i = net.run_from(r); i < net.run_end[r]; ++i) {
          int32_t ref = net.run_arc[i];
          uint32_t arc = static_cast<uint32_t>(ref < 0 ? ~ref : ref);
          ++out.uses[arc];
          if (polygon) uses.push_back({arc, {f, static_cast<int8_t>(left == (ref >= 0) ? 1 : -1)}});
        }
      }
    }
  put_sides(uses, out);
  return out;
}

Simplifier::Simplifier(const std::vector<Point>& vertex, const ArcNet& net, const AreaSides& sides,
                       bool degrees, double shape)
    : vertex_(vertex),
      net_(net),
      sides_(sides),
      degrees_(degrees),
      shape_(shape),
      turn_(net.vertex.size()),
      live_(vertex) {
  place_vertices();
  link_arcs();
  remove_in_order();
  place_ = {};
  before_ = {};
  after_ = {};
  turn_ = LeastFirst(0);
  change_ = {};
  straight_ = {};
  waiting_ = {};
  deferred_ = {};
}

void Simplifier::place_vertices() {
  place_.reserve(vertex_.size());
  for (const Point& p : vertex_) {
    if (!degrees_) {
      place_.push_back({p.x, p.y, 0});
      continue;
    }
    Vector3 v = on_sphere(p.x, p.y);
    place_.push_back({v.x * kAuthalicRadius, v.y * kAuthalicRadius, v.z * kAuthalicRadius});
  }
}

void Simplifier::link_arcs() {
  size_t n = net_.vertex.size();
  before_.resize(n);
  after_.resize(n);
  arc_.resize(n);
  change_.assign(sides_.size.size(), 0);
  for (uint32_t a = 0; a < net_.arcs(); ++a) {
    uint32_t from = static_cast<uint32_t>(net_.arc_from(a)),
             to = static_cast<uint32_t>(net_.arc_end[a]);
    left_.push_back(to - from);
    for (uint32_t i = from; i < to; ++i) {
      arc_[i] = a;
      before_[i] = i == from ? kNone : i - 1;
      after_[i] = i + 1 == to ? kNone : i + 1;
      counted_ += sides_.uses[a];
    }
    if (to - from == 2)
      ++straight_[{std::min(net_.vertex[from], net_.vertex[to - 1]),
                   std::max(net_.vertex[from], net_.vertex[to - 1])}];
  }
  // Where arcs follow each other in a ring or line, their common end counts once.
  for (size_t r = 0; r < net_.run_end.size(); ++r) {
    size_t arcs = net_.run_end[r] - net_.run_from(r);
    if (arcs > 1) counted_ -= static_cast<double>(arcs - 1);
  }
}

// Area of the triangle of a vertex and its neighbours; less for one that is high on a short base.
double Simplifier::triangle(uint32_t i) const {
  const Position &p = place_[net_.vertex[before_[i]]], &q = place_[net_.vertex[i]],
                 &r = place_[net_.vertex[after_[i]]];
  double ux = q.x - p.x, uy = q.y - p.y, uz = q.z - p.z, vx = r.x - p.x, vy = r.y - p.y,
         vz = r.z - p.z;
  double cx = uy * vz - uz * vy, cy = uz * vx - ux * vz, cz = ux * vy - uy * vx;
  double area = std::sqrt(cx * cx + cy * cy + cz * cz) / 2;
  if (shape_ == 0) return area;
  double base = vx * vx + vy * vy + vz * vz;  // squared
  if (base == 0) return area * (1 - shape_);
  double steep = 2 * area / base;  // height over base
  return area * (1 - shape_ + shape_ / (1 + steep * steep));
}

// The same with a sign, positive where the vertex lies to the right of the way past it, measured
// between straight lines in degrees, as areas are.
double Simplifier::planar_area(uint32_t i) const {
  Point p = vertex_[net_.vertex[before_[i]]], v = vertex_[net_.vertex[i]],
        q = vertex_[net_.vertex[after_[i]]];
  double ux = degrees_ ? step_east(p, v) : v.x - p.x,
         wx = degrees_ ? ux + step_east(v, q) : q.x - p.x;
  double area = (ux * (q.y - p.y) - wx * (v.y - p.y)) / 2;
  if (!degrees_) return area;
  double degree = kAuthalicRadius * 3.14159265358979323846 / 180;
  return area * degree * degree * std::cos((p.y + v.y + q.y) / 3 * 3.14159265358979323846 / 180);
}

// Without this vertex a ring would have no land, or two borders would be one.
bool Simplifier::ends_ring(uint32_t i) const {
  uint32_t a = arc_[i], p = net_.vertex[before_[i]], q = net_.vertex[after_[i]];
  if (p == q) return true;
  if (net_.loop(a)) return left_[a] <= 4;
  return left_[a] == 3 && straight_.count({std::min(p, q), std::max(p, q)});
}

bool Simplifier::moves_area(uint32_t i, double limit) const {
  if (limit == kInfinite) return false;
  uint32_t a = arc_[i];
  double grows = -planar_area(i);
  for (size_t k = a ? sides_.end[a - 1] : 0; k < sides_.end[a]; ++k) {
    const AreaSides::Side& s = sides_.side[k];
    if (std::fabs(change_[s.area] + s.turn * grows) > limit * sides_.size[s.area]) return true;
  }
  return false;
}

bool Simplifier::in_the_way(uint32_t i, uint32_t& who) {
  uint32_t pn = net_.vertex[before_[i]], vn = net_.vertex[i], qn = net_.vertex[after_[i]];
  Point p = vertex_[pn], v = vertex_[vn], q = vertex_[qn];
  if (degrees_) {
    double qx = p.x + step_east(p, v) + step_east(v, q);
    v.x = p.x + step_east(p, v);
    q.x = qx;
  }
  Box box;
  for (Point c : {p, v, q})
    box.add(c.x, c.y);
  who = kNone;
  for (double turn : {0.0, -360.0, 360.0}) {
    bool beyond = turn < 0 ? box.x1 > 180 : box.x0 < -180;
    if (turn != 0 && !(degrees_ && beyond)) continue;
    live_.search({box.x0 + turn, box.y0, box.x1 + turn, box.y1}, [&](uint32_t w) {
      if (w == pn || w == vn || w == qn) return true;
      Point c{vertex_[w].x - turn, vertex_[w].y};
      int s1 = side_of(p, v, c), s2 = side_of(v, q, c), s3 = side_of(q, p, c);
      bool outside = (s1 > 0 || s2 > 0 || s3 > 0) && (s1 < 0 || s2 < 0 || s3 < 0);
      if (!outside) who = w;
      return outside;
    });
    if (who != kNone) return true;
  }
  return false;
}

// Whether a vertex must stay for now; notes when to ask for it again.
bool Simplifier::blocked(uint32_t i, double limit) {
  if (ends_ring(i)) return true;
  if (moves_area(i, limit)) {
    deferred_.push_back(i);
    return true;
  }
  uint32_t who;
  if (!in_the_way(i, who)) return false;
  waiting_[who].push_back(i);
  return true;
}

void Simplifier::take_out(uint32_t i) {
  uint32_t a = arc_[i], p = before_[i], q = after_[i];
  double grows = -planar_area(i);
  for (size_t k = a ? sides_.end[a - 1] : 0; k < sides_.end[a]; ++k) {
    change_[sides_.side[k].area] += sides_.side[k].turn * grows;
  }
  order_.push_back(i);
  after_[p] = q;
  before_[q] = p;
  before_[i] = after_[i] = kNone;
  uint32_t pn = net_.vertex[p], qn = net_.vertex[q];
  if (--left_[a] == 2) ++straight_[{std::min(pn, qn), std::max(pn, qn)}];
  update(p);
  update(q);
  live_.remove(net_.vertex[i]);
  auto woken = waiting_.find(net_.vertex[i]);
  if (woken == waiting_.end()) return;
  std::vector<uint32_t> list = std::move(woken->second);
  waiting_.erase(woken);
  for (uint32_t w : list)
    if (inner(w) && !turn_.has(w)) update(w);
}

void Simplifier::remove_in_order() {
  bool first = true;
  for (uint32_t i = 0; i < net_.vertex.size(); ++i) {
    if (!inner(i)) continue;
    turn_.put(i, triangle(i));
  }
  for (double limit : kLimits) {
    while (!turn_.empty()) {
      pulse();
      const LeastFirst::Entry next = turn_.pop();
      const uint32_t i = next.item;
      reached_ = std::max(reached_, next.weight);
      if (blocked(i, limit)) continue;
      weight_.push_back(first ? reached_ : kInfinite);
      take_out(i);
    }
    first = false;
    reached_ = 0;
    std::vector<uint32_t> again = std::move(deferred_);
    deferred_.clear();
    for (uint32_t i : again)
      if (inner(i) && !turn_.has(i)) update(i);
  }
}

// Weighs a vertex anew and gives it its turn.
void Simplifier::update(uint32_t i) {
  if (inner(i)) turn_.put(i, std::max(reached_, triangle(i)));
}

size_t Simplifier::steps_for_count(double count) const {
  double now = counted_;
  size_t step = 0;
  while (step < order_.size()) {
    double next = now - sides_.uses[arc_[order_[step]]];
    if (std::fabs(next - count) > std::fabs(now - count)) break;
    now = next;
    ++step;
  }
  return step;
}

size_t Simplifier::steps_for_kept(double kept) const {
  double go = std::round(static_cast<double>(net_.vertex.size()) - kept);
  return static_cast<size_t>(std::clamp(go, 0.0, static_cast<double>(order_.size())));
}

double Simplifier::least_count() const {
  double now = counted_;
  for (uint32_t i : order_)
    now -= sides_.uses[arc_[i]];
  return now;
}

size_t Simplifier::steps_below(double area) const {
  return std::find_if(weight_.begin(), weight_.end(), [&](double w) { return w >= area; }) -
         weight_.begin();
}

SimplifyResult Simplifier::after(size_t steps) const {
  SimplifyResult out;
  out.keep.assign(net_.vertex.size(), 1);
  for (size_t k = 0; k < steps; ++k)
    out.keep[order_[k]] = 0;
  out.kept = net_.vertex.size() - steps;
  return out;
}

namespace {

// One ring of the layer from the kept vertices of its arcs.
void assemble(const BorderNet& b, const std::vector<uint8_t>& keep, size_t run,
              std::vector<Point>& out) {
  out.clear();
  for (size_t i = b.net.run_from(run); i < b.net.run_end[run]; ++i) {
    int32_t ref = b.net.run_arc[i];
    bool back = ref < 0;
    size_t arc = back ? ~ref : ref, from = b.net.arc_from(arc), n = b.net.arc_end[arc] - from;
    for (size_t k = out.empty() ? 0 : 1; k < n; ++k) {
      size_t at = from + (back ? n - 1 - k : k);
      if (keep[at]) out.push_back(b.vertex[b.net.vertex[at]]);
    }
  }
}

// Turns a closed ring so that it begins where it did, if that vertex is still there.
void start_at(Point first, std::vector<Point>& ring) {
  auto at = std::find(ring.begin(), ring.end(), first);
  if (at == ring.begin() || at == ring.end()) return;
  std::rotate(ring.begin(), at, ring.end() - 1);
  ring.back() = ring.front();
}

}  // namespace

SimplifiedLayer rebuild(const FlatLayer& in, const BorderNet& b, const SimplifyResult& kept,
                        const DropRule& drop) {
  SimplifiedLayer out;
  out.layer.name = in.name;
  std::vector<uint8_t> uses(b.net.arcs(), 0);
  for (int32_t ref : b.net.run_arc) {
    uint8_t& u = uses[ref < 0 ? ~ref : ref];
    if (u < 2) ++u;
  }
  auto shared = [&](size_t r) {
    for (size_t i = b.net.run_from(r); i < b.net.run_end[r]; ++i)
      if (uses[b.net.run_arc[i] < 0 ? ~b.net.run_arc[i] : b.net.run_arc[i]] > 1) return true;
    return false;
  };
  auto size = [&](size_t r) {
    return std::fabs(ring_area_m2(in.ring(r), in.ring_size(r)));
  };
  std::vector<Point> ring;
  for (size_t f = 0; f < in.features(); ++f) {
    size_t from = in.first_part(f), to = in.feature_end[f], largest = from;
    std::vector<double> area(to - from, 0);
    if (drop.below > 0) {
      for (size_t p = from; p < to; ++p) {
        if (in.part_shape[p] == Shape::polygon && in.first_ring(p) < in.part_end[p])
          area[p - from] = size(in.first_ring(p));
        if (area[p - from] > area[largest - from]) largest = p;
      }
    }
    size_t before = out.layer.part_end.size();
    for (size_t p = from; p < to; ++p) {
      if (in.part_shape[p] == Shape::point) {
        out.layer.copy_part(in, p);
        continue;
      }
      bool polygon = in.part_shape[p] == Shape::polygon;
      size_t first = in.first_ring(p);
      bool small = polygon && drop.below > 0 && area[p - from] < drop.below;
      for (size_t r = first; small && r < in.part_end[p]; ++r)
        small = !shared(r);
      if (small && (p != largest || drop.vanish)) {
        ++out.dropped_parts;
        continue;
      }
      for (size_t r = first; r < in.part_end[p]; ++r) {
        if (polygon && r > first && drop.below > 0 && size(r) < drop.below && !shared(r))
          continue;  // a pond
        assemble(b, kept.keep, r, ring);
        if (polygon) start_at(in.ring(r)[0], ring);
        out.layer.add_ring(ring.data(), ring.size());
      }
      out.layer.end_part(in.part_shape[p]);
    }
    if (from < to && out.layer.part_end.size() == before) ++out.vanished;
    out.layer.end_feature(in.feature_shape[f]);
  }
  return out;
}

}  // namespace ochre
