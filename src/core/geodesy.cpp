#include "geodesy.hpp"

#include <algorithm>
#include <cmath>

#include "meridian.hpp"
#include "rings.hpp"

namespace ochre {

namespace {
constexpr double kPi = 3.14159265358979323846;
constexpr double kRad = kPi / 180;

// Vincenty's series, from the squared second eccentricity times cos² of the geodesic's azimuth at
// the equator.
struct Series {
  double a, b;
  explicit Series(double u2)
      : a(1 + u2 / 16384 * (4096 + u2 * (-768 + u2 * (320 - 175 * u2)))),
        b(u2 / 1024 * (256 + u2 * (-128 + u2 * (74 - 47 * u2)))) {}
  double shift(double sin_s, double cos_s, double cos_2m) const {
    double c2 = cos_2m * cos_2m;
    return b * sin_s *
           (cos_2m +
            b / 4 *
                (cos_s * (2 * c2 - 1) - b / 6 * cos_2m * (4 * sin_s * sin_s - 3) * (4 * c2 - 3)));
  }
};
double longitude_term(double f, double cos2_a) {
  return f / 16 * cos2_a * (4 + f * (4 - 3 * cos2_a));
}

struct Reduced {
  double s, c;
};
Reduced reduced(double lat, double f) {
  double t = (1 - f) * std::tan(lat * kRad), c = 1 / std::sqrt(1 + t * t);
  return {std::fabs(lat) >= 90 ? std::copysign(1.0, lat) : t * c, std::fabs(lat) >= 90 ? 0 : c};
}

double wrap_radians(double a) {
  return std::remainder(a, 2 * kPi);
}

// Almost opposite points. A geodesic that leaves with azimuth a1 first meets the other latitude
// after this longitude; the longitude grows with the azimuth, so bisection finds it.
Geodesic almost_opposite(Reduced u1, Reduced u2, double l, const Ellipsoid& e) {
  double f = e.flattening, b = e.axis * (1 - f), ep2 = (e.axis * e.axis - b * b) / (b * b);
  bool mirrored = l < 0;
  l = std::fabs(l);
  bool swapped = std::fabs(u1.s) < std::fabs(u2.s);
  if (swapped) std::swap(u1, u2);
  bool flipped = u1.s > 0;
  if (flipped) {
    u1.s = -u1.s;
    u2.s = -u2.s;
  }
  if (u1.s == 0) u1.s = -0.0;  // along the equator: the start lies just south of it
  auto shoot = [&](double a1, double& metres, double& a2) {
    double sin_a = std::sin(a1) * u1.c, cos2 = 1 - sin_a * sin_a;
    double c2 = u2.c > 0 ? std::sqrt(std::max(
                               0.0, std::pow(std::cos(a1) * u1.c, 2) + (u2.c * u2.c - u1.c * u1.c)))
                         : 0;
    a2 = std::atan2(sin_a, c2);
    double s1 = std::atan2(u1.s, std::cos(a1) * u1.c), s2 = std::atan2(u2.s, c2), s = s2 - s1;
    double w1 = std::atan2(sin_a * u1.s, std::cos(a1) * u1.c), w2 = std::atan2(sin_a * u2.s, c2),
           w = w2 - w1;
    if (w < -1e-12) w += 2 * kPi;
    double cos_2m = std::cos(s1 + s2), c = longitude_term(f, cos2);
    Series t(cos2 * ep2);
    metres = b * t.a * (s - t.shift(std::sin(s), std::cos(s), cos_2m));
    return w - (1 - c) * f * sin_a *
                   (s + c * std::sin(s) * (cos_2m + c * std::cos(s) * (2 * cos_2m * cos_2m - 1)));
  };
  double low = 0, high = kPi, metres = 0, a2 = 0;
  for (int i = 0; i < 80; ++i) {
    double middle = (low + high) / 2;
    (shoot(middle, metres, a2) < l ? low : high) = middle;
  }
  double a1 = (low + high) / 2;
  shoot(a1, metres, a2);
  if (swapped) std::swap(a1, a2);
  if (swapped != flipped) a1 = kPi - a1;
  return {metres, (mirrored ? -a1 : a1) / kRad};
}
}  // namespace

Vector3 on_sphere(double lon, double lat) {
  double c = std::cos(lat * kRad);
  return {c * std::cos(lon * kRad), c * std::sin(lon * kRad), std::sin(lat * kRad)};
}

Geodesic geodesic(Point from, Point to, const Ellipsoid& e) {
  double f = e.flattening, b = e.axis * (1 - f), ep2 = (e.axis * e.axis - b * b) / (b * b);
  Reduced u1 = reduced(from.y, f), u2 = reduced(to.y, f);
  double l = wrap_radians((to.x - from.x) * kRad), lambda = l;
  for (int i = 0; i < 100; ++i) {
    double sl = std::sin(lambda), cl = std::cos(lambda);
    double p = u2.c * sl, q = u1.c * u2.s - u1.s * u2.c * cl, sin_s = std::hypot(p, q),
           cos_s = u1.s * u2.s + u1.c * u2.c * cl;
    if (sin_s < 1e-15 && cos_s > 0) return {0, 0};
    double s = std::atan2(sin_s, cos_s), sin_a = sin_s > 0 ? u1.c * u2.c * sl / sin_s : 0,
           cos2 = 1 - sin_a * sin_a;
    double cos_2m = cos2 > 1e-15 ? cos_s - 2 * u1.s * u2.s / cos2 : 0, c = longitude_term(f, cos2);
    double next = l + (1 - c) * f * sin_a *
                          (s + c * sin_s * (cos_2m + c * cos_s * (2 * cos_2m * cos_2m - 1)));
    bool settled = std::fabs(next - lambda) < 1e-13;
    lambda = next;
    if (std::fabs(lambda) > kPi) break;
    if (settled) {
      Series t(cos2 * ep2);
      return {
          b * t.a * (s - t.shift(sin_s, cos_s, cos_2m)),
          std::atan2(u2.c * std::sin(lambda), u1.c * u2.s - u1.s * u2.c * std::cos(lambda)) / kRad};
    }
  }
  return almost_opposite(u1, u2, l, e);
}

Point geodesic_end(Point from, double azimuth, double metres, const Ellipsoid& e) {
  double f = e.flattening, b = e.axis * (1 - f), ep2 = (e.axis * e.axis - b * b) / (b * b);
  Reduced u = reduced(from.y, f);
  double sa = std::sin(azimuth * kRad), ca = std::cos(azimuth * kRad),
         s1 = std::atan2(u.s, u.c * ca);
  double sin_a = u.c * sa, cos2 = 1 - sin_a * sin_a;
  Series t(cos2 * ep2);
  double s = metres / (b * t.a), cos_2m = 0;
  for (int i = 0; i < 100; ++i) {
    cos_2m = std::cos(2 * s1 + s);
    double next = metres / (b * t.a) + t.shift(std::sin(s), std::cos(s), cos_2m);
    bool settled = std::fabs(next - s) < 1e-14;
    s = next;
    if (settled) break;
  }
  cos_2m = std::cos(2 * s1 + s);
  double ss = std::sin(s), cs = std::cos(s), x = u.s * ss - u.c * cs * ca;
  double lat = std::atan2(u.s * cs + u.c * ss * ca, (1 - f) * std::hypot(sin_a, x));
  double lambda = std::atan2(ss * sa, u.c * cs - u.s * ss * ca), c = longitude_term(f, cos2);
  double l =
      lambda - (1 - c) * f * sin_a * (s + c * ss * (cos_2m + c * cs * (2 * cos_2m * cos_2m - 1)));
  return {std::remainder(from.x + l / kRad, 360), lat / kRad};
}

double run_length_m(const Point* p, size_t n) {
  double sum = 0;
  for (size_t i = 1; i < n; ++i)
    sum += geodesic(p[i - 1], p[i]).metres;
  return sum;
}

namespace {

// Snyder (3-12): half the squared axis times this is the area of a strip of one radian from the
// equator to a latitude. The inverse hyperbolic tangent is summed; its argument is at most the
// eccentricity.
class StripHeight {
 public:
  explicit StripHeight(const Ellipsoid& e)
      : e2_(e.flattening * (2 - e.flattening)), e_(std::sqrt(e2_)) {}

