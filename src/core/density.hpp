// A density surface from points: how much lies around each cell of a grid, per unit of area. The
// kernel is quartic,
//   K(d) = 3 / (pi h^2) (1 - d^2 / h^2)^2 within the radius h, zero outside of it
// (Silverman, B.W. 1986, Density Estimation for Statistics and Data Analysis, section 4.2.1), so
// that the surface over the whole plane holds exactly the weights. Points are first counted into
// cells, which are small beside the kernel; the work is then bounded by the grid and the kernel,
// however many points there are.
#pragma once
#include <cstddef>
#include <vector>

namespace ochre {

struct Grid {
  double x0 = 0, y0 = 0;  // lower left corner
  double cell = 1;        // side of a cell
  size_t columns = 0, rows = 0;
};

// A value for each cell, row by row from below. Points outside of the grid by less than the kernel
// count too.
std::vector<double> density_surface(const std::vector<double>& x, const std::vector<double>& y,
                                    const std::vector<double>& weight, const Grid& grid,
                                    double kernel);

}  // namespace ochre
