// Vector tiles (the open protobuf encoding, version 2.1): squares of a web Mercator map in levels,
// cut from one topology. Each level has the vertices that can be seen on it, the same ones on both
// sides of a border.
#pragma once
#include <cstdint>
#include <map>
#include <memory>
#include <string>
#include <unordered_map>
#include <vector>

#include "box-tree.hpp"
#include "flat.hpp"
#include "topology.hpp"

namespace ochre {

constexpr int kTileUnits = 4096;  // across a tile
constexpr int kTileRoom = 64;     // that geometry goes on beyond it
constexpr double kMercatorEdge = 20037508.342789244;

struct TileAddress {
  int level;
  uint32_t column, row;  // from the west and from the north
};

// What features say: for each its values by the number of their key, as messages of the encoding.
struct TileWords {
  std::vector<std::string> keys;
  std::vector<std::vector<std::pair<uint32_t, std::string>>> values;
};
std::string tile_value(const std::string& text);
std::string tile_value(double number);
std::string tile_value(int64_t whole);
std::string tile_value(bool flag);

class TilePyramid {
 public:
  // `all` lies on a web Mercator map, in metres; so many levels from 0 on.
  TilePyramid(const FlatLayer& all, int levels);

  // The tile with one layer of that name; empty where nothing lies in it.
  std::string cut(const TileAddress& at, const std::string& name, const TileWords& words);

 private:
  struct Level {
    Topology topology;
    std::vector<Box> boxes;  // of features, in metres
    std::unique_ptr<BoxTree> tree;
  };
  Level& level(int number);
  void add_points(const FlatLayer& layer);

  Topology whole_;
  std::vector<uint32_t> order_;
  std::vector<size_t> steps_;                      // of each level
  std::map<size_t, std::unique_ptr<Level>> made_;  // by steps
  std::vector<std::pair<size_t, Point>> places_;   // features that are points
};

}  // namespace ochre
