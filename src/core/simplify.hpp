// Lighter borders that stay shared. Each arc is simplified once, so both neighbours keep one
// border. A vertex counts for as much as the triangle that it makes with its neighbours; the
// least is taken out first and its neighbours are weighed again (Visvalingam, M., Whyatt, J.D.
// 1993, Line generalisation by repeated elimination of points, The Cartographic Journal 30(1),
// 46-51). The triangle is measured on the globe, so the measure is the same at any latitude. A
// shape weight takes narrow spikes out earlier than broad bends of the same area (the idea of
// weighting by shape: Zhou, S., Jones, C.B. 2005, Shape-aware line generalisation with weighted
// effective area, Developments in Spatial Data Handling, 369-380).
//
// Taking out vertices can make borders cross, or leave an island on the wrong side of a coast.
// Afterwards all that lies over one another is found with a grid of segments, and the hidden
// vertex that counts for most is put back where it does, until nothing does any more. What crossed
// in the original stays as it was. Cost: n log n for the weights, linear in what is left for the
// check.
#pragma once
#include <functional>
#include <vector>

#include "arcs.hpp"

namespace ochre {

constexpr double kShapeWeight = 0.5;  // what is used where nobody asks for another

struct SimplifyResult {
  std::vector<uint8_t> keep;   // of each vertex in net.vertex
  size_t kept = 0;
  size_t put_back = 0;         // vertices that came back to undo a crossing
};

class Simplifier {
 public:
  // `degrees`: the vertices are longitude and latitude, and areas are square metres; otherwise
  // they lie on a plane, and areas are in its unit squared. `shape` from 0 (area alone) to 1.
  Simplifier(const std::vector<Point>& vertex, const ArcNet& net, bool degrees, double shape);

  // The area under which a vertex goes when this share of all vertices is to be kept.
  double threshold_for_share(double share) const;
  // All thresholds that make a difference lie between these.
  double least() const { return least_; }
  double most() const { return most_; }

  SimplifyResult at_threshold(double area, const std::function<void()>& pause = [] {}) const;
  const std::vector<double>& weights() const { return weight_; }

 private:
  void weigh_arc(size_t from, size_t to, bool loop, double shape);
  double triangle(size_t a, size_t b, size_t c, double shape) const;
  const std::vector<Point>& vertex_;
  const ArcNet& net_;
  bool degrees_;
  std::vector<double> weight_;             // of each vertex in net.vertex; infinite at ends
  double least_ = 1e300, most_ = 0;
  // One arc's working memory.
  struct Position { double x, y, z; };
  std::vector<Position> place_;
  std::vector<uint32_t> before_, after_, heap_, slot_;
  std::vector<double> now_;
};

// The rings of a layer after simplification; small parts may be dropped. An area keeps its
// largest part unless `vanish`, and a part that shares a border always stays.
struct DropRule {
  double below = 0;        // square metres (or the plane's unit squared); 0 drops nothing
  bool vanish = false;
};
struct SimplifiedLayer {
  FlatLayer layer;
  size_t dropped_parts = 0, vanished = 0;
};
SimplifiedLayer rebuild(const FlatLayer& layer, const BorderNet& borders, const SimplifyResult& kept, const DropRule& drop);

}  // namespace ochre