  double operator()(double lat) const {
    double s = std::sin(lat * kRad), z = e_ * s, z2 = z * z;
    if (z2 > 0.02) return (1 - e2_) * (s / (1 - z2) + (e_ > 0 ? std::atanh(z) / e_ : s));
    double series = 1. / 15;
    for (int k = 13; k >= 3; k -= 2)
      series = 1. / k + z2 * series;
    return (1 - e2_) * s * (1 / (1 - z2) + 1 + z2 * series);
  }

  // The mean along a straight edge, by Gauss-Legendre quadrature: long edges in pieces of at most
  // two degrees of latitude, short ones with fewer nodes.
  double mean(double y0, double dy) const {
    if (std::fabs(dy) < 1e-3) return (*this)(y0 + dy / 2);
    double half = dy / 2, middle = y0 + half;
    if (std::fabs(dy) < 0.05) {
      double off = half * 0.5773502691896258;
      return ((*this)(middle - off) + (*this)(middle + off)) / 2;
    }
    int pieces = static_cast<int>(std::ceil(std::fabs(dy) / 2));
    double sum = 0;
    for (int k = 0; k < pieces; ++k) {
      half = dy / pieces / 2;
      middle = y0 + (2 * k + 1) * half;
      double near = half * 0.5384693101056831, far = half * 0.9061798459386640;
      sum += 0.5688888888888889 * (*this)(middle) +
             0.4786286704993665 * ((*this)(middle - near) + (*this)(middle + near)) +
             0.2369268850561891 * ((*this)(middle - far) + (*this)(middle + far));
    }
    return sum / 2 / pieces;
  }

