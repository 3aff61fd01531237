#include "class-rings.hpp"

#include <algorithm>
#include <cstdint>

namespace ochre {

namespace {

struct Way {
  int group;
  size_t arc;
};

// One end of a way. Files run rings either way round, so a way may be gone from both.
struct End {
  int group;
  uint64_t place;
  size_t way;
  bool last;
  bool operator<(const End& o) const {
    return group != o.group ? group < o.group : place < o.place;
  }
};

uint64_t place_of(const Topology& t, size_t arc, bool last) {
  const GridPoint& p = t.points[last ? t.arc_end[arc] - 1 : arc_start(t, arc)];
  return (static_cast<uint64_t>(static_cast<uint32_t>(p.x)) << 32) | static_cast<uint32_t>(p.y);
}

// Arcs of each class that are run an odd number of times: those run twice lie within it.
std::vector<Way> ways_of(const TopologyLayer& layer, const std::vector<int>& feature_class) {
  std::vector<Way> all;
  for (size_t f = 0, part = 0, ring = 0, i = 0; f < layer.feature_end.size(); ++f)
    for (; part < layer.feature_end[f]; ++part)
      for (; ring < layer.part_end[part]; ++ring)
        for (; i < layer.ring_end[ring]; ++i)
          all.push_back({feature_class[f], arc_number(layer.ring_arcs[i])});
  std::sort(all.begin(), all.end(), [](const Way& a, const Way& b) {
    return a.group != b.group ? a.group < b.group : a.arc < b.arc;
  });
  std::vector<Way> out;
  for (size_t i = 0; i < all.size();) {
    size_t end = i;
    while (end < all.size() && all[end].group == all[i].group && all[end].arc == all[i].arc)
      ++end;
    if ((end - i) % 2) out.push_back(all[i]);
    i = end;
  }
  return out;
}

void add_arc(const Topology& t, size_t arc, bool backwards, ClassRings& out) {
  const size_t from = arc_start(t, arc), n = t.arc_end[arc] - from;
  const size_t start = out.ring_end.empty() ? 0 : out.ring_end.back();
  for (size_t k = out.points.size() > start ? 1 : 0; k < n; ++k)
    out.points.push_back(t.points[from + (backwards ? n - 1 - k : k)]);
}

}  // namespace

ClassRings class_rings(const Topology& t, const TopologyLayer& layer,
                       const std::vector<int>& feature_class) {
  const std::vector<Way> ways = ways_of(layer, feature_class);
  std::vector<End> ends;
  ends.reserve(2 * ways.size());
  for (size_t w = 0; w < ways.size(); ++w)
    for (bool last : {false, true})
      ends.push_back({ways[w].group, place_of(t, ways[w].arc, last), w, last});
  std::sort(ends.begin(), ends.end());
  std::vector<bool> used(ways.size(), false);
  // The first end at a place whose way may still be open; ends at one place stand together.
  std::vector<size_t> next(ends.size(), 0);
  ClassRings out;
  for (size_t i = 0; i < ways.size(); ++i) {
    if (used[i]) continue;
    // Each place has an even number of ends, so the walk stops where it began.
    End at{ways[i].group, 0, i, false};
    for (;;) {
      const size_t arc = ways[at.way].arc;
      used[at.way] = true;
      add_arc(t, arc, at.last, out);
      const End wanted{at.group, place_of(t, arc, !at.last), 0, false};
      const auto first =
          static_cast<size_t>(std::lower_bound(ends.begin(), ends.end(), wanted) - ends.begin());
      size_t k = std::max(first, next[first]);
      while (k < ends.size() && !(wanted < ends[k]) && used[ends[k].way])
        ++k;
      next[first] = k;
      if (k == ends.size() || wanted < ends[k]) break;
      at = ends[k];
    }
    out.ring_class.push_back(ways[i].group);
    out.ring_end.push_back(out.points.size());
  }
  return out;
}

}  // namespace ochre
