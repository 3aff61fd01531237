// Lighter borders that stay shared, as one order in which vertices go. Every wish (a share, a
// length, a size) takes a beginning of that order, so that what is lighter is always a part of
// what is heavier.
//
// A vertex counts for as much as the triangle that it makes with its neighbours; the least goes
// first and its neighbours are weighed again (Visvalingam, M., Whyatt, J.D. 1993, Line
// generalisation by repeated elimination of points, The Cartographic Journal 30(1), 46-51). The
// triangle is measured on the globe, so the measure is the same at any latitude. A shape weight
// takes narrow spikes out earlier than broad bends of the same area (the idea of weighting by
// shape: Zhou, S., Jones, C.B. 2005, Shape-aware line generalisation with weighted effective area,
// Developments in Spatial Data Handling, 369-380).
//
// A vertex stays, whatever its weight, while
// - its triangle holds another vertex that is left: without it a border would cross another, touch
//   it, or leave an island on the wrong side of a coast (if a triangle is empty, nothing that the
//   new edge could cross has an end in it; what crossed in the original stays as it was). It is
//   asked for again when the vertex in its way has gone;
// - its border would become one with another between the same ends, or a ring would lose its land;
// - an area beside it would come to differ from its size by more than a limit. Only when nothing
//   else can go is the limit raised, step by step.
// Each vertex has its place in one heap and the tree of those left (core/live-points.hpp), so the
// cost is n log n, as long as few vertices lie in each triangle.
#pragma once
#include <unordered_map>
#include <vector>

#include "arcs.hpp"
#include "least-first.hpp"
#include "live-points.hpp"

namespace ochre {

constexpr double kShapeWeight = 0.5;  // what is used where nobody asks for another

// Which areas lie beside an arc, and how large they are; the same area twice for a border within.
struct AreaSides {
  struct Side {
    uint32_t area;
    int8_t turn;
  };  // 1: the arc runs counter-clockwise around the area
  std::vector<Side> side;
  std::vector<size_t> end;     // into `side`, of each arc
  std::vector<double> size;    // of each area, square metres or the plane's unit squared
  std::vector<uint32_t> uses;  // of each arc, by rings and lines
};
AreaSides area_sides(const FlatLayer& layer, const ArcNet& net);
struct ArcUse {
  uint32_t arc;
  AreaSides::Side side;
};
// Fills `side` and `end` from uses in any order; `uses` of each arc is there already.
void put_sides(std::vector<ArcUse>& uses, AreaSides& out);

struct SimplifyResult {
  std::vector<uint8_t> keep;  // of each vertex in net.vertex
  size_t kept = 0;
};

class Simplifier {
 public:
  // `degrees`: the vertices are longitude and latitude, and areas are square metres; otherwise
  // they lie on a plane, and areas are in its unit squared. `shape` from 0 (area alone) to 1.
  Simplifier(const std::vector<Point>& vertex, const ArcNet& net, const AreaSides& sides,
             bool degrees, double shape);

  // How many vertices can go at most, one after the other.
  size_t steps() const { return order_.size(); }
  // Positions in the net, in the order in which they go.
  const std::vector<uint32_t>& order() const { return order_; }
  // After how many steps the vertices that rings and lines count are nearest to a number.
  size_t steps_for_count(double count) const;
  // The same for the vertices of all arcs, each counted once.
  size_t steps_for_kept(double kept) const;
  // How many go that count for less than an area, without moving any area beyond the first limit.
  size_t steps_below(double area) const;
  // Vertices that rings and lines count, after all steps.
  double least_count() const;

  SimplifyResult after(size_t steps) const;

 private:
  struct Position {
    double x, y, z;
  };
  struct Straight {
    bool operator==(const Straight& o) const { return a == o.a && b == o.b; }
    uint32_t a, b;
  };
  struct HashStraight {
    size_t operator()(const Straight& s) const { return mix(uint64_t(s.a) << 32 | s.b); }
  };

  void place_vertices();
  void link_arcs();
  void remove_in_order();
  double triangle(uint32_t i) const;
  double planar_area(uint32_t i) const;
  bool inner(uint32_t i) const {
    return before_[i] != kNone && after_[i] != kNone;
  }  // and still there
  bool ends_ring(uint32_t i) const;
  bool moves_area(uint32_t i, double limit) const;
  bool in_the_way(uint32_t i, uint32_t& who);
  bool blocked(uint32_t i, double limit);
  void take_out(uint32_t i);

  void update(uint32_t i);

  static constexpr uint32_t kNone = 0xffffffffu;
  const std::vector<Point>& vertex_;
  const ArcNet& net_;
  const AreaSides& sides_;
  bool degrees_;
  double shape_, reached_ = 0;

  std::vector<uint32_t> order_;  // positions in net.vertex
  std::vector<double> weight_;   // that was reached at each step; infinite past the first limit
  std::vector<uint32_t> left_;   // vertices on each arc, ends included
  double counted_ = 0;

  // Working memory, gone after the order is known.
  std::vector<Position> place_;
  std::vector<uint32_t> before_, after_, arc_;
  std::vector<double> change_;
  LeastFirst turn_;
  std::unordered_map<Straight, int, HashStraight> straight_;
  std::unordered_map<uint32_t, std::vector<uint32_t>> waiting_;  // for a vertex to go
  std::vector<uint32_t> deferred_;
  LivePoints live_;
};

// The rings of a layer after simplification; small parts may be dropped. An area keeps its
// largest part unless `vanish`, and a part that shares a border always stays.
struct DropRule {
  double below = 0;  // square metres (or the plane's unit squared); 0 drops nothing
  bool vanish = false;
};
struct SimplifiedLayer {
  FlatLayer layer;
  size_t dropped_parts = 0, vanished = 0;
};
SimplifiedLayer rebuild(const FlatLayer& layer, const BorderNet& borders,
                        const SimplifyResult& kept, const DropRule& drop);

}  // namespace ochre