 private:
  double e2_, e_;
};

// Signed areas of nested rings as land, hole, land: each by how many lie around it.
double nested_area(const std::vector<std::vector<Point>>& rings) {
  RingSet set;
  for (const auto& ring : rings) {
    set.points.insert(set.points.end(), ring.begin(), ring.end());
    set.end.push_back(set.points.size());
  }
  std::vector<bool> shell = shells_by_nesting(set);
  double sum = 0;
  for (size_t r = 0; r < rings.size(); ++r) {
    double area = std::fabs(strip_m2(rings[r].data(), rings[r].size()));
    sum += shell[r] ? area : -area;
  }
  return std::max(0.0, sum);
}

}  // namespace

double strip_m2(const Point* p, size_t n, const Ellipsoid& e) {
  StripHeight q(e);
  double sum = 0;
  for (size_t i = 0; i + 1 < n; ++i) {
    double dl = p[i + 1].x - p[i].x;
    if (dl != 0) sum -= dl * kRad * q.mean(p[i].y, p[i + 1].y - p[i].y);
  }
  return e.axis * e.axis / 2 * sum;
}

double ring_area_m2(const Point* p, size_t n, const Ellipsoid& e) {
  std::vector<Point> ring = unroll_run(p, n, true);
  double sum = strip_m2(ring.data(), ring.size(), e);
  if (std::fabs(turn_of(ring)) < 180) return sum;
  double cap = e.axis * e.axis * kPi * StripHeight(e)(90);
  return sum < 0 ? sum + cap : sum - cap;
}

double part_area_m2(const FlatLayer& layer, size_t part) {
  std::vector<std::vector<Point>> rings = unroll_part(layer, part);
  if (rings.empty()) return 0;
  std::vector<double> area;
  area.reserve(rings.size());
  for (const auto& ring : rings)
    area.push_back(std::fabs(strip_m2(ring.data(), ring.size())));
  double sum = area[0];
  for (size_t r = 1; r < area.size(); ++r)
    sum -= area[r];
  return sum >= 0 ? sum : nested_area(rings);
}

}  // namespace ochre
