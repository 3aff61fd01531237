#include "density.hpp"

#include <cmath>

#include "pulse.hpp"

namespace ochre {

namespace {

// The kernel over cells, made to sum to one whatever the cell's size. A stamp is (2 reach + 1)
// cells wide.
std::vector<double> kernel_stamp(double cell, double kernel, int reach) {
  const size_t side = 2 * static_cast<size_t>(reach) + 1;
  std::vector<double> stamp;
  stamp.reserve(side * side);
  double total = 0;
  for (int j = -reach; j <= reach; ++j)
    for (int i = -reach; i <= reach; ++i) {
      double far = std::hypot(i * cell, j * cell) / kernel;
      double v = far < 1 ? (1 - far * far) * (1 - far * far) : 0;
      stamp.push_back(v);
      total += v;
    }
  for (double& v : stamp)
    v /= total;
  return stamp;
}

}  // namespace

std::vector<double> density_surface(const std::vector<double>& x, const std::vector<double>& y,
                                    const std::vector<double>& weight, const Grid& grid,
                                    double kernel) {
  const int reach = static_cast<int>(std::ceil(kernel / grid.cell));
  // Counts on a grid that is wider by the kernel on every side.
  const long wide = static_cast<long>(grid.columns) + 2L * reach,
             high = static_cast<long>(grid.rows) + 2L * reach;
  std::vector<double> counts(static_cast<size_t>(wide) * high, 0);
  for (size_t k = 0; k < x.size(); ++k) {
    double i = std::floor((x[k] - grid.x0) / grid.cell) + reach,
           j = std::floor((y[k] - grid.y0) / grid.cell) + reach;
    if (i >= 0 && j >= 0 && i < wide && j < high)
      counts[static_cast<size_t>(j) * wide + static_cast<size_t>(i)] += weight[k];
  }
  const std::vector<double> stamp = kernel_stamp(grid.cell, kernel, reach);
  std::vector<double> out(grid.columns * grid.rows, 0);
  for (long j = 0; j < high; ++j)
    for (long i = 0; i < wide; ++i) {
      double amount = counts[j * wide + i];
      if (amount == 0) continue;
      pulse();
      // In the coordinates of the grid itself the cell is (i - reach, j - reach).
      for (int dj = -reach; dj <= reach; ++dj) {
        long row = j - reach + dj;
        if (row < 0 || row >= static_cast<long>(grid.rows)) continue;
        for (int di = -reach; di <= reach; ++di) {
          long column = i - reach + di;
          if (column < 0 || column >= static_cast<long>(grid.columns)) continue;
          out[row * grid.columns + column] +=
              amount * stamp[(dj + reach) * (2 * reach + 1) + di + reach];
        }
      }
    }
  for (double& v : out)
    v /= grid.cell * grid.cell;
  return out;
}

}  // namespace ochre
