// Positions as KML and GPX write them: "longitude,latitude[,height]" with white space between.
#pragma once
#include <string>
#include <vector>

#include "point.hpp"

namespace ochre {

// Appends the positions of one text; false where it is not such a text.
bool read_positions(const char* text, size_t size, std::vector<Point>& out);

}  // namespace ochre
