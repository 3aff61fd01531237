#include "simplify.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "geodesy.hpp"
#include "unfold.hpp"

namespace ochre {

namespace {
constexpr double kInfinite = std::numeric_limits<double>::infinity();
constexpr uint32_t kGone = 0xffffffffu;
}  // namespace

Simplifier::Simplifier(const std::vector<Point>& vertex, const ArcNet& net, bool degrees, double shape)
    : vertex_(vertex), net_(net), degrees_(degrees), weight_(net.vertex.size(), kInfinite) {
  for (size_t a = 0; a < net.arcs(); ++a) {
    weigh_arc(net.arc_from(a), net.arc_end[a], net.loop(a), shape);
  }
  for (double w : weight_) {
    if (w == kInfinite) continue;
    least_ = std::min(least_, w);
    most_ = std::max(most_, w);
  }
  place_ = {};
}

// Area of a triangle, and less for one that is high on a short base.
double Simplifier::triangle(size_t a, size_t b, size_t c, double shape) const {
  const Position &p = place_[a], &q = place_[b], &r = place_[c];
  double ux = q.x - p.x, uy = q.y - p.y, uz = q.z - p.z, vx = r.x - p.x, vy = r.y - p.y, vz = r.z - p.z;
  double cx = uy * vz - uz * vy, cy = uz * vx - ux * vz, cz = ux * vy - uy * vx;
  double area = std::sqrt(cx * cx + cy * cy + cz * cz) / 2;
  if (shape == 0) return area;
  double base = vx * vx + vy * vy + vz * vz;  // squared
  if (base == 0) return area * (1 - shape);
  double steep = 2 * area / base;             // height over base
  return area * (1 - shape + shape / (1 + steep * steep));
}

void Simplifier::weigh_arc(size_t from, size_t to, bool loop, double shape) {
  size_t n = to - from;
  if (n < 3) return;
  place_.resize(n);
  for (size_t i = 0; i < n; ++i) {
    const Point& p = vertex_[net_.vertex[from + i]];
    if (degrees_) {
      Vector3 v = on_sphere(p.x, p.y);
      place_[i] = {v.x * kAuthalicRadius, v.y * kAuthalicRadius, v.z * kAuthalicRadius};
    } else {
      place_[i] = {p.x, p.y, 0};
    }
  }
  before_.resize(n); after_.resize(n); slot_.assign(n, kGone); now_.resize(n);
  heap_.clear();
  for (uint32_t i = 0; i < n; ++i) { before_[i] = i - 1; after_[i] = i + 1; }
  // A binary heap of positions, least first; slot_ says where each stands.
  auto sift = [&](size_t at) {
    uint32_t item = heap_[at];
    while (at > 0) {
      size_t up = (at - 1) / 2;
      if (now_[heap_[up]] <= now_[item]) break;
      heap_[at] = heap_[up];
      slot_[heap_[at]] = static_cast<uint32_t>(at);
      at = up;
    }
    for (;;) {
      size_t down = 2 * at + 1;
      if (down >= heap_.size()) break;
      if (down + 1 < heap_.size() && now_[heap_[down + 1]] < now_[heap_[down]]) ++down;
      if (now_[heap_[down]] >= now_[item]) break;
      heap_[at] = heap_[down];
      slot_[heap_[at]] = static_cast<uint32_t>(at);
      at = down;
    }
    heap_[at] = item;
    slot_[item] = static_cast<uint32_t>(at);
  };
  for (uint32_t i = 1; i + 1 < n; ++i) {
    now_[i] = triangle(i - 1, i, i + 1, shape);
    slot_[i] = static_cast<uint32_t>(heap_.size());
    heap_.push_back(i);
  }
  for (size_t i = heap_.size() / 2; i-- > 0;) sift(i);
  double reached = 0;
  // A loop keeps two vertices beside its start, so that it stays a ring.
  size_t stay = loop ? 2 : 0;
  while (heap_.size() > stay) {
    uint32_t i = heap_[0];
    reached = std::max(reached, now_[i]);
    weight_[from + i] = reached;
    uint32_t last = heap_.back();
    heap_.pop_back();
    if (!heap_.empty()) { heap_[0] = last; slot_[last] = 0; sift(0); }
    uint32_t p = before_[i], q = after_[i];
    after_[p] = q;
    before_[q] = p;
    if (p > 0) { now_[p] = std::max(reached, triangle(before_[p], p, q, shape)); sift(slot_[p]); }
    if (q + 1 < n) { now_[q] = std::max(reached, triangle(p, q, after_[q], shape)); sift(slot_[q]); }
  }
}

double Simplifier::threshold_for_share(double share) const {
  std::vector<double> free;
  for (double w : weight_) if (w != kInfinite) free.push_back(w);
  size_t fixed = weight_.size() - free.size();
  double want = share * weight_.size() - static_cast<double>(fixed);
  if (want <= 0) return kInfinite;
  size_t keep = std::min(free.size(), static_cast<size_t>(std::llround(want)));
  if (keep == free.size()) return 0;
  std::nth_element(free.begin(), free.begin() + (free.size() - keep), free.end());
  return free[free.size() - keep];
}

SimplifyResult Simplifier::at_threshold(double area, const std::function<void()>& pause) const {
  SimplifyResult out;
  out.keep.resize(weight_.size());
  for (size_t i = 0; i < weight_.size(); ++i) out.keep[i] = weight_[i] >= area;
  out.put_back = unfold(vertex_, net_, degrees_, weight_, out.keep, pause);
  out.kept = std::count(out.keep.begin(), out.keep.end(), 1);
  return out;
}

namespace {

// One ring of the layer from the kept vertices of its arcs.
void assemble(const BorderNet& b, const std::vector<uint8_t>& keep, size_t run, std::vector<Point>& out) {
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

SimplifiedLayer rebuild(const FlatLayer& in, const BorderNet& b, const SimplifyResult& kept, const DropRule& drop) {
  SimplifiedLayer out;
  out.layer.name = in.name;
  std::vector<uint8_t> uses(b.net.arcs(), 0);
  for (int32_t ref : b.net.run_arc) { uint8_t& u = uses[ref < 0 ? ~ref : ref]; if (u < 2) ++u; }
  auto shared = [&](size_t r) {
    for (size_t i = b.net.run_from(r); i < b.net.run_end[r]; ++i) if (uses[b.net.run_arc[i] < 0 ? ~b.net.run_arc[i] : b.net.run_arc[i]] > 1) return true;
    return false;
  };
  auto size = [&](size_t r) { return std::fabs(ring_area_m2(in.ring(r), in.ring_size(r))); };
  std::vector<Point> ring;
  for (size_t f = 0; f < in.features(); ++f) {
    size_t from = in.first_part(f), to = in.feature_end[f], largest = from;
    std::vector<double> area(to - from, 0);
    if (drop.below > 0) {
      for (size_t p = from; p < to; ++p) {
        if (in.part_shape[p] == Shape::polygon && in.first_ring(p) < in.part_end[p]) area[p - from] = size(in.first_ring(p));
        if (area[p - from] > area[largest - from]) largest = p;
      }
    }
    size_t before = out.layer.part_end.size();
    for (size_t p = from; p < to; ++p) {
      if (in.part_shape[p] == Shape::point) { out.layer.copy_part(in, p); continue; }
      bool polygon = in.part_shape[p] == Shape::polygon;
      size_t first = in.first_ring(p);
      bool small = polygon && drop.below > 0 && area[p - from] < drop.below;
      for (size_t r = first; small && r < in.part_end[p]; ++r) small = !shared(r);
      if (small && (p != largest || drop.vanish)) { ++out.dropped_parts; continue; }
      for (size_t r = first; r < in.part_end[p]; ++r) {
        if (polygon && r > first && drop.below > 0 && size(r) < drop.below && !shared(r)) continue;  // a pond
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
