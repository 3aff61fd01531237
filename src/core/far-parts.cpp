#include "far-parts.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <utility>

#include "geodesy.hpp"
#include "meridian.hpp"
#include "projection.hpp"
#include "share-out.hpp"

namespace ochre {

namespace {

constexpr double kRadians = 3.14159265358979323846 / 180;
constexpr double kKmOfDegree = 111.2;
constexpr size_t kMostFar = 6;        // groups; more than that are joined by wider gaps
constexpr double kLittleLand = 0.25;  // of all, that far groups may have, one and together
constexpr double kMuchWider = 1.5;    // times the extent without them

struct Part {
  Box box;  // longitudes from the map's west, so that they run on past 180
  double land = 0;
  std::vector<Point> corners;
};

// The land's parts with longitudes counted from `west`.
std::vector<Part> parts_from(const std::vector<FlatLayer>& layers, double west) {
  std::vector<Part> out;
  std::vector<std::pair<const FlatLayer*, size_t>> of;
  for (const FlatLayer& layer : layers) {
    for (size_t p = 0; p < layer.part_end.size(); ++p) {
      size_t r = layer.first_ring(p);
      if (r == layer.part_end[p] || layer.ring_size(r) == 0) continue;
      Part part;
      part.corners = unroll_run(layer.ring(r), layer.ring_size(r));
      double low = part.corners[0].x;
      for (const Point& c : part.corners)
        low = std::min(low, c.x);
      double shift = std::floor((low - west + 1e-9) / 360) * 360;
      for (Point& c : part.corners) {
        c.x -= shift + west;
        part.box.add(c.x, c.y);
      }
      if (!std::isfinite(part.box.x0 + part.box.x1 + part.box.y0 + part.box.y1)) continue;
      out.push_back(std::move(part));
      of.emplace_back(&layer, p);
    }
  }
  share_out(out.size(), 256, [&](size_t from, size_t to) {
    for (size_t k = from; k < to; ++k) {
      const FlatLayer& layer = *of[k].first;
      if (layer.part_shape[of[k].second] == Shape::polygon)
        out[k].land = part_area_m2(layer, of[k].second) / 1e6;
    }
  });
  return out;
}

double squeeze_of(const Box& b) {
  return std::max(0.05, std::cos((b.y0 + b.y1) / 2 * kRadians));
}
double span_of(const Box& b) {
  return std::max((b.x1 - b.x0) * squeeze_of(b), b.y1 - b.y0);
}
double box_km2(const Box& b) {
  double wide = kKmOfDegree * (b.x1 - b.x0);
  double high = kKmOfDegree / kRadians * (std::sin(b.y1 * kRadians) - std::sin(b.y0 * kRadians));
  return std::max(1e-9, wide * high);
}

// Groups of parts with no gap wider than `gap` degrees between them: cells that hold a corner are
// joined with those near them.
class Gaps {
 public:
  Gaps(const std::vector<Part>& parts, const Box& all)
      : all_(all),
        side_(std::max({span_of(all) / 400, (all.x1 - all.x0) / 1500, 1e-6})),
        columns_(1 + static_cast<long>((all.x1 - all.x0) / side_)),
        rows_(1 + static_cast<long>((all.y1 - all.y0) / side_)),
        cell_(static_cast<size_t>(columns_) * static_cast<size_t>(rows_), -1) {
    for (const Part& part : parts) {
      long first = -1;
      for (const Point& c : part.corners) {
        size_t at = place(c);
        if (cell_[at] < 0) {
          cell_[at] = static_cast<int>(places_.size());
          places_.push_back(at);
          parent_.push_back(cell_[at]);
        }
        if (first < 0)
          first = cell_[at];
        else
          join(static_cast<int>(first), cell_[at]);
      }
      cell_of_part_.push_back(static_cast<int>(first));
    }
  }

  // The group of each part, as any number. Gaps are only ever asked for wider and wider.
  std::vector<int> groups(double gap) {
    // Near ones first: what they join is not looked at again.
    for (double near = 1.5 * side_; near < gap && !is_one_; near *= 2)
      widen(near);
    if (!is_one_) widen(gap);
    std::vector<int> out;
    out.reserve(cell_of_part_.size());
    for (int c : cell_of_part_)
      out.push_back(root(c));
    return out;
  }

 private:
  // Joins across gaps up to this one. Whatever is joined, one side of a gap is not in the largest
  // group, so it is looked for from there.
  void widen(double gap) {
    const int largest = largest_root();
    if (is_one_) return;
    const long up = static_cast<long>(gap / side_);
    for (size_t k = 0; k < places_.size(); ++k) {
      if (root(static_cast<int>(k)) == largest) continue;
      const long row = static_cast<long>(places_[k]) / columns_;
      const long column = static_cast<long>(places_[k]) % columns_;
      for (long r = std::max(0L, row - up); r <= std::min(rows_ - 1, row + up); ++r)
        join_along(static_cast<int>(k), r, column,
                   aside(gap, r - row, std::min(narrow(row), narrow(r))));
    }
  }

