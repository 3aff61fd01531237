#include "mend.hpp"

#include <algorithm>
#include <cmath>
#include <map>

#include "arcs.hpp"
#include "borders-near.hpp"
#include "cut.hpp"
#include "even-odd.hpp"
#include "link.hpp"
#include "rings.hpp"

namespace ochre {

namespace {

// Finite, not repeated, closed.
std::vector<Point> clean_run(const Point* p, size_t n, bool ring) {
  std::vector<Point> out;
  for (size_t i = 0; i < n; ++i)
    if (std::isfinite(p[i].x) && std::isfinite(p[i].y) && (out.empty() || out.back() != p[i]))
      out.push_back(p[i]);
  if (ring && !out.empty()) {
    while (out.size() > 1 && out.back() == out.front())
      out.pop_back();
    // A way there and back again encloses nothing.
    for (bool again = true; again && out.size() > 2;) {
      again = false;
      std::vector<Point> kept;
      for (const Point& q : out) {
        if (kept.size() >= 2 && kept[kept.size() - 2] == q) {
          kept.pop_back();
          again = true;
          continue;
        }
        kept.push_back(q);
      }
      size_t low = 0, high = kept.size();
      for (; high - low > 2; again = true) {
        if (kept[low] == kept[high - 1] || kept[low] == kept[high - 2])
          --high;
        else if (kept[low + 1] == kept[high - 1])
          ++low;
        else
          break;
      }
      kept.erase(kept.begin() + high, kept.end());
      kept.erase(kept.begin(), kept.begin() + low);
      out.swap(kept);
    }
    out.push_back(out.front());
  }
  return out;
}

void add_rings(const std::vector<Point>& ring, bool shell, RingSet& out) {
  Point where;
  if (!crosses_itself(ring.data(), ring.size(), where)) {
    double area = signed_area(ring.data(), ring.size());
    if (area == 0) return;
    std::vector<Point> r = ring;
    if ((area > 0) != shell) std::reverse(r.begin(), r.end());
    out.points.insert(out.points.end(), r.begin(), r.end());
    out.end.push_back(out.points.size());
    return;
  }
  // The simple rings of a bow-tie; of a hole's, they run the other way.
  RingSet untied = even_odd_rings(ring.data(), ring.size());
  for (size_t k = 0; k < untied.size(); ++k) {
    std::vector<Point> r(untied.begin(k), untied.begin(k) + untied.count(k));
    if (!shell) std::reverse(r.begin(), r.end());
    out.points.insert(out.points.end(), r.begin(), r.end());
    out.end.push_back(out.points.size());
  }
}

// Rings are unrolled before they are untied, because a cut at 180° would part a ring that crosses
// itself into rings that cross each other.
void mend_polygon(const FlatLayer& in, size_t part, FlatLayer& out) {
  FlatLayer clean;
  size_t first = in.first_ring(part);
  bool across = false;
  for (size_t r = first; r < in.part_end[part]; ++r) {
    std::vector<Point> ring = clean_run(in.ring(r), in.ring_size(r), true);
    if (ring.size() < 4) {
      if (r == first) return;  // holes of nothing
      continue;
    }
    across |= steps_over(ring.data(), ring.size());
    clean.add_ring(ring.data(), ring.size());
  }
  if (clean.ring_end.empty()) return;
  clean.end_part(Shape::polygon);
  RingSet rings;
  std::vector<std::vector<Point>> unrolled;
  if (across) unrolled = unroll_part(clean, 0);
  for (size_t r = 0; r < clean.ring_end.size(); ++r) {
    std::vector<Point> ring(clean.ring(r), clean.ring(r) + clean.ring_size(r));
    add_rings(across ? unrolled[r] : ring, r == 0, rings);
  }
  FlatLayer whole;
  put_rings(rings, whole);
  for (size_t p = 0; p < whole.part_end.size(); ++p)
    cut_part(whole, p, 180, out, across);
}

FlatLayer mend_features(const FlatLayer& in) {
  FlatLayer out;
  for (size_t f = 0; f < in.features(); ++f) {
    for (size_t p = in.first_part(f); p < in.feature_end[f]; ++p) {
      if (in.part_shape[p] == Shape::polygon) {
        mend_polygon(in, p, out);
        continue;
      }
      FlatLayer cleaned;
      size_t least = in.part_shape[p] == Shape::line ? 2 : 1;
      for (size_t r = in.first_ring(p); r < in.part_end[p]; ++r) {
        std::vector<Point> run = clean_run(in.ring(r), in.ring_size(r), false);
        if (run.size() >= least) cleaned.add_ring(run.data(), run.size());
      }
      if (cleaned.ring_end.empty()) continue;
      cleaned.end_part(in.part_shape[p]);
      cut_part(cleaned, 0, 180, out);
    }
    out.end_feature(in.feature_shape[f]);
  }
  return out;
}

// Vertices closer than the tolerance to one of another area move onto it; the area that comes
// first in the table keeps its place.
class VertexJoiner {
 public:
  VertexJoiner(size_t points, double metres)
      : metres_(metres), side_(metres / 100000), index_(points), head_(1, kNone) {
    while (head_.size() < 2 * points + 2)
      head_.resize(2 * head_.size(), kNone);
  }

