// TopoJSON: arcs that several geometries share, quantised or not, and one or more objects made of
// them. Arcs are decoded once into flat coordinates; geometries are put together from them.
#pragma once
#include <string>

#include "boundaries.hpp"
#include "json-text.hpp"

namespace ochre {

Boundaries read_topojson(JsonText text, const std::string& layer, const ColumnSet& limits,
                         GeometrySink& sink);

}  // namespace ochre
