// Where a label or a symbol of an area stands: the place inside of its largest part that is
// farthest from any border, the pole of inaccessibility (Garcia-Castellanos, D., Lombardo, U.
// 2007, Poles of inaccessibility: a calculation algorithm for the remotest places on Earth,
// Scottish Geographical Journal 123(3), 227-233).
//
// The part's box is covered with cells. A cell can hold no place that is farther inside than its
// middle is plus the way to its corner; the most promising cell is quartered until none could
// better the best place by more than a hundredth of it. Distances are those through the globe to
// the straight edges between vertices, long ones bent first, so that large areas and those round
// a pole or over 180° are measured like any other; seams are no borders. The room is at last
// measured on the ellipsoid.
#pragma once
#include "flat.hpp"

namespace ochre {

struct LabelPoint {
  Point at;       // degrees; not a number for a feature without an area
  double metres;  // distance to the nearest border
};

LabelPoint label_point(const FlatLayer& layer, size_t feature);
// Of all features.
std::vector<LabelPoint> label_points(const FlatLayer& layer);

}  // namespace ochre
