// Shared borders, found once. Runs of numbered vertices (rings and lines) are cut where borders
// meet into arcs; a border between two areas becomes one arc that both refer to, one of them
// backwards. A vertex is a junction when the two neighbours seen along one run differ from those
// seen along another, or when a line ends there.
//
// Vertices are numbered by one open-addressing hash table, arcs are found again by another, and
// neighbours lie in arrays, so the cost is linear in the number of points.
#pragma once
#include <cstdint>
#include <cstring>
#include <vector>

#include "flat.hpp"
#include "pulse.hpp"

namespace ochre {

inline uint64_t mix(uint64_t h) {  // the finaliser of SplitMix64
  h ^= h >> 30;
  h *= 0xbf58476d1ce4e5b9ull;
  h ^= h >> 27;
  h *= 0x94d049bb133111ebull;
  return h ^ (h >> 31);
}

// Numbers points in order of first appearance; equal points get the same number. The table grows
// with them: of borders each point is met twice, so no more than half as many are `expected`.
template <class P>
class VertexIndex {
 public:
  explicit VertexIndex(size_t expected) { make_room(expected); }
  uint32_t number(const P& p) {
    pulse();
    size_t at = slot_of(p);
    if (!slots_[at]) {
      if (2 * points.size() + 2 > slots_.size()) {
        make_room(2 * points.size());
        at = slot_of(p);
      }
      points.push_back(p);
      slots_[at] = static_cast<uint32_t>(points.size());
    }
    return slots_[at] - 1;
  }
  std::vector<P> points;

 private:
  // The slot that has a point, or the free one that is to have it.
  size_t slot_of(const P& p) const {
    const size_t mask = slots_.size() - 1;
    size_t at = hash_point(p) & mask;
    while (slots_[at] && points[slots_[at] - 1] != p)
      at = (at + 1) & mask;
    return at;
  }
  void make_room(size_t expected) {
    size_t size = 16;
    while (size < 2 * expected + 2)
      size *= 2;
    slots_.assign(size, 0);
    for (size_t k = 0; k < points.size(); ++k)
      slots_[slot_of(points[k])] = static_cast<uint32_t>(k + 1);
  }
  std::vector<uint32_t> slots_;  // number + 1; 0 is free
};

inline uint64_t hash_point(const Point& p) {
  double x = p.x + 0.0, y = p.y + 0.0;  // -0 and 0 are one place
  uint64_t a, b;
  std::memcpy(&a, &x, 8);
  std::memcpy(&b, &y, 8);
  return mix(a ^ (mix(b) + 0x9e3779b97f4a7c15ull));
}

// Runs of vertex numbers; closed ones repeat the first at the end.
struct Runs {
  std::vector<uint32_t> vertex;
  std::vector<size_t> end;
  std::vector<bool> closed;
  size_t from(size_t r) const { return r ? end[r - 1] : 0; }
};

struct ArcNet {
  std::vector<uint32_t> vertex;  // of all arcs, one after the other
  std::vector<size_t> arc_end;   // into vertex
  std::vector<int32_t> run_arc;  // of all runs: arc number, or ~number when run backwards
  std::vector<size_t> run_end;   // into run_arc
  size_t arcs() const { return arc_end.size(); }
  size_t arc_from(size_t a) const { return a ? arc_end[a - 1] : 0; }
  size_t run_from(size_t r) const { return r ? run_end[r - 1] : 0; }
  bool loop(size_t a) const {
    return arc_end[a] - arc_from(a) > 1 && vertex[arc_from(a)] == vertex[arc_end[a] - 1];
  }
};

ArcNet find_arcs(const Runs& runs, size_t vertices);

// A layer with its vertices and arcs. Run r of the net is ring r of the layer; points that follow
// themselves are one, rings are closed on the way, and single points have an empty run.
struct BorderNet {
  std::vector<Point> vertex;
  ArcNet net;
};
BorderNet border_net(const FlatLayer& layer);

}  // namespace ochre
