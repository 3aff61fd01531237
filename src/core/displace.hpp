// Gentle displacement: circles that overlap are pushed apart until each can be seen whole, none
// farther than it must.
#pragma once
#include <vector>

namespace ochre {

struct Places {
  std::vector<double> x, y;
  bool all = true;  // false when there were too many pairs to look at
};

// Pairs that overlap move apart along the line between their middles, the smaller one more, until
// `gap` lies between them or no circle may move farther: none goes more than `most` from where it
// stands. Places far from others do not move at all.
Places displace(const std::vector<double>& x, const std::vector<double>& y,
                const std::vector<double>& radius, double gap, double most);

}  // namespace ochre
