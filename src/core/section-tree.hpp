// A map of very many areas in sections: squares of the map in levels, those of a level half as wide
// as those above. A section is a picture of cells while its areas are too many to be told apart;
// else it holds their shapes, with the vertices that can be seen on its level, cut a little beyond
// its sides; the last ones hold every vertex.
#pragma once
#include <cstdint>
#include <string>
#include <vector>

#include "box-tree.hpp"
#include "topology.hpp"

namespace ochre {

constexpr int kSectionPixels = 512;  // across a section, as it is meant to be seen
constexpr int kSectionRoom = 16;     // pixels that shapes go on beyond it

struct SectionLimits {
  size_t areas = 5000, vertices = 60000;
};

enum class SectionKind : uint8_t { picture = 1, shapes = 2, whole = 3 };

struct Section {
  int level;
  uint32_t column, row;  // from the west and from the south
  SectionKind kind;
  size_t vertices;                 // of its shapes; 0 for a picture
  std::vector<uint32_t> features;  // whose boxes touch it
};

// The shapes of a section, and of each the number of its feature.
struct SectionShapes {
  Topology topology;
  std::vector<uint32_t> features;
};

class SectionTree {
 public:
  SectionTree(Topology topology, size_t layer, const SectionLimits& limits);

  // Each after the one that it is a part of.
  const std::vector<Section>& sections() const { return sections_; }
  // The square of level 0, in map units.
  Box whole() const;
  size_t features() const { return boxes_.size(); }
  // Of each feature, in map units; empty where it has no shape.
  Box box(size_t feature) const;

  SectionShapes shapes(const Section& section) const;
  // All layers with the vertices of a level.
  Topology light(int level) const;

  // The feature of each cell, row by row from the north, kNobody where there is none: that which
  // its middle lies in.
  static constexpr uint32_t kNobody = 0xffffffffu;
  std::vector<uint32_t> picture(const Section& section) const;

 private:
  Box square(const Section& section, double room) const;  // on the grid
  Box in_map(const Box& on_grid) const;
  void divide(Section section);
  size_t count_vertices(const Section& section, int level) const;
  std::vector<Point> ring(size_t number, int level) const;
  const TopologyLayer& layer() const { return topology_.layers[layer_]; }

  Topology topology_;
  size_t layer_;
  SectionLimits limits_;
  double x0_ = 0, y0_ = 0, side_ = 1;  // of level 0, on the grid; side_ is a power of two
  std::vector<uint8_t> levels_;        // of each point
  std::vector<Box> boxes_, arc_boxes_;
  std::vector<Section> sections_;
};

// A picture as a page carries it: runs of cells of one class, the class (0 where nothing is, else
// one more than that of the feature) and how often it follows itself, put into one number each.
std::string pack_picture(const std::vector<uint32_t>& cells, const std::vector<int>& feature_class,
                         int classes);
// The same back: of each cell 0, or one more than the class; nothing where the text is none.
std::vector<int> unpack_picture(const std::string& text, int classes);

}  // namespace ochre
