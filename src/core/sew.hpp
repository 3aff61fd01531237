// The opposite of cutting (core/cut.hpp). Files cut areas at 180° and lead those round a pole down
// to it and along it; these seams are no borders. Where the map is not torn there, parts that meet
// along the meridian become one again, and a ring around a pole is its coast alone, so that
// nothing is drawn along a seam and the shape is whole on every map.
#pragma once
#include "flat.hpp"

namespace ochre {

// Rings of the result step over 180° and go around poles (core/meridian.hpp); those without a seam
// stay as they are. Linear in what has none.
FlatLayer sew_layer(FlatLayer in);

}  // namespace ochre
