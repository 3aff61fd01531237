// A grid of cells over areas, in levels: a cell that lies wholly within one area, or within none,
// is settled; one that a border touches is divided into 4 by 4, down to the last level. So that a
// point's cell alone says its area, unless it is a border cell of the last level.
#pragma once
#include <cstdint>
#include <vector>

#include "box-tree.hpp"
#include "flat.hpp"

namespace ochre {

struct Cover {
  static constexpr int kInNone = -1, kBorder = -2, kSplit = 4;
  // That of the grid, which is a little more than that of the areas.
  Box box;
  struct Level {
    int64_t side;  // cells in a row, and rows
    // How many there are for a degree: a few digits say it exactly.
    double per_x, per_y;
    // Of the first level all cells, of others those within border cells of the level before: the
    // cell is column + side * row, from the south-west.
    std::vector<int64_t> cell;
    std::vector<int> area;  // the feature, or one of the marks above
  };
  std::vector<Level> levels;
};

// A grid for so many points: it is divided as long as that leaves more points settled than it makes
// cells, or makes not many. Places whose cell is reckoned with an error of a millionth of a cell
// are still in the area that is said. Without levels when there are too few points.
Cover cover_areas(const FlatLayer& layer, double points);

}  // namespace ochre
