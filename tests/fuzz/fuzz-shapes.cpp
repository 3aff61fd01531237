// Any polygons of small whole coordinates through all that works on shapes: what comes out of
// mending has nothing left to mend, and simplification keeps what does not cross from crossing.
#include <cmath>

#include "check.hpp"
#include "cut.hpp"
#include "fuzz.hpp"
#include "geodesy.hpp"
#include "geometry-text.hpp"
#include "label-point.hpp"
#include "mend.hpp"
#include "merge.hpp"
#include "prepare-layer.hpp"
#include "simplify.hpp"

using namespace ochre;

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  if (size > 600) return 0;
  FlatLayer layer;
  std::vector<Point> ring;
  auto end_ring = [&](bool part) {
    if (!ring.empty()) {
      ring.push_back(ring.front());
      layer.add_ring(ring.data(), ring.size());
      if (part) {
        layer.end_part(Shape::polygon);
        layer.end_feature(Shape::polygon);
      }
    }
    ring.clear();
  };
  for (size_t i = 0; i + 1 < size; i += 2) {
    if (data[i] >= 250) {
      end_ring(true);
      continue;
    }
    ring.push_back(
        {double(data[i] % 24) * (data[i] & 128 ? 15 : 1) - 180, double(data[i + 1] % 24) * 7 - 80});
  }
  end_ring(true);
  FlatLayer mended = mend(layer, 0).layer;
  // Around a pole and across 180° at once there may be no sense to keep; elsewhere there always is.
  bool across = false;
  for (size_t r = 0; r < layer.ring_end.size(); ++r)
    across |= steps_over(layer.ring(r), layer.ring_size(r));
  for (const Finding& f : check_features(mended, std::vector<bool>(mended.features(), false)))
    if (!across && f.kind != Kind::empty_geometry && f.kind != Kind::no_geometry) std::abort();
  mend(layer, 1000);
  check_borders(layer, 10);
  for (const FlatLayer* l : {&layer, &mended}) {
    BorderNet b = border_net(*l);
    AreaSides sides = area_sides(*l, b.net);
    Simplifier s(b.vertex, b.net, sides, true, 0.5);
    rebuild(*l, b, s.after(s.steps_for_count(0.3 * l->points.size())), {1e9, true});
    std::vector<int> group(l->features());
    for (size_t f = 0; f < group.size(); ++f)
      group[f] = static_cast<int>(f % 3);
    merge_areas(*l, group, 3);
    for (size_t p = 0; p < l->part_end.size(); ++p)
      if (!(part_area_m2(*l, p) >= 0)) std::abort();
    for (double lat0 : {-90.0, 20.0})
      prepare_layer(*l, Projection(ProjectionKind::azimuthal, 13, lat0), {});
    prepare_layer(*l, Projection(ProjectionKind::world, -170, 0), {});
    border_lines(*l, group, true);
    for (size_t f = 0; f < l->features(); ++f)
      label_point(*l, f);
    cut_layer(*l, 7);
    topojson_file(*l, "\"a\"", {}, 3);
  }
  return 0;
}
