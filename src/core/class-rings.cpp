#include "class-rings.hpp"

#include <algorithm>
#include <cstdint>

namespace ochre {

namespace {

struct Way {
  int group;
  uint64_t from;  // where it begins
  int32_t ref;
};

uint64_t key_of(const GridPoint& p) {
  return (static_cast<uint64_t>(static_cast<uint32_t>(p.x)) << 32) | static_cast<uint32_t>(p.y);
}

struct Ends {
  GridPoint first, last;
};

Ends ends_of(const Topology& t, int32_t ref) {
  auto arc = static_cast<size_t>(ref < 0 ? ~ref : ref);
  const GridPoint& a = t.points[arc ? t.arc_end[arc - 1] : 0];
  const GridPoint& b = t.points[t.arc_end[arc] - 1];
  return ref < 0 ? Ends{b, a} : Ends{a, b};
}

// Arcs of each class that are run an odd number of times: those run twice lie within it.
std::vector<Way> ways_of(const Topology& t, const TopologyLayer& layer,
                         const std::vector<int>& feature_class) {
  std::vector<Way> all;
  for (size_t f = 0, part = 0, ring = 0, i = 0; f < layer.feature_end.size(); ++f)
    for (; part < layer.feature_end[f]; ++part)
      for (; ring < layer.part_end[part]; ++ring)
        for (; i < layer.ring_end[ring]; ++i)
          all.push_back({feature_class[f], 0, layer.ring_arcs[i]});
  auto arc = [](const Way& w) {
    return w.ref < 0 ? ~w.ref : w.ref;
  };
  std::sort(all.begin(), all.end(), [&](const Way& a, const Way& b) {
    return a.group != b.group ? a.group < b.group : arc(a) < arc(b);
  });
  std::vector<Way> out;
  for (size_t i = 0; i < all.size();) {
    size_t end = i;
    while (end < all.size() && all[end].group == all[i].group && arc(all[end]) == arc(all[i]))
      ++end;
    if ((end - i) % 2) out.push_back(all[i]);
    i = end;
  }
  for (Way& way : out)
    way.from = key_of(ends_of(t, way.ref).first);
  return out;
}

void add_arc(const Topology& t, int32_t ref, ClassRings& out) {
  auto arc = static_cast<size_t>(ref < 0 ? ~ref : ref);
  size_t from = arc ? t.arc_end[arc - 1] : 0;
  size_t n = t.arc_end[arc] - from;
  size_t start = out.ring_end.empty() ? 0 : out.ring_end.back();
  for (size_t k = out.points.size() > start ? 1 : 0; k < n; ++k)
    out.points.push_back(t.points[from + (ref < 0 ? n - 1 - k : k)]);
}

}  // namespace

ClassRings class_rings(const Topology& t, const TopologyLayer& layer,
                       const std::vector<int>& feature_class) {
  std::vector<Way> ways = ways_of(t, layer, feature_class);
  auto before = [](const Way& a, const Way& b) {
    return a.group != b.group ? a.group < b.group : a.from < b.from;
  };
  std::sort(ways.begin(), ways.end(), before);
  std::vector<bool> used(ways.size(), false);
  // The first way from a place that is not used yet; places of one class stand together.
  std::vector<size_t> next(ways.size());
  ClassRings out;
  for (size_t i = 0; i < ways.size(); ++i) {
    if (used[i]) continue;
    size_t at = i;
    for (;;) {
      used[at] = true;
      add_arc(t, ways[at].ref, out);
      Way wanted{ways[at].group, key_of(ends_of(t, ways[at].ref).last), 0};
      auto first = static_cast<size_t>(std::lower_bound(ways.begin(), ways.end(), wanted, before) -
                                       ways.begin());
      size_t found = first;
      auto same = [&](size_t k) {
        return k < ways.size() && !before(wanted, ways[k]);
      };
      if (same(first)) found = std::max(first, next[first]);
      while (same(found) && used[found])
        ++found;
      if (same(first)) next[first] = found;
      if (!same(found)) break;
      at = found;
    }
    out.ring_class.push_back(ways[i].group);
    out.ring_end.push_back(out.points.size());
  }
  return out;
}

}  // namespace ochre
