#include "packed-numbers.hpp"

namespace ochre {

namespace {

constexpr uint64_t kLast = 60;  // digits below end a number
constexpr uint64_t kBase = 30;  // of the digits that do not

char digit(uint64_t value) {
  char c = static_cast<char>('#' + value);
  if (c >= '<') ++c;
  if (c >= '\\') ++c;
  return c;
}

}  // namespace

void PackedNumbers::add(uint64_t value) {
  while (value >= kLast) {
    text_ += digit(kLast + value % kBase);
    value /= kBase;
  }
  text_ += digit(value);
}

uint64_t PackedNumbers::number_of(int64_t value) {
  uint64_t twice = static_cast<uint64_t>(value < 0 ? ~value : value) << 1;
  return twice | (value < 0 ? 1U : 0U);
}

uint64_t next_packed(const std::string& text, size_t& at) {
  uint64_t value = 0, times = 1;
  while (at < text.size()) {
    const char c = text[at++];
    const auto number = static_cast<uint64_t>(c - '#' - (c > '<' ? 1 : 0) - (c > '\\' ? 1 : 0));
    if (number < kLast) return value + times * number;
    value += times * (number - kLast);
    times *= kBase;
  }
  return value;
}

std::string pack_arcs(const Topology& t) {
  PackedNumbers out;
  for (size_t a = 0, i = 0; a < t.arc_end.size(); ++a) {
    out.add(t.arc_end[a] - i);
    GridPoint last{0, 0};
    for (; i < t.arc_end[a]; ++i) {
      out.add_signed(static_cast<int64_t>(t.points[i].x) - last.x);
      out.add_signed(static_cast<int64_t>(t.points[i].y) - last.y);
      last = t.points[i];
    }
  }
  return out.text();
}

std::string pack_layer(const TopologyLayer& layer) {
  PackedNumbers out;
  int64_t last = 0;
  for (size_t f = 0, part = 0, ring = 0, arc = 0; f < layer.feature_end.size(); ++f) {
    size_t end = layer.feature_end[f];
    if (part == end) {
      out.add(0);
      continue;
    }
    out.add(layer.part_shape[part] == Shape::polygon ? 1 : 2);
    size_t ring_end = layer.part_end[end - 1];
    out.add(ring_end - ring);
    for (; ring < ring_end; ++ring) {
      out.add(layer.ring_end[ring] - arc);
      for (; arc < layer.ring_end[ring]; ++arc) {
        int32_t ref = layer.ring_arcs[arc];
        int64_t number = ref < 0 ? ~ref : ref;
        uint64_t step = PackedNumbers::number_of(number - last);
        out.add((step << 1) | (ref < 0 ? 1U : 0U));
        last = number;
      }
    }
    part = end;
  }
  return out.text();
}

}  // namespace ochre
