#include "projection.hpp"

#include <algorithm>
#include <cmath>

#include "meridian.hpp"

namespace ochre {

namespace {
constexpr double kMercatorEnd = 85.051128779806604;  // where web maps stop, at a square world
constexpr double kTransverseEnd = 2.623395162778;  // 150 degrees of the conformal sphere's equator
constexpr double kPi = 3.14159265358979323846;
constexpr double kRad = kPi / 180.0;
// Coefficients of the Equal Earth polynomial (Šavrič et al. 2019, equation 2).
constexpr double kA1 = 1.340264, kA2 = -0.081106, kA3 = 0.000893, kA4 = 0.003796;
const double kM = std::sqrt(3.0) / 2.0;

// To ±180; the ends stay where they are, because maps are cut there.
double wrap(double lon) {
  if (std::fabs(lon) <= 180.0 + 1e-9) return std::max(-180.0, std::min(180.0, lon));
  lon = std::fmod(lon + 180.0, 360.0);
  return lon < 0 ? lon + 180.0 : lon - 180.0;
}
double clamp1(double v) {
  return std::max(-1.0, std::min(1.0, v));
}
}  // namespace

struct Name {
  ProjectionKind kind;
  const char* name;
};
const Name kNames[] = {{ProjectionKind::azimuthal, "azimuthal equal-area"},
                       {ProjectionKind::conic, "equal-area conic"},
                       {ProjectionKind::world, "world equal-area"},
                       {ProjectionKind::transverse, "transverse Mercator"},
                       {ProjectionKind::web_mercator, "web Mercator"},
                       {ProjectionKind::equirectangular, "equirectangular"}};

std::string projection_name(ProjectionKind kind) {
  for (const Name& n : kNames)
    if (n.kind == kind) return n.name;
  return "";
}

bool projection_kind(const std::string& name, ProjectionKind& kind) {
  for (const Name& n : kNames)
    if (n.name == name) {
      kind = n.kind;
      return true;
    }
  return false;
}

Projection::Projection(ProjectionKind kind, double lon0, double lat0, double lat1, double lat2,
                       double axis, double ecc2)
    : kind_(kind), lon0_(lon0), lat0_(lat0), lat1_(lat1), lat2_(lat2), axis_(axis), ecc2_(ecc2) {
  qp_ = q(1.0);
  rq_ = axis_ * std::sqrt(qp_ / 2);
  Authalic centre = authalic(lat0);
  sin_b1_ = centre.sin;
  cos_b1_ = centre.cos;
  double s = std::sin(lat0 * kRad), m1 = std::cos(lat0 * kRad) / std::sqrt(1 - ecc2_ * s * s);
  d_ = cos_b1_ > 1e-12 ? axis_ * m1 / (rq_ * cos_b1_) : 1.0;
  if (kind == ProjectionKind::conic) prepare_conic();
  if (kind == ProjectionKind::transverse) prepare_transverse();
}

// Snyder (14-12) to (14-15).
void Projection::prepare_conic() {
  double s1 = std::sin(lat1_ * kRad), s2 = std::sin(lat2_ * kRad);
  double m1 = std::cos(lat1_ * kRad) / std::sqrt(1 - ecc2_ * s1 * s1),
         m2 = std::cos(lat2_ * kRad) / std::sqrt(1 - ecc2_ * s2 * s2);
  double q1 = q(s1), q2 = q(s2);
  n_ = std::fabs(q2 - q1) > 1e-12 ? (m1 * m1 - m2 * m2) / (q2 - q1) : s1;
  c_ = m1 * m1 + n_ * q1;
  rho0_ = axis_ * std::sqrt(std::max(0.0, c_ - n_ * q(std::sin(lat0_ * kRad)))) / n_;
}

// Karney (2011), equations (14), (35) and (36), in the third flattening.
void Projection::prepare_transverse() {
  double f = 1 - std::sqrt(1 - ecc2_), n = f / (2 - f), n2 = n * n, n3 = n2 * n, n4 = n2 * n2,
         n5 = n4 * n, n6 = n3 * n3;
  radius_ = axis_ / (1 + n) * (1 + n2 / 4 + n4 / 64 + n6 / 256);
  const double to[] = {
      n / 2 - 2 * n2 / 3 + 5 * n3 / 16 + 41 * n4 / 180 - 127 * n5 / 288 + 7891 * n6 / 37800,
      13 * n2 / 48 - 3 * n3 / 5 + 557 * n4 / 1440 + 281 * n5 / 630 - 1983433 * n6 / 1935360,
      61 * n3 / 240 - 103 * n4 / 140 + 15061 * n5 / 26880 + 167603 * n6 / 181440,
      49561 * n4 / 161280 - 179 * n5 / 168 + 6601661 * n6 / 7257600,
      34729 * n5 / 80640 - 3418889 * n6 / 1995840,
      212378941 * n6 / 319334400};
  const double from[] = {
      n / 2 - 2 * n2 / 3 + 37 * n3 / 96 - n4 / 360 - 81 * n5 / 512 + 96199 * n6 / 604800,
      n2 / 48 + n3 / 15 - 437 * n4 / 1440 + 46 * n5 / 105 - 1118711 * n6 / 3870720,
      17 * n3 / 480 - 37 * n4 / 840 - 209 * n5 / 4480 + 5569 * n6 / 90720,
      4397 * n4 / 161280 - 11 * n5 / 504 - 830251 * n6 / 7257600,
      4583 * n5 / 161280 - 108847 * n6 / 3991680,
      20648693 * n6 / 638668800};
  std::copy(to, to + 6, to_);
  std::copy(from, from + 6, from_);
  y0_ = 0;
  y0_ = transverse(0, lat0_).y;
}

Point Projection::transverse(double dl, double lat) const {
  double e = std::sqrt(ecc2_), t = std::tan(lat * kRad),
         s = std::sinh(e * std::atanh(e * t / std::sqrt(1 + t * t)));
  double tc = t * std::sqrt(1 + s * s) - s * std::sqrt(1 + t * t),
         cl = std::cos(dl);  // conformal latitude
  // A quarter of the globe away from the middle meridian lies infinitely far off; the series holds
  // until its end.
  double eta =
      std::clamp(std::asinh(std::sin(dl) / std::hypot(tc, cl)), -kTransverseEnd, kTransverseEnd);
  double xi = std::atan2(tc, cl), x = eta, y = xi;
  for (int j = 1; j <= 6; ++j) {
    y += to_[j - 1] * std::sin(2 * j * xi) * std::cosh(2 * j * eta);
    x += to_[j - 1] * std::cos(2 * j * xi) * std::sinh(2 * j * eta);
  }
  return {radius_ * x, radius_ * y - y0_};
}

Point Projection::transverse_inverse(double x, double y) const {
  double xi = (y + y0_) / radius_, eta = x / radius_, a = xi, b = eta;
  for (int j = 1; j <= 6; ++j) {
    a -= from_[j - 1] * std::sin(2 * j * xi) * std::cosh(2 * j * eta);
    b -= from_[j - 1] * std::cos(2 * j * xi) * std::sinh(2 * j * eta);
  }
  double sb = std::sinh(b), ca = std::cos(a), tc = std::sin(a) / std::hypot(sb, ca),
         e = std::sqrt(ecc2_), t = tc;
  for (int i = 0; i < 8; ++i) {  // Newton for the tangent of the geographic latitude
    double s = std::sinh(e * std::atanh(e * t / std::sqrt(1 + t * t))),
           f = t * std::sqrt(1 + s * s) - s * std::sqrt(1 + t * t);
    double step = (tc - f) / std::sqrt(1 + f * f) * (1 + (1 - ecc2_) * t * t) /
                  ((1 - ecc2_) * std::sqrt(1 + t * t));
    t += step;
    if (std::fabs(step) < 1e-14 * std::max(1.0, std::fabs(t))) break;
  }
  return {std::atan2(sb, ca), std::atan(t) / kRad};
}

// Snyder (3-12); on a sphere it is 2 sin(lat).
double Projection::q(double s) const {
  if (ecc2_ < 1e-14) return 2 * s;
  // The inverse hyperbolic tangent is odd to the last bit, so that both poles are alike.
  double e = std::sqrt(ecc2_), es = e * s;
  return (1 - ecc2_) * (s / (1 - es * es) + std::atanh(es) / e);
}

// Near a pole the cosine comes from the distance to it, Snyder (3-14) in colatitude, because there
// the sine has no digits left for it.
Projection::Authalic Projection::authalic(double lat) const {
  if (std::fabs(lat) <= 89) {
    double s = clamp1(q(std::sin(lat * kRad)) / qp_);
    return {s, std::sqrt((1 - s) * (1 + s))};
  }
  double e2 = ecc2_, e4 = e2 * e2, e6 = e4 * e2, away = std::max(0.0, 90 - std::fabs(lat)) * kRad;
  double b = away + (e2 / 3 + 31 * e4 / 180 + 59 * e6 / 560) * std::sin(2 * away) +
             (17 * e4 / 360 + 61 * e6 / 1260) * std::sin(4 * away) +
             383 * e6 / 45360 * std::sin(6 * away);
  return {std::copysign(std::cos(b), lat), std::sin(b)};
}

// Geographic from authalic latitude, Snyder (3-18); the series is good to under a millimetre.
double Projection::latitude(double b) const {
  double e2 = ecc2_, e4 = e2 * e2, e6 = e4 * e2;
  return b + (e2 / 3 + 31 * e4 / 180 + 517 * e6 / 5040) * std::sin(2 * b) +
         (23 * e4 / 360 + 251 * e6 / 3780) * std::sin(4 * b) + (761 * e6 / 45360) * std::sin(6 * b);
}

Point Projection::forward(double lon, double lat) const {
  double dl = wrap(lon - lon0_) * kRad;
  switch (kind_) {
    case ProjectionKind::transverse:
      return transverse(dl, lat);
    case ProjectionKind::web_mercator: {
      double phi = std::clamp(lat, -kMercatorEnd, kMercatorEnd) * kRad;
      return {axis_ * dl, axis_ * std::asinh(std::tan(phi))};
    }
    case ProjectionKind::equirectangular:
      return {axis_ * dl * std::cos(lat1_ * kRad), axis_ * (lat - lat0_) * kRad};
    case ProjectionKind::conic: {  // Snyder (14-1) to (14-4)
      double rho = axis_ * std::sqrt(std::max(0.0, c_ - n_ * q(std::sin(lat * kRad)))) / n_;
      return {rho * std::sin(n_ * dl), rho0_ - rho * std::cos(n_ * dl)};
    }
    default:
      break;
  }
  if (kind_ == ProjectionKind::azimuthal) return azimuthal(dl, lat);
  double sin_b = clamp1(q(std::sin(lat * kRad)) / qp_);
  double t = std::asin(kM * sin_b), t2 = t * t, t6 = t2 * t2 * t2;
  double slope = kA1 + 3 * kA2 * t2 + t6 * (7 * kA3 + 9 * kA4 * t2);
  return {rq_ * dl * std::cos(t) / (kM * slope),
          rq_ * t * (kA1 + kA2 * t2 + t6 * (kA3 + kA4 * t2))};
}

// Snyder (24-2), (24-13) and (24-14). The far side is drawn along its way from the centre; the
// place opposite of the centre is the whole rim, of which it takes the point below (around a
// pole, that on its meridian).
Point Projection::azimuthal(double dl, double lat) const {
  Authalic b = authalic(lat);
  double cos_dl = std::cos(dl), x = b.cos * std::sin(dl),
         y = cos_b1_ * b.sin - sin_b1_ * b.cos * cos_dl;
  double along = sin_b1_ * b.sin + cos_b1_ * b.cos * cos_dl;
  if (along > -0.999) {
    double k = std::sqrt(2 / (1 + along));
    return {rq_ * d_ * k * x, rq_ / d_ * k * y};
  }
  double h = std::hypot(x, y), k = 2 * std::sin(std::atan2(h, along) / 2);
  if (h < 1e-15) {
    bool polar = cos_b1_ < 1e-12;
    x = polar ? std::sin(dl) : 0;
    y = polar ? -sin_b1_ * cos_dl : -1;
    h = 1;
  }
  return {rq_ * d_ * k * x / h, rq_ / d_ * k * y / h};
}

double Projection::rim() const {
  return 2 * rq_;
}

Point Projection::inverse(double x, double y) const {
  double dl = 0, b = 0;
  switch (kind_) {
    case ProjectionKind::transverse: {
      Point p = transverse_inverse(x, y);
      return {wrap(lon0_ + p.x / kRad), p.y};
    }
    case ProjectionKind::web_mercator:
      return {wrap(lon0_ + x / axis_ / kRad), std::atan(std::sinh(y / axis_)) / kRad};
    case ProjectionKind::equirectangular:
      return {wrap(lon0_ + x / (axis_ * std::cos(lat1_ * kRad)) / kRad), lat0_ + y / axis_ / kRad};
    case ProjectionKind::conic: {  // Snyder (14-8) to (14-11), with the authalic latitude
      double sign = n_ < 0 ? -1 : 1, rho = sign * std::hypot(x, rho0_ - y);
      dl = std::atan2(sign * x, sign * (rho0_ - y)) / n_;
      b = std::asin(clamp1((c_ - rho * rho * n_ * n_ / (axis_ * axis_)) / n_ / qp_));
      break;
    }
    case ProjectionKind::azimuthal: {
      double px = x / d_, py = d_ * y, rho = std::hypot(px, py);
      if (rho < 1e-9) return {lon0_, lat0_};
      double c = 2 * std::asin(clamp1(rho / (2 * rq_))), sin_c = std::sin(c), cos_c = std::cos(c);
      b = std::asin(clamp1(cos_c * sin_b1_ + py * sin_c * cos_b1_ / rho));
      dl = std::atan2(px * sin_c, rho * cos_b1_ * cos_c - py * sin_b1_ * sin_c);
      break;
    }
    case ProjectionKind::world: {
      double t = y / rq_;
      for (int i = 0; i < 12; ++i) {  // Newton; the polynomial is strictly increasing
        double t2 = t * t, t6 = t2 * t2 * t2;
        double f = t * (kA1 + kA2 * t2 + t6 * (kA3 + kA4 * t2)) - y / rq_;
        double slope = kA1 + 3 * kA2 * t2 + t6 * (7 * kA3 + 9 * kA4 * t2);
        t -= f / slope;
        if (std::fabs(f) < 1e-13) break;
      }
      double t2 = t * t, t6 = t2 * t2 * t2;
      double slope = kA1 + 3 * kA2 * t2 + t6 * (7 * kA3 + 9 * kA4 * t2);
      dl = x / rq_ * kM * slope / std::cos(t);
      b = std::asin(clamp1(std::sin(t) / kM));
      break;
    }
  }
  return {wrap(lon0_ + dl / kRad), latitude(b) / kRad};
}

void ExtentFinder::add(double lon, double lat) {
  if (!std::isfinite(lon) || !std::isfinite(lat)) return;
  south_ = std::min(south_, lat);
  north_ = std::max(north_, lat);
  ++n_;
  if (at_pole({lon, lat})) return;  // which has no longitude
  lon = wrap(lon);
  int at = std::min(kBins - 1, static_cast<int>((lon + 180.0) / 360.0 * kBins));
  Bin& bin = bins_[at];
  bin.low = std::min(bin.low, lon);
  bin.high = std::max(bin.high, lon);
  any_longitude_ = true;
}

// A ring covers of a meridian what lies between its crossings: the sum of their sines of latitude,
// with a sign for the direction.
void ExtentFinder::add_cuts(const Point* p, size_t n) {
  const double bin = 360.0 / kBins;
  std::vector<std::pair<int, double>> crossings;
  for (size_t i = 0; i + 1 < n; ++i) {
    if (!std::isfinite(p[i].x + p[i].y + p[i + 1].x + p[i + 1].y)) return;
    if (along_pole(p[i], p[i + 1])) continue;
    double dx = step_east(p[i], p[i + 1]), from = (p[i].x + 180) / bin, to = from + dx / bin;
    // Meridians from the lower end on, without the upper end.
    double low = std::ceil(std::min(from, to)), high = std::ceil(std::max(from, to));
    for (double k = low; k < high; ++k) {
      double share = (k - from) / (to - from);
      double sine = std::sin((p[i].y + share * (p[i + 1].y - p[i].y)) * kRad);
      int at = static_cast<int>(std::fmod(std::fmod(k, kBins) + kBins, kBins));
      crossings.emplace_back(at, dx > 0 ? sine : -sine);
    }
  }
  std::sort(crossings.begin(), crossings.end());
  for (size_t i = 0; i < crossings.size();) {
    double sum = 0;
    size_t j = i;
    for (; j < crossings.size() && crossings[j].first == crossings[i].first; ++j)
      sum += crossings[j].second;
    // An odd number of crossings is that of land around a pole, which every meridian cuts.
    if ((j - i) % 2 == 0) cuts_[static_cast<size_t>(crossings[i].first)] += std::fabs(sum);
    i = j;
  }
}

double ExtentFinder::least_cut() const {
  double least = *std::min_element(cuts_.begin(), cuts_.end()), best = 360;
  for (int k = 0; k < kBins; ++k) {
    double middle = wrap(k * 360.0 / kBins);  // the edge is opposite, at that less 180
    if (cuts_[static_cast<size_t>(k)] <= least + 1e-9 && std::fabs(middle) < std::fabs(best))
      best = middle;
  }
  return best;
}

void ExtentFinder::add_run(const Point* p, size_t n) {
  if (n > 3 && p[0].x == p[n - 1].x && p[0].y == p[n - 1].y) add_cuts(p, n);
  const double bin = 360.0 / kBins;
  for (size_t i = 0; i < n; ++i) {
    add(p[i].x, p[i].y);
    if (i + 1 == n) break;
    if (along_pole(p[i], p[i + 1])) continue;
    double dx = step_east(p[i], p[i + 1]), dy = p[i + 1].y - p[i].y;
    if (!(std::fabs(dx) > bin)) continue;
    int pieces = static_cast<int>(std::ceil(std::fabs(dx) / bin));
    for (int k = 1; k < pieces; ++k)
      add(p[i].x + dx * k / pieces, p[i].y + dy * k / pieces);
  }
}

// The widest run of longitudes without data; what is left is the extent, even across 180°.
void ExtentFinder::gap(int& first, int& last) const {
  int best = 0, run = 0, best_end = -1;
  for (int i = 0; i < 2 * kBins; ++i) {
    if (bins_[i % kBins].low > 360) {
      if (++run > best && run <= kBins) {
        best = run;
        best_end = i;
      }
    } else {
      run = 0;
    }
  }
  if (best == 0) {
    first = 0;
    last = kBins - 1;
    return;
  }
  first = (best_end + 1) % kBins;
  last = ((best_end - best) % kBins + kBins) % kBins;
}

double ExtentFinder::west() const {
  if (!any_longitude_) return 0;
  int first, last;
  gap(first, last);
  return bins_[first].low;
}

double ExtentFinder::east() const {
  if (!any_longitude_) return 0;
  int first, last;
  gap(first, last);
  double e = bins_[last].high;
  return e < west() ? e + 360 : e;
}

// A country, a polar cap or a ring across 180°: azimuthal. A strip from west to east: conic. A
// narrow strip from south to north: transverse Mercator, whose areas are true to half a percent
// there. Most of the world: the world projection.
Projection ExtentFinder::fit() const {
  if (empty()) return Projection(ProjectionKind::azimuthal, 0, 0);
  double span = east() - west(), height = north_ - south_, middle = (south_ + north_) / 2;
  double width = span * std::cos(middle * kRad);
  bool polar = south_ > 45 || north_ < -45;
  if (!polar && ((span > 150 && height > 60) || span > 200 || height > 140))
    return fit(ProjectionKind::world);
  if (polar && span > 120) return fit(ProjectionKind::azimuthal);
  bool one_side = south_ > 15 || north_ < -15;
  if (one_side && std::fabs(middle) < 70 && span > 12 && width > 1.8 * height)
    return fit(ProjectionKind::conic);
  if (width < 8 && height > 6 && height > 2.2 * width &&
      std::max(std::fabs(south_), std::fabs(north_)) < 80)
    return fit(ProjectionKind::transverse);
  return fit(ProjectionKind::azimuthal);
}

Projection ExtentFinder::fit(ProjectionKind kind) const {
  if (empty()) return Projection(kind, 0, 0, 30, 60);
  double w = west(), e = east(), middle = (south_ + north_) / 2, lon0 = wrap((w + e) / 2);
  switch (kind) {
    case ProjectionKind::web_mercator:
      return Projection(kind, e > 180 ? lon0 : 0, 0);
    case ProjectionKind::world:
      return Projection(kind, e - w > 300 ? least_cut() : lon0, 0);
    case ProjectionKind::equirectangular:
      return Projection(kind, e - w > 300 ? least_cut() : lon0, middle, middle);
    case ProjectionKind::conic: {
      // Standard parallels a sixth of the height from its ends.
      double room = (north_ - south_) / 6, lat1 = south_ + room, lat2 = north_ - room;
      if (std::fabs(lat1 + lat2) < 1)
        lat2 += lat2 < 0 ? -1 : 1;  // around the equator a cone is none
      return Projection(kind, lon0, middle, lat1, lat2);
    }
    case ProjectionKind::azimuthal:
      if (e - w > 150 && south_ > 0) return Projection(kind, e - w > 300 ? 0 : lon0, 90);
      if (e - w > 150 && north_ < 0) return Projection(kind, e - w > 300 ? 0 : lon0, -90);
      return Projection(kind, lon0, middle);
    default:
      return Projection(kind, lon0, middle);
  }
}

}  // namespace ochre
