#include "prepare-layer.hpp"

#include <algorithm>
#include <cmath>

namespace ochre {

int inset_of(const std::vector<Box>& boxes, const Point* p, size_t n) {
  for (size_t k = 0; k < boxes.size(); ++k) {
    const Box& b = boxes[k];
    double middle = (b.x0 + b.x1) / 2, half = (b.x1 - b.x0) / 2;
    bool in = n > 0;
    for (size_t i = 0; i < n && in; ++i) in = std::fabs(std::remainder(p[i].x - middle, 360)) <= half && p[i].y >= b.y0 && p[i].y <= b.y1;
    if (in) return static_cast<int>(k);
  }
  return -1;
}

FlatLayer bend_edges(const FlatLayer& in) {
  FlatLayer out = in;
  out.points.clear();
  for (size_t r = 0; r < in.ring_end.size(); ++r) {
    const Point* p = in.ring(r);
    for (size_t i = 0; i < in.ring_size(r); ++i) {
      out.points.push_back(p[i]);
      if (i + 1 == in.ring_size(r)) break;
      Point a = p[i], b = p[i + 1];
      double dx = std::fabs(b.x - a.x), longest = std::max(dx, std::fabs(b.y - a.y));
      if (longest <= 2 || (dx > 180 && dx < 360) || !std::isfinite(longest)) continue;
      bool turned = b.x < a.x || (b.x == a.x && b.y < a.y);
      if (turned) std::swap(a, b);
      int pieces = static_cast<int>(std::ceil(std::min(longest, 720.0) / 2));
      for (int k = 1; k < pieces; ++k) {
        double t = double(turned ? pieces - k : k) / pieces;
        out.points.push_back({a.x + t * (b.x - a.x), a.y + t * (b.y - a.y)});
      }
    }
    out.ring_end[r] = out.points.size();
  }
  return out;
}

void project_layer(FlatLayer& layer, const Projection& projection, const std::vector<Inset>& insets) {
  std::vector<Box> boxes;
  for (const Inset& i : insets) boxes.push_back(i.box);
  for (size_t p = 0; p < layer.part_end.size(); ++p) {
    size_t first = layer.first_ring(p);
    int k = boxes.empty() || first == layer.part_end[p] ? -1 : inset_of(boxes, layer.ring(first), layer.ring_size(first));
    for (size_t r = first; r < layer.part_end[p]; ++r)
      for (size_t i = layer.first_point(r); i < layer.ring_end[r]; ++i) {
        Point& q = layer.points[i];
        if (k < 0) { q = projection.forward(q.x, q.y); continue; }
        Point m = insets[k].projection.forward(q.x, q.y);
        q = {insets[k].dx + insets[k].scale * m.x, insets[k].dy + insets[k].scale * m.y};
      }
  }
}

}  // namespace ochre
