// Cutting geometry along a meridian: at 180°, as RFC 7946 (section 3.1.9) asks, or where a map of
// the world is torn. Rings are unrolled first (core/meridian.hpp).
#pragma once
#include "flat.hpp"
#include "meridian.hpp"

namespace ochre {

// Appends one part to `out`, cut where it crosses the meridian; longitudes end up within 360°
// west of it, and for 180° in ±180°.
// `always` brings parts there too that do not cross it.
void cut_part(const FlatLayer& in, size_t part, double meridian, FlatLayer& out,
              bool always = false);

// A whole layer; parts that do not cross the meridian stay as they are.
FlatLayer cut_layer(const FlatLayer& in, double meridian);

}  // namespace ochre
