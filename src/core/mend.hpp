// Repairing what is safe to repair. Each polygon is taken apart and put together again: points
// that are none or follow themselves go, rings are closed and turned, flat ones go, bow-ties are
// untied, what crosses 180° is cut, holes find the shell that is around them. Then borders of
// neighbours that run side by side closer than a tolerance become one.
#pragma once
#include "flat.hpp"

namespace ochre {

struct MendResult {
  FlatLayer layer;
  size_t moved = 0;  // vertices moved onto a neighbour's vertex
  size_t added = 0;  // vertices added to a border that a neighbour's vertex lies on
};

MendResult mend(const FlatLayer& layer, double metres);

}  // namespace ochre