  // How many cells to either side lie within the gap, so many rows off.
  long aside(double gap, long rows, double narrow) const {
    const double high = side_ * static_cast<double>(rows);
    return static_cast<long>(std::sqrt(std::max(0.0, gap * gap - high * high)) / side_ / narrow);
  }
  void join_along(int k, long row, long column, long aside) {
    const int* cells = cell_.data() + row * columns_;
    const long last = std::min(columns_ - 1, column + aside);
    for (long c = std::max(0L, column - aside); c <= last; ++c)
      if (cells[c] >= 0) join(k, cells[c]);
  }
  double narrow(long row) const {
    return std::max(0.05, std::cos((all_.y0 + (double(row) + 0.5) * side_) * kRadians));
  }
  int largest_root() {
    std::vector<size_t> cells(parent_.size());
    for (size_t k = 0; k < parent_.size(); ++k)
      ++cells[static_cast<size_t>(root(static_cast<int>(k)))];
    const auto largest = std::max_element(cells.begin(), cells.end());
    is_one_ = *largest == cells.size();
    return static_cast<int>(largest - cells.begin());
  }
  size_t place(Point p) const {
    auto step = [&](double v, double from, long n) {
      return std::max(0L, std::min(n - 1, static_cast<long>((v - from) / side_)));
    };
    return static_cast<size_t>(step(p.y, all_.y0, rows_) * columns_ + step(p.x, all_.x0, columns_));
  }
  int root(int k) {
    while (parent_[static_cast<size_t>(k)] != k)
      k = parent_[static_cast<size_t>(k)] =
          parent_[static_cast<size_t>(parent_[static_cast<size_t>(k)])];
    return k;
  }
  void join(int a, int b) { parent_[static_cast<size_t>(root(a))] = root(b); }

  Box all_;
  double side_;
  long columns_, rows_;
  std::vector<int> cell_;
  std::vector<size_t> places_;
  std::vector<int> parent_, cell_of_part_;
  bool is_one_ = false;
};

struct Group {
  Box box;
  double land = 0;
  size_t parts = 0;
};

// One entry a root, in the order in which parts name them; `number` is the entry of each part.
std::vector<Group> sum_groups(const std::vector<Part>& parts, const std::vector<int>& root,
                              std::vector<size_t>& number) {
  std::vector<Group> out;
  std::vector<long> known;
  number.clear();
  for (size_t p = 0; p < parts.size(); ++p) {
    size_t at = static_cast<size_t>(root[p]);
    if (at >= known.size()) known.resize(at + 1, -1);
    if (known[at] < 0) {
      known[at] = static_cast<long>(out.size());
      out.emplace_back();
    }
    number.push_back(static_cast<size_t>(known[at]));
    Group& g = out[number.back()];
    g.box.add(parts[p].box);
    g.land += parts[p].land;
    ++g.parts;
  }
  return out;
}

bool inside(const Box& in, const Box& out) {
  return in.x0 >= out.x0 && in.x1 <= out.x1 && in.y0 >= out.y0 && in.y1 <= out.y1;
}

Box with_room(Box b) {
  double room = std::max(0.02, 0.02 * span_of(b));
  return {b.x0 - room, std::max(-90.0, b.y0 - room), b.x1 + room, std::min(90.0, b.y1 + room)};
}

// Groups that may be taken out: with little land, and alone in their box.
std::vector<bool> may_go(const std::vector<Part>& parts, const std::vector<Group>& groups,
                         const std::vector<size_t>& number, double land) {
  std::vector<bool> out;
  out.reserve(groups.size());
  for (const Group& g : groups)
    out.push_back(g.land <= kLittleLand * land);
  for (size_t k = 0; k < groups.size(); ++k) {
    if (!out[k]) continue;
    Box box = with_room(groups[k].box);
    for (size_t p = 0; p < parts.size() && out[k]; ++p)
      if (number[p] != k && inside(parts[p].box, box)) out[k] = false;
  }
  return out;
}

double to_degrees(double x, double west) {
  return std::remainder(x + west, 360);
}

}  // namespace

FarParts find_far_parts(const std::vector<FlatLayer>& layers) {
  FarParts out;
  ExtentFinder extent;
  for (const FlatLayer& layer : layers)
    for (size_t r = 0; r < layer.ring_end.size(); ++r)
      extent.add_run(layer.ring(r), layer.ring_size(r));
  if (extent.empty() || extent.east() - extent.west() > 350) return out;
  const double west = extent.west();
  std::vector<Part> parts = parts_from(layers, west);
  Box all;
  double land = 0;
  for (const Part& p : parts) {
    all.add(p.box);
    land += p.land;
  }
  if (parts.size() < 2 || !(land > 0) || all.x1 - all.x0 > 360) return out;
  out.share_all = out.share_main = land / box_km2(all);
  Gaps gaps(parts, all);
  std::vector<size_t> number;
  std::vector<Group> groups = sum_groups(parts, gaps.groups(0.03 * span_of(all)), number);
  const Group& largest = *std::max_element(
      groups.begin(), groups.end(), [](const Group& a, const Group& b) { return a.land < b.land; });
  double least = std::max(0.1 * span_of(largest.box), 0.01 * span_of(all));
  for (double gap = least; gap < span_of(all); gap *= 1.5) {
    groups = sum_groups(parts, gaps.groups(gap), number);
    std::vector<bool> far = may_go(parts, groups, number, land);
    size_t count = static_cast<size_t>(std::count(far.begin(), far.end(), true));
    if (count > kMostFar) continue;
    Box main;
    double left = 0;
    for (size_t k = 0; k < groups.size(); ++k) {
      if (far[k]) continue;
      main.add(groups[k].box);
      left += groups[k].land;
    }
    if (count == 0 || main.empty() || span_of(all) < kMuchWider * span_of(main)) return out;
    // What has much of the land is the map, as of a world.
    if (land - left > kLittleLand * land) return out;
    out.share_main = left / box_km2(main);
    for (size_t k = 0; k < groups.size(); ++k) {
      if (!far[k]) continue;
      Box b = with_room(groups[k].box);
      double x0 = to_degrees(b.x0, west);
      out.far.push_back({{x0, b.y0, x0 + (b.x1 - b.x0), b.y1},
                         groups[k].parts,
                         land > 0 ? groups[k].land / land : 0});
    }
    return out;
  }
  return out;
}

}  // namespace ochre
