// Undoes what simplification laid over one another: puts hidden vertices back until no two kept
// segments cross, touch or run along each other and no island lies on the wrong side of a border,
// except where the original did. Story and cost: simplify.hpp.
#pragma once
#include <cstdint>
#include <functional>
#include <vector>

#include "arcs.hpp"

namespace ochre {

// Changes `keep` (of each vertex in net.vertex) and says how many came back. In degrees, segments
// across 180° are left alone: they are no straight lines on the plane (core/cut.hpp cuts them).
size_t unfold(const std::vector<Point>& vertex, const ArcNet& net, bool degrees, const std::vector<double>& weight, std::vector<uint8_t>& keep,
              const std::function<void()>& pause);

}  // namespace ochre
