#include "cover.hpp"

#include <algorithm>
#include <cmath>

#include "cut.hpp"
#include "edge-span.hpp"
#include "locate.hpp"
#include "pulse.hpp"

namespace ochre {

namespace {
// The cells of the first level, and a few marks more, have numbers of 16 bits.
constexpr int64_t kFewSide = 64, kManySide = 252, kMostSide = 1 << 15;
constexpr double kMany = 4e6, kManyCells = 4e5;
// Much more than what an engine's arithmetic can be off.
constexpr double kMargin = 1e-6;

struct Grid {
  double x0, y0, per_x, per_y;
  int64_t side;
};

// A little less, as twelve binary digits: so is it times a power of two.
double few_bits(double number) {
  int power;
  const double part = std::frexp(number, &power);
  return std::ldexp(std::floor(std::ldexp(part, 12)), power - 12);
}

// The cells that an edge touches, row by row.
void mark_edge(const Grid& grid, Point a, Point b, std::vector<int64_t>& out) {
  a = {(a.x - grid.x0) * grid.per_x, (a.y - grid.y0) * grid.per_y};
  b = {(b.x - grid.x0) * grid.per_x, (b.y - grid.y0) * grid.per_y};
  const auto place = [&](double at) {
    return std::clamp<int64_t>(static_cast<int64_t>(std::floor(at)), 0, grid.side - 1);
  };
  const double west = std::min(a.x, b.x) - 1, east = std::max(a.x, b.x) + 1;
  const int64_t last = place(std::max(a.y, b.y) + kMargin);
  for (int64_t row = place(std::min(a.y, b.y) - kMargin); row <= last; ++row) {
    const double y = static_cast<double>(row);
    const Box band{west, y - kMargin, east, y + 1 + kMargin};
    double from, to;
    if (!edge_span(band, a, b, from, to)) continue;
    const double p = a.x + from * (b.x - a.x), q = a.x + to * (b.x - a.x);
    // Twice the margin: the piece itself is reckoned with an error.
    const int64_t end = place(std::max(p, q) + 2 * kMargin);
    for (int64_t column = place(std::min(p, q) - 2 * kMargin); column <= end; ++column)
      out.push_back(column + grid.side * row);
  }
}

std::vector<int64_t> border_cells(const FlatLayer& layer, const Grid& grid) {
  std::vector<int64_t> cells;
  size_t sorted = 0;
  auto settle = [&] {
    std::sort(cells.begin(), cells.end());
    cells.erase(std::unique(cells.begin(), cells.end()), cells.end());
    sorted = cells.size();
  };
  for (size_t p = 0; p < layer.part_end.size(); ++p) {
    pulse();
    if (layer.part_shape[p] != Shape::polygon) continue;
    for (size_t r = layer.first_ring(p); r < layer.part_end[p]; ++r)
      for (size_t i = 0; i + 1 < layer.ring_size(r); ++i)
        mark_edge(grid, layer.ring(r)[i], layer.ring(r)[i + 1], cells);
    // Many edges of one cell are one mark.
    if (cells.size() > 2 * sorted + (1 << 20)) settle();
  }
  settle();
  return cells;
}

// The cells of a level: all, or those within border cells of the level before.
std::vector<int64_t> cells_of(const Grid& grid, const Cover::Level* before) {
  std::vector<int64_t> out;
  if (!before) {
    for (int64_t cell = 0; cell < grid.side * grid.side; ++cell)
      out.push_back(cell);
    return out;
  }
  for (size_t i = 0; i < before->cell.size(); ++i) {
    if (before->area[i] != Cover::kBorder) continue;
    const int64_t column = before->cell[i] % before->side * Cover::kSplit;
    const int64_t row = before->cell[i] / before->side * Cover::kSplit;
    for (int64_t y = row; y < row + Cover::kSplit; ++y)
      for (int64_t x = column; x < column + Cover::kSplit; ++x)
        out.push_back(x + grid.side * y);
  }
  std::sort(out.begin(), out.end());
  return out;
}

// Cells that no border touches are where their middles are.
Cover::Level settle_level(const FlatLayer& layer, const AreaLocator& locator, const Grid& grid,
                          const Cover::Level* before) {
  Cover::Level level{grid.side, grid.per_x, grid.per_y, cells_of(grid, before), {}};
  const std::vector<int64_t> border = border_cells(layer, grid);
  std::vector<double> x(level.cell.size(), NAN), y(level.cell.size(), NAN);
  level.area.resize(level.cell.size());
  for (size_t i = 0, b = 0; i < level.cell.size(); ++i) {
    while (b < border.size() && border[b] < level.cell[i])
      ++b;
    if (b < border.size() && border[b] == level.cell[i]) continue;
    const int64_t column = level.cell[i] % grid.side, row = level.cell[i] / grid.side;
    x[i] = grid.x0 + (static_cast<double>(column) + 0.5) / grid.per_x;
    y[i] = grid.y0 + (static_cast<double>(row) + 0.5) / grid.per_y;
  }
  locator.find_all(x.data(), y.data(), x.size(), level.area.data());
  for (size_t i = 0; i < x.size(); ++i)
    if (std::isnan(x[i])) level.area[i] = Cover::kBorder;
  return level;
}
}  // namespace

Cover cover_areas(const FlatLayer& in, double points) {
  Cover cover;
  const FlatLayer layer = cut_layer(in, 180);
  Box box;
  for (const Point& p : layer.points)
    box.add(p.x, p.y);
  const int64_t first = points < kMany ? kFewSide : kManySide;
  // Without borders any box does: no place is within an area.
  if (box.empty()) box.add(0, 0);
  // Borders stay within the grid, also where the layer has no extent.
  const double more_x = std::max(box.x1 - box.x0, 1e-6) / 1000;
  const double more_y = std::max(box.y1 - box.y0, 1e-6) / 1000;
  cover.box = {box.x0 - more_x, box.y0 - more_y, box.x1 + more_x, box.y1 + more_y};
  if (points < static_cast<double>(first * first)) return cover;
  const AreaLocator locator(layer);
  Grid grid{cover.box.x0, cover.box.y0, 0, 0, first};
  grid.per_x = few_bits(static_cast<double>(first) / (cover.box.x1 - cover.box.x0));
  grid.per_y = few_bits(static_cast<double>(first) / (cover.box.y1 - cover.box.y0));
  cover.box.x1 = cover.box.x0 + static_cast<double>(first) / grid.per_x;
  cover.box.y1 = cover.box.y0 + static_cast<double>(first) / grid.per_y;
  for (;;) {
    const Cover::Level* before = cover.levels.empty() ? nullptr : &cover.levels.back();
    cover.levels.push_back(settle_level(layer, locator, grid, before));
    const Cover::Level& level = cover.levels.back();
    const auto borders =
        static_cast<double>(std::count(level.area.begin(), level.area.end(), Cover::kBorder));
    // Of a border cell's parts about three quarters are settled.
    const auto all = static_cast<double>(grid.side) * static_cast<double>(grid.side);
    const double settles = 0.75 * borders / all * points;
    const double makes = borders * Cover::kSplit * Cover::kSplit;
    // Points are more than elsewhere where borders are: in towns.
    if (settles < makes && makes > std::min(4 * points, kManyCells)) break;
    if (grid.side * Cover::kSplit > kMostSide) break;
    grid.side *= Cover::kSplit;
    grid.per_x *= Cover::kSplit;
    grid.per_y *= Cover::kSplit;
  }
  return cover;
}

}  // namespace ochre
