// Features as flat arrays: each level (feature, part, ring) is an array of end positions into the
// one below. Rings of polygons are closed (the first point is repeated); heights are not kept.
#pragma once
#include <cstdint>
#include <string>
#include <vector>

#include "point.hpp"
#include "wkb.hpp"

namespace ochre {

struct FlatLayer {
  std::string name;
  std::vector<Point> points;
  std::vector<size_t> ring_end;      // into points
  std::vector<size_t> part_end;      // into ring_end
  std::vector<Shape> part_shape;     // point, line or polygon
  std::vector<size_t> feature_end;   // into part_end
  std::vector<Shape> feature_shape;  // what the feature was as a whole; Shape(0) without geometry

  size_t features() const { return feature_end.size(); }
  size_t first_part(size_t f) const { return f ? feature_end[f - 1] : 0; }
  size_t first_ring(size_t p) const { return p ? part_end[p - 1] : 0; }
  size_t first_point(size_t r) const { return r ? ring_end[r - 1] : 0; }
  const Point* ring(size_t r) const { return points.data() + first_point(r); }
  size_t ring_size(size_t r) const { return ring_end[r] - first_point(r); }

  void add_ring(const Point* p, size_t n) {
    points.insert(points.end(), p, p + n);
    ring_end.push_back(points.size());
  }
  void end_part(Shape shape) {
    part_end.push_back(ring_end.size());
    part_shape.push_back(shape);
  }
  void end_feature(Shape shape) {
    feature_end.push_back(part_end.size());
    feature_shape.push_back(shape);
  }
  // Appends one part of another layer as it is.
  void copy_part(const FlatLayer& from, size_t part) {
    for (size_t r = from.first_ring(part); r < from.part_end[part]; ++r)
      add_ring(from.ring(r), from.ring_size(r));
    end_part(from.part_shape[part]);
  }
};

// Fills a layer from well-known binary; rings that are open are closed on the way, unless they
// are wanted as they came.
class FlatGatherer {
 public:
  explicit FlatGatherer(FlatLayer& layer, bool close = true) : layer_(layer), close_(close) {}
  void part(Shape shape) {
    close_part();
    open_ = true;
    layer_.part_shape.push_back(shape);
  }
  void ring(size_t n) {
    close_ring();
    in_ring_ = true;
    layer_.points.reserve(layer_.points.size() + (n < 65536 ? 0 : n));
  }
  void coordinate(double x, double y) { layer_.points.push_back({x, y}); }
  void end_feature(Shape shape) {
    close_part();
    layer_.end_feature(shape);
  }

 private:
  void close_ring() {
    if (in_ring_) {
      size_t from = layer_.ring_end.empty() ? 0 : layer_.ring_end.back();
      bool open = layer_.points.size() > from && layer_.points[from] != layer_.points.back();
      if (close_ && open && layer_.part_shape.back() == Shape::polygon) {
        Point first = layer_.points[from];
        layer_.points.push_back(first);
      }
      layer_.ring_end.push_back(layer_.points.size());
    }
    in_ring_ = false;
  }
  void close_part() {
    close_ring();
    if (open_) layer_.part_end.push_back(layer_.ring_end.size());
    open_ = false;
  }
  FlatLayer& layer_;
  bool close_, open_ = false, in_ring_ = false;
};

// One feature as well-known binary, of its own shape where its parts still fit that; empty bytes
// for a feature without geometry.
void write_feature(const FlatLayer& layer, size_t feature, WkbWriter& out);

}  // namespace ochre
