#pragma once

namespace ochre {

struct Point {
  double x, y;
  bool operator==(const Point& o) const { return x == o.x && y == o.y; }
  bool operator!=(const Point& o) const { return !(*this == o); }
};

}  // namespace ochre
