#include "flat.hpp"

namespace ochre {

namespace {

void write_part(const FlatLayer& layer, size_t part, WkbWriter& out) {
  Shape shape = layer.part_shape[part];
  size_t from = layer.first_ring(part), to = layer.part_end[part];
  out.header(shape, false);
  auto points = [&](size_t r) {
    if (layer.ring_size(r)) out.coordinates(&layer.ring(r)->x, 2 * layer.ring_size(r));
  };
  if (shape == Shape::point) {
    double nan[2] = {NAN, NAN};
    if (from == to)
      out.coordinates(nan, 2);
    else
      points(from);
  } else if (shape == Shape::line) {
    out.count(from == to ? 0 : layer.ring_size(from));
    if (from < to) points(from);
  } else {
    out.count(to - from);
    for (size_t r = from; r < to; ++r) {
      out.count(layer.ring_size(r));
      points(r);
    }
  }
}

Shape simple(Shape s) {
  switch (s) {
    case Shape::multipoint:
      return Shape::point;
    case Shape::multiline:
      return Shape::line;
    case Shape::multipolygon:
      return Shape::polygon;
    default:
      return s;
  }
}
Shape multiple(Shape s) {
  return static_cast<Shape>(static_cast<uint32_t>(s) + 3);
}

}  // namespace

void write_feature(const FlatLayer& layer, size_t f, WkbWriter& out) {
  out.clear();
  Shape whole = layer.feature_shape[f];
  if (static_cast<uint32_t>(whole) == 0) return;
  size_t from = layer.first_part(f), to = layer.feature_end[f];
  bool even = true;
  for (size_t p = from; p < to; ++p)
    even &= layer.part_shape[p] == layer.part_shape[from];
  if (whole == simple(whole) && whole != Shape::collection && to - from == 1 &&
      layer.part_shape[from] == whole) {
    write_part(layer, from, out);
    return;
  }
  if (from == to && whole == Shape::point) {
    double nan[2] = {NAN, NAN};
    out.header(whole, false);
    out.coordinates(nan, 2);
    return;
  }
  if (!even || (from < to && simple(whole) != layer.part_shape[from]))
    whole = Shape::collection;
  else if (from < to && whole == simple(whole) && whole != Shape::collection)
    whole = multiple(whole);
  out.header(whole, false);
  out.count(to - from);
  for (size_t p = from; p < to; ++p)
    write_part(layer, p, out);
}

}  // namespace ochre
