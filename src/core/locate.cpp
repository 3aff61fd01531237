#include "locate.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "borders-near.hpp"
#include "cut.hpp"
#include "geodesy.hpp"
#include "predicates.hpp"
#include "pulse.hpp"
#include "rings.hpp"
#include "share-out.hpp"

namespace ochre {

namespace {
std::vector<Box> boxes_of(const FlatLayer& layer) {
  std::vector<Box> boxes(layer.part_end.size());
  for (size_t p = 0; p < boxes.size(); ++p) {
    if (layer.part_shape[p] != Shape::polygon) continue;
    size_t r = layer.first_ring(p);
    if (r < layer.part_end[p])
      for (size_t i = 0; i < layer.ring_size(r); ++i)
        boxes[p].add(layer.ring(r)[i].x, layer.ring(r)[i].y);
  }
  return boxes;
}
}  // namespace

AreaLocator::AreaLocator(const FlatLayer& layer)
    : layer_(cut_layer(layer, 180)), feature_(layer_.part_end.size()), tree_(boxes_of(layer_)) {
  for (size_t f = 0; f < layer_.features(); ++f)
    for (size_t p = layer_.first_part(f); p < layer_.feature_end[f]; ++p)
      feature_[p] = static_cast<uint32_t>(f);
  for (const Point& p : layer_.points)
    all_.add(p.x, p.y);
}

void AreaLocator::find_all(const double* x, const double* y, size_t n, int* feature) const {
  // Sorted by counting into 65,536 cells: within one, any order will do.
  constexpr uint32_t kCells = 1 << 16;
  std::vector<uint32_t> begin(kCells + 1, 0), cell(n, kCells);
  for (size_t i = 0; i < n; ++i) {
    feature[i] = -1;
    if (!std::isfinite(x[i]) || !(y[i] >= all_.y0 && y[i] <= all_.y1)) continue;
    cell[i] = static_cast<uint32_t>(z_place(x[i], y[i], all_) >> 24);
    ++begin[cell[i] + 1];
  }
  std::partial_sum(begin.begin(), begin.end(), begin.begin());
  std::vector<uint32_t> order(begin[kCells]);
  for (size_t i = 0; i < n; ++i)
    if (cell[i] < kCells) order[begin[cell[i]]++] = static_cast<uint32_t>(i);
  share_out(order.size(), 4096, [&](size_t from, size_t to) {
    for (size_t k = from; k < to; ++k) {
      const size_t i = order[k];
      feature[i] = find(x[i], y[i]);
    }
  });
}

int AreaLocator::find(double x, double y) const {
  pulse();
  if (std::fabs(x) > 180 && (x < all_.x0 || x > all_.x1)) x = std::remainder(x, 360);
  int found = -1;
  auto in_part = [&](uint32_t p, double at) {
    bool inside = false;
    for (size_t r = layer_.first_ring(p); r < layer_.part_end[p]; ++r) {
      inside ^= in_ring(layer_.ring(r), layer_.ring_size(r), at, y);
    }
    return inside;
  };
  // Of areas that hold the place, any one; of those that it is on the border of, the first.
  auto look = [&](double at, auto holds, bool all) {
    tree_.search({at, y, at, y}, [&](uint32_t p) {
      int feature = static_cast<int>(feature_[p]);
      bool better = (found < 0 || feature < found) && holds(p, at);
      if (better) found = feature;
      return all || !better;
    });
  };
  look(x, in_part, false);
  // The meridian of 180° has two names.
  if (found < 0 && std::fabs(x) == 180) look(-x, in_part, false);
  auto borders = [&](uint32_t p, double at) {
    return on_border(p, {at, y});
  };
  if (found < 0) look(x, borders, true);
  if (found < 0 && std::fabs(x) == 180) look(-x, borders, true);
  return found;
}

bool AreaLocator::on_border(uint32_t part, Point p) const {
  for (size_t r = layer_.first_ring(part); r < layer_.part_end[part]; ++r)
    for (size_t i = 0; i + 1 < layer_.ring_size(r); ++i)
      if (on_segment(layer_.ring(r)[i], layer_.ring(r)[i + 1], p)) return true;
  return false;
}

// Parts whose boxes lie within a distance are measured; the distance grows until the nearest
// border found is certainly nearer than anything farther out.
AreaLocator::Nearest AreaLocator::nearest(double x, double y) const {
  LocalScale scale(y);
  Nearest best{-1, INFINITY};
  Point from{x, y}, foot{0, 0};
  for (double reach = 0.02; reach < 720; reach *= 4) {
    pulse();
    double wide = std::min(reach * scale.y / scale.x, 360.0);
    tree_.search({x - wide, y - reach, x + wide, y + reach}, [&](uint32_t p) {
      for (size_t r = layer_.first_ring(p); r < layer_.part_end[p]; ++r)
        for (size_t i = 0; i + 1 < layer_.ring_size(r); ++i) {
          Point a = layer_.ring(r)[i], b = layer_.ring(r)[i + 1];
          double t = scale.nearest(a, b, from);
          Point q{a.x + t * (b.x - a.x), a.y + t * (b.y - a.y)};
          double d = scale.distance(q, from);
          if (d < best.metres) {
            best = {static_cast<int>(feature_[p]), d};
            foot = q;
          }
        }
      return true;
    });
    if (best.metres <= reach * scale.y) break;
  }
  if (best.feature >= 0) best.metres = geodesic(from, foot).metres;
  return best;
}

}  // namespace ochre
