#include "locate.hpp"

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

}  // namespace ochre
