#include "locate.hpp"

#include <algorithm>
#include <cmath>

#include "borders-near.hpp"
#include "geodesy.hpp"
#include "rings.hpp"

namespace ochre {

namespace {
std::vector<Box> boxes_of(const FlatLayer& layer) {
  std::vector<Box> boxes(layer.part_end.size());
  for (size_t p = 0; p < boxes.size(); ++p) {
    if (layer.part_shape[p] != Shape::polygon) continue;
    size_t r = layer.first_ring(p);
    if (r < layer.part_end[p])
      for (size_t i = 0; i < layer.ring_size(r); ++i) boxes[p].add(layer.ring(r)[i].x, layer.ring(r)[i].y);
  }
  return boxes;
}
}  // namespace

AreaLocator::AreaLocator(const FlatLayer& layer) : layer_(layer), feature_(layer.part_end.size()), tree_(boxes_of(layer)) {
  for (size_t f = 0; f < layer.features(); ++f)
    for (size_t p = layer.first_part(f); p < layer.feature_end[f]; ++p) feature_[p] = static_cast<uint32_t>(f);
  for (const Point& p : layer.points) all_.add(p.x, p.y);
}

void AreaLocator::find_all(const double* x, const double* y, size_t n, int* feature) const {
  std::vector<uint64_t> order;  // place on the curve above, number of the point below
  order.reserve(n);
  for (size_t i = 0; i < n; ++i) {
    feature[i] = -1;
    bool near = x[i] >= all_.x0 && x[i] <= all_.x1 && y[i] >= all_.y0 && y[i] <= all_.y1;  // false for what is no number
    if (near) order.push_back((z_place(x[i], y[i], all_) >> 10) << 32 | i);
  }
  std::sort(order.begin(), order.end());
  for (uint64_t o : order) {
    size_t i = static_cast<uint32_t>(o);
    feature[i] = find(x[i], y[i]);
  }
}

int AreaLocator::find(double x, double y) const {
  int found = -1;
  tree_.search({x, y, x, y}, [&](uint32_t p) {
    bool inside = false;
    for (size_t r = layer_.first_ring(p); r < layer_.part_end[p]; ++r) inside ^= in_ring(layer_.ring(r), layer_.ring_size(r), x, y);
    if (inside) found = static_cast<int>(feature_[p]);
    return !inside;
  });
  return found;
}

// Parts whose boxes lie within a distance are measured; the distance grows until the nearest
// border found is certainly nearer than anything farther out.
AreaLocator::Nearest AreaLocator::nearest(double x, double y) const {
  LocalScale scale(y);
  Nearest best{-1, INFINITY};
  Point from{x, y}, foot{0, 0};
  for (double reach = 0.02; reach < 720; reach *= 4) {
    double wide = std::min(reach * scale.y / scale.x, 360.0);
    tree_.search({x - wide, y - reach, x + wide, y + reach}, [&](uint32_t p) {
      for (size_t r = layer_.first_ring(p); r < layer_.part_end[p]; ++r)
        for (size_t i = 0; i + 1 < layer_.ring_size(r); ++i) {
          Point a = layer_.ring(r)[i], b = layer_.ring(r)[i + 1];
          double t = scale.nearest(a, b, from);
          Point q{a.x + t * (b.x - a.x), a.y + t * (b.y - a.y)};
          double d = scale.distance(q, from);
          if (d < best.metres) { best = {static_cast<int>(feature_[p]), d}; foot = q; }
        }
      return true;
    });
    if (best.metres <= reach * scale.y) break;
  }
  if (best.feature >= 0) best.metres = geodesic(from, foot).metres;
  return best;
}

}  // namespace ochre
