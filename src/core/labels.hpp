// Where labels stand so that none lies on another or on a symbol. Labels are placed one after the
// other, the most important first; each takes the first of its places that is free, and is left out
// when none is. Around a point the places come in the order of preference that cartographers have:
// upper right, right, lower right, then left, above and below (Imhof, E. 1975, Positioning names on
// maps, The American Cartographer 2(2), 128-144). In an area it is the middle, then a little off
// it.
#pragma once
#include <cstddef>
#include <vector>

namespace ochre {

struct LabelWish {
  double x, y;           // where the thing is, y upward
  double width, height;  // of the text
  double gap;  // how far the text must keep from a point's middle; 0 for an area, whose label
               // stands on the place
};

struct Disc {
  double x, y, r;
};

struct LabelPlace {
  bool placed = false;
  double x = 0, y = 0;  // middle of the text
};

// `labels` in order of importance. Texts stay within [0, width] x [0, height].
std::vector<LabelPlace> place_labels(const std::vector<LabelWish>& labels,
                                     const std::vector<Disc>& symbols, double width, double height);

}  // namespace ochre
