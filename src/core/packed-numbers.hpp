// Whole numbers as text for a page: a number below 60 is one character, a larger one is written in
// digits of base 30, the lowest first. The characters are those of ASCII from `#` on, without `<`
// and `\`, so that a text stands in JSON and in markup as it is; it is compressed better than
// numbers with commas. viewer/src/packed.ts reads it.
#pragma once
#include <cstdint>
#include <string>
#include <vector>

#include "topology.hpp"

namespace ochre {

class PackedNumbers {
 public:
  void add(uint64_t value);
  // A number with a sign: 0, -1, 1, -2, … are 0, 1, 2, 3, …
  void add_signed(int64_t value) { add(number_of(value)); }
  // The same plus one, so that 0 is free.
  void add_more(int64_t value) { add(number_of(value) + 1); }
  static uint64_t number_of(int64_t value);
  const std::string& text() const { return text_; }

 private:
  std::string text_;
};

// The number that begins at a place of a text, which is moved behind it.
uint64_t next_packed(const std::string& text, size_t& at);

// For each arc how many points it has, and each as steps from the one before; the first from 0, 0.
std::string pack_arcs(const Topology& topology);

// For each feature of a layer: 0 for nothing, 1 for areas, 2 for lines; how many rings; for each
// how many arcs; and each arc as the step from the number before, doubled, and odd where it runs
// backwards.
std::string pack_layer(const TopologyLayer& layer);

}  // namespace ochre
