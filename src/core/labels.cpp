#include "labels.hpp"

#include <algorithm>
#include <cmath>

#include "pulse.hpp"

namespace ochre {

namespace {

struct Rect {
  double x0, y0, x1, y1;
};

bool meet(const Rect& a, const Rect& b) {
  return a.x0 < b.x1 && b.x0 < a.x1 && a.y0 < b.y1 && b.y0 < a.y1;
}
bool meet(const Rect& a, const Disc& d) {
  double dx = std::max({a.x0 - d.x, 0.0, d.x - a.x1}), dy = std::max({a.y0 - d.y, 0.0, d.y - a.y1});
  return dx * dx + dy * dy < d.r * d.r;
}

// What is taken, in square cells; a thing is entered in each cell that it touches.
class Taken {
 public:
  Taken(double width, double height, double side)
      : side_(std::max(side, std::max(width, height) / 512)),
        columns_(1 + static_cast<int>(width / side_)),
        rows_(1 + static_cast<int>(height / side_)),
        cells_(static_cast<size_t>(columns_) * static_cast<size_t>(rows_)) {}
  void add(const Rect& r) {
    rects_.push_back(r);
    enter(r, static_cast<int>(rects_.size()));
  }
  void add(const Disc& d) {
    discs_.push_back(d);
    enter({d.x - d.r, d.y - d.r, d.x + d.r, d.y + d.r}, -static_cast<int>(discs_.size()));
  }
  bool free(const Rect& r) const {
    for (int row = at(r.y0, rows_); row <= at(r.y1, rows_); ++row)
      for (int column = at(r.x0, columns_); column <= at(r.x1, columns_); ++column)
        for (int who : cells_[row * columns_ + column])
          if (who > 0 ? meet(r, rects_[who - 1]) : meet(r, discs_[-who - 1])) return false;
    return true;
  }

 private:
  int at(double v, int n) const {
    return std::max(0, std::min(n - 1, static_cast<int>(std::floor(v / side_))));
  }
  void enter(const Rect& r, int who) {
    for (int row = at(r.y0, rows_); row <= at(r.y1, rows_); ++row)
      for (int column = at(r.x0, columns_); column <= at(r.x1, columns_); ++column)
        cells_[row * columns_ + column].push_back(who);
  }
  double side_;
  int columns_, rows_;
  std::vector<std::vector<int>> cells_;
  std::vector<Rect> rects_;
  std::vector<Disc> discs_;
};

struct Offset {
  double x, y;  // of the text's middle: in half widths and half heights beside the gap
};
constexpr Offset kAroundPoint[] = {{0.72, 0.72}, {1, 0},         {0.72, -0.72}, {-0.72, 0.72},
                                   {-1, 0},      {-0.72, -0.72}, {0, 1},        {0, -1}};
constexpr Offset kInArea[] = {{0, 0},       {0, 0.7},     {0, -0.7},    {0.35, 0},
                              {-0.35, 0},   {0, 1.4},     {0, -1.4},    {0.35, 0.7},
                              {-0.35, 0.7}, {0.35, -0.7}, {-0.35, -0.7}};

Rect around(double x, double y, double width, double height) {
  return {x - width / 2, y - height / 2, x + width / 2, y + height / 2};
}

}  // namespace

std::vector<LabelPlace> place_labels(const std::vector<LabelWish>& labels,
                                     const std::vector<Disc>& symbols, double width,
                                     double height) {
  double tall = 1e-9;
  for (const LabelWish& l : labels)
    tall = std::max(tall, l.height);
  Taken taken(width, height, 3 * tall);
  for (const Disc& d : symbols)
    taken.add(d);
  std::vector<LabelPlace> out(labels.size());
  for (size_t k = 0; k < labels.size(); ++k) {
    const LabelWish& l = labels[k];
    pulse();
    auto attempt = [&](const Offset& o) {
      // A point's text begins where its gap ends; on a diagonal it keeps to the circle of the gap.
      double x = l.x + (l.gap > 0 ? o.x * l.gap + (o.x > 0   ? 0.5
                                                   : o.x < 0 ? -0.5
                                                             : 0) *
                                                      l.width
                                  : o.x * l.width);
      double y = l.y + (l.gap > 0 ? o.y * l.gap +
                                        (o.x == 0 ? (o.y > 0 ? 0.5 : -0.5) : 0.5 * o.y) * l.height
                                  : o.y * l.height);
      Rect box = around(x, y, l.width, l.height);
      if (box.x0 < 0 || box.y0 < 0 || box.x1 > width || box.y1 > height || !taken.free(box))
        return false;
      taken.add(box);
      out[k] = {true, x, y};
      return true;
    };
    if (l.gap > 0) {
      for (const Offset& o : kAroundPoint)
        if (attempt(o)) break;
    } else {
      for (const Offset& o : kInArea)
        if (attempt(o)) break;
    }
  }
  return out;
}

}  // namespace ochre
