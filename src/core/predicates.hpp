// On which side of a line does a point lie? The sign is exact: where rounding could decide, the
// sum of products is done again without any (Shewchuk, J.R. 1997, Adaptive precision floating-
// point arithmetic and fast robust geometric predicates, Discrete & Computational Geometry 18).
#pragma once
#include <cmath>

#include "point.hpp"

namespace ochre {

namespace predicates {

// Adds one number to an expansion, a sum of numbers that do not overlap.
inline int grow(double* e, int n, double b) {
  int m = 0;
  for (int i = 0; i < n; ++i) {
    double s = e[i] + b, t = s - e[i], low = (e[i] - (s - t)) + (b - t);
    if (low != 0) e[m++] = low;
    b = s;
  }
  if (b != 0 || m == 0) e[m++] = b;
  return m;
}

inline int exact_side(Point a, Point b, Point c) {
  const double f[6] = {a.x, -a.x, -c.x, -a.y, a.y, c.y}, g[6] = {b.y, c.y, b.y, b.x, c.x, b.x};
  double e[14];
  int n = 0;
  for (int i = 0; i < 6; ++i) {
    double high = f[i] * g[i], low = std::fma(f[i], g[i], -high);
    n = grow(e, n, low);
    n = grow(e, n, high);
  }
  double top = e[n - 1];
  return top > 0 ? 1 : top < 0 ? -1 : 0;
}

}  // namespace predicates

// 1 when c lies to the left of the line from a to b, -1 to the right, 0 on it.
inline int side_of(Point a, Point b, Point c) {
  double l = (a.x - c.x) * (b.y - c.y), r = (a.y - c.y) * (b.x - c.x), d = l - r;
  double bound = 3.4e-16 * (std::fabs(l) + std::fabs(r));
  if (d > bound) return 1;
  if (-d > bound) return -1;
  if (l == 0 && r == 0 && (a == c || b == c)) return 0;
  return predicates::exact_side(a, b, c);
}

inline bool in_span(double v, double a, double b) {
  return a < b ? v >= a && v <= b : v >= b && v <= a;
}
inline bool on_segment(Point a, Point b, Point p) {
  return side_of(a, b, p) == 0 && in_span(p.x, a.x, b.x) && in_span(p.y, a.y, b.y);
}

// How two segments meet.
enum class Meeting {
  none,    // not at all
  ends,    // only at ends that they share
  touch,   // an end of one lies inside the other
  cross,   // inside of both
  overlap  // along a stretch
};

inline Meeting meeting(Point a, Point b, Point c, Point d) {
  bool ac = a == c, ad = a == d, bc = b == c, bd = b == d;
  if ((ac && bd) || (ad && bc)) return Meeting::overlap;
  if (ac || ad || bc || bd) {
    Point v = ac || ad ? a : b, p = ac || ad ? b : a, q = ac || bc ? d : c;
    bool along = side_of(v, p, q) == 0 && (p.x - v.x) * (q.x - v.x) + (p.y - v.y) * (q.y - v.y) > 0;
    return along ? Meeting::overlap : Meeting::ends;
  }
  int c1 = side_of(a, b, c), d1 = side_of(a, b, d), a2 = side_of(c, d, a), b2 = side_of(c, d, b);
  if (c1 * d1 < 0 && a2 * b2 < 0) return Meeting::cross;
  if (c1 == 0 && d1 == 0) {
    bool x = std::fabs(b.x - a.x) >= std::fabs(b.y - a.y);
    double a0 = x ? a.x : a.y, b0 = x ? b.x : b.y, c0 = x ? c.x : c.y, d0 = x ? d.x : d.y;
    double low = std::fmax(std::fmin(a0, b0), std::fmin(c0, d0)),
           high = std::fmin(std::fmax(a0, b0), std::fmax(c0, d0));
    return low < high ? Meeting::overlap : Meeting::none;
  }
  if (on_segment(a, b, c) || on_segment(a, b, d) || on_segment(c, d, a) || on_segment(c, d, b))
    return Meeting::touch;
  return Meeting::none;
}

}  // namespace ochre