  // Where a vertex of this area goes; the same answer for the same place.
  Point place(Point q, uint32_t feature) {
    uint32_t number = index_.number(q);
    if (number < to_.size()) return to_[number];
    LocalScale scale(q.y);
    // Cells are a little wider than the tolerance in latitude; towards the poles more of them
    // count.
    int64_t cx = cell(q.x), cy = cell(q.y),
            reach = static_cast<int64_t>(std::min(50.0, std::ceil(metres_ / scale.x / side_)));
    double best = metres_;
    Point to = q;
    for (int64_t x = cx - reach; x <= cx + reach; ++x)
      for (int64_t y = cy - 1; y <= cy + 1; ++y)
        for (uint32_t k = head_[slot(x, y)]; k != kNone; k = kept_[k].next) {
          double d = scale.distance(kept_[k].at, q);
          if (d <= best && kept_[k].feature != feature) {
            best = d;
            to = kept_[k].at;
          }
        }
    to_.push_back(to);
    if (to == q) {
      uint32_t& first = head_[slot(cx, cy)];
      kept_.push_back({q, feature, first});
      first = static_cast<uint32_t>(kept_.size() - 1);
    }
    return to;
  }

 private:
  static constexpr uint32_t kNone = 0xffffffffu;
  struct Kept {
    Point at;
    uint32_t feature, next;
  };
  int64_t cell(double v) const { return static_cast<int64_t>(std::floor(v / side_)); }
  size_t slot(int64_t x, int64_t y) const {
    return mix(static_cast<uint64_t>(x) * 0x9e3779b97f4a7c15ull ^ static_cast<uint64_t>(y)) &
           (head_.size() - 1);
  }

  double metres_, side_;
  VertexIndex<Point> index_;
  std::vector<Point> to_;
  std::vector<uint32_t> head_;
  std::vector<Kept> kept_;
};

size_t join_vertices(FlatLayer& layer, double metres) {
  VertexJoiner joiner(layer.points.size(), metres);
  size_t moved = 0;
  for (size_t f = 0; f < layer.features(); ++f)
    for (size_t p = layer.first_part(f); p < layer.feature_end[f]; ++p) {
      if (layer.part_shape[p] != Shape::polygon) continue;
      for (size_t i = layer.first_point(layer.first_ring(p));
           i < layer.ring_end[layer.part_end[p] - 1]; ++i) {
        Point to = joiner.place(layer.points[i], static_cast<uint32_t>(f));
        moved += to != layer.points[i];
        layer.points[i] = to;
      }
    }
  return moved;
}

// A border that passes by a vertex of another area closer than the tolerance is led through it.
size_t add_vertices(FlatLayer& layer, double metres) {
  EdgeIndex index(layer);
  struct Extra {
    double share;
    Point at;
  };
  std::map<size_t, std::vector<Extra>> extra;
  size_t added = 0;
  for (const auto& e : index.edges) {
    LocalScale scale(e.a.y);
    index.grid.search(e.a, e.a, metres / std::min(scale.x, scale.y), [&](uint32_t j) {
      const auto& g = index.edges[j];
      if (g.feature == e.feature || g.a == e.a || g.b == e.a) return;
      double t = scale.nearest(g.a, g.b, e.a);
      if (t <= 0 || t >= 1) return;
      Point foot{g.a.x + t * (g.b.x - g.a.x), g.a.y + t * (g.b.y - g.a.y)};
      if (scale.distance(foot, e.a) > metres) return;
      auto& list = extra[g.at];
      for (const Extra& x : list)
        if (x.at == e.a) return;
      list.push_back({t, e.a});
      ++added;
    });
  }
  if (!added) return 0;
  FlatLayer out;
  for (size_t f = 0; f < layer.features(); ++f) {
    for (size_t p = layer.first_part(f); p < layer.feature_end[f]; ++p) {
      for (size_t r = layer.first_ring(p); r < layer.part_end[p]; ++r) {
        std::vector<Point> run;
        for (size_t i = layer.first_point(r); i < layer.ring_end[r]; ++i) {
          run.push_back(layer.points[i]);
          auto it = extra.find(i);
          if (it == extra.end()) continue;
          std::sort(it->second.begin(), it->second.end(),
                    [](const Extra& a, const Extra& b) { return a.share < b.share; });
          for (const Extra& x : it->second)
            run.push_back(x.at);
        }
        out.add_ring(run.data(), run.size());
      }
      out.end_part(layer.part_shape[p]);
    }
    out.end_feature(layer.feature_shape[f]);
  }
  layer = std::move(out);
  return added;
}

}  // namespace

MendResult mend(const FlatLayer& layer, double metres) {
  MendResult out;
  out.layer = mend_features(layer);
  if (!(metres > 0)) return out;
  out.moved = join_vertices(out.layer, metres);
  out.added = add_vertices(out.layer, metres);
  if (out.moved || out.added) out.layer = mend_features(out.layer);
  return out;
}

}  // namespace ochre
