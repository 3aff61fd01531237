// How much land there is for each length of border in a layer of a topology, in grid units: borders
// are drawn so wide that they leave the land its colours.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace ochre {

// Flat views of a topology's points and arcs, and of a layer's rings and parts: a part is a shell
// and its holes, whichever way they run; a ring is made of arcs (~arc when run backwards).
struct ArcView {
  const int32_t *x, *y, *arc_end;
  size_t arcs;
  const int32_t *ring_arc, *ring_end, *part_end;
  size_t parts;
};

// 0 where there is no border.
inline double border_spacing(const ArcView& t) {
  struct Arc {
    double length = 0, area = 0;
    bool counted = false;
  };
  std::vector<Arc> arcs(t.arcs);
  for (size_t a = 0, i = 0; a < t.arcs; ++a) {
    const auto end = static_cast<size_t>(t.arc_end[a]);
    for (; i + 1 < end; ++i) {
      const double x0 = t.x[i], y0 = t.y[i], x1 = t.x[i + 1], y1 = t.y[i + 1];
      arcs[a].length += std::sqrt((x1 - x0) * (x1 - x0) + (y1 - y0) * (y1 - y0));
      arcs[a].area += (x0 * y1 - x1 * y0) / 2;
    }
    i = end;
  }
  double land = 0, border = 0;
  for (size_t p = 0, ring = 0, k = 0; p < t.parts; ++p) {
    for (bool shell = true; ring < static_cast<size_t>(t.part_end[p]); ++ring, shell = false) {
      double area = 0;
      for (; k < static_cast<size_t>(t.ring_end[ring]); ++k) {
        const int32_t of = t.ring_arc[k];
        Arc& arc = arcs[static_cast<size_t>(of < 0 ? ~of : of)];
        area += of < 0 ? -arc.area : arc.area;
        if (!arc.counted) border += arc.length;
        arc.counted = true;
      }
      land += shell ? std::fabs(area) : -std::fabs(area);
    }
  }
  return border > 0 ? std::max(0.0, land) / border : 0;
}

}  // namespace ochre
