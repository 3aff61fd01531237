#include "projection.hpp"

#include <algorithm>
#include <cmath>

namespace ochre {

namespace {
constexpr double kPi = 3.14159265358979323846;
constexpr double kRad = kPi / 180.0;
// Coefficients of the Equal Earth polynomial (Šavrič et al. 2019, equation 2).
constexpr double kA1 = 1.340264, kA2 = -0.081106, kA3 = 0.000893, kA4 = 0.003796;
const double kM = std::sqrt(3.0) / 2.0;

double wrap(double lon) {
  lon = std::fmod(lon + 180.0, 360.0);
  return lon < 0 ? lon + 180.0 : lon - 180.0;
}
double clamp1(double v) { return std::max(-1.0, std::min(1.0, v)); }
}  // namespace

Projection::Projection(ProjectionKind kind, double lon0, double lat0, double axis, double ecc2)
    : kind_(kind), lon0_(lon0), lat0_(lat0), axis_(axis), ecc2_(ecc2) {
  qp_ = q(1.0);
  rq_ = axis_ * std::sqrt(qp_ / 2);
  double s = std::sin(lat0 * kRad), c = std::cos(lat0 * kRad);
  sin_b1_ = clamp1(q(s) / qp_);
  cos_b1_ = std::sqrt(1 - sin_b1_ * sin_b1_);
  double m1 = c / std::sqrt(1 - ecc2_ * s * s);
  d_ = cos_b1_ > 1e-12 ? axis_ * m1 / (rq_ * cos_b1_) : 1.0;
}

std::string Projection::name() const {
  return kind_ == ProjectionKind::azimuthal ? "Lambert azimuthal equal-area" : "Equal Earth";
}

// Snyder (3-12); on a sphere it is 2 sin(lat).
double Projection::q(double s) const {
  if (ecc2_ < 1e-14) return 2 * s;
  double e = std::sqrt(ecc2_), es = e * s;
  return (1 - ecc2_) * (s / (1 - es * es) - std::log((1 - es) / (1 + es)) / (2 * e));
}

// Geographic from authalic latitude, Snyder (3-18); the series is good to under a millimetre.
double Projection::latitude(double b) const {
  double e2 = ecc2_, e4 = e2 * e2, e6 = e4 * e2;
  return b + (e2 / 3 + 31 * e4 / 180 + 517 * e6 / 5040) * std::sin(2 * b) +
         (23 * e4 / 360 + 251 * e6 / 3780) * std::sin(4 * b) + (761 * e6 / 45360) * std::sin(6 * b);
}

Point Projection::forward(double lon, double lat) const {
  double dl = wrap(lon - lon0_) * kRad;
  double sin_b = clamp1(q(std::sin(lat * kRad)) / qp_);
  if (kind_ == ProjectionKind::azimuthal) {
    double cos_b = std::sqrt(1 - sin_b * sin_b);
    double along = sin_b1_ * sin_b + cos_b1_ * cos_b * std::cos(dl);
    double k = std::sqrt(2 / std::max(1 + along, 1e-12));
    return {rq_ * d_ * k * cos_b * std::sin(dl),
            rq_ / d_ * k * (cos_b1_ * sin_b - sin_b1_ * cos_b * std::cos(dl))};
  }
  double t = std::asin(kM * sin_b), t2 = t * t, t6 = t2 * t2 * t2;
  double slope = kA1 + 3 * kA2 * t2 + t6 * (7 * kA3 + 9 * kA4 * t2);
  return {rq_ * dl * std::cos(t) / (kM * slope), rq_ * t * (kA1 + kA2 * t2 + t6 * (kA3 + kA4 * t2))};
}

Point Projection::inverse(double x, double y) const {
  double dl, b;
  if (kind_ == ProjectionKind::azimuthal) {
    double px = x / d_, py = d_ * y, rho = std::hypot(px, py);
    if (rho < 1e-9) return {lon0_, lat0_};
    double c = 2 * std::asin(clamp1(rho / (2 * rq_))), sin_c = std::sin(c), cos_c = std::cos(c);
    b = std::asin(clamp1(cos_c * sin_b1_ + py * sin_c * cos_b1_ / rho));
    dl = std::atan2(px * sin_c, rho * cos_b1_ * cos_c - py * sin_b1_ * sin_c);
  } else {
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
  }
  return {wrap(lon0_ + dl / kRad), latitude(b) / kRad};
}

void ExtentFinder::add(double lon, double lat) {
  if (!std::isfinite(lon) || !std::isfinite(lat)) return;
  lon = wrap(lon);
  int at = std::min(kBins - 1, static_cast<int>((lon + 180.0) / 360.0 * kBins));
  Bin& bin = bins_[at];
  bin.low = std::min(bin.low, lon);
  bin.high = std::max(bin.high, lon);
  south_ = std::min(south_, lat);
  north_ = std::max(north_, lat);
  ++n_;
}

// The widest run of longitudes without data; what is left is the extent, even across 180°.
void ExtentFinder::gap(int& first, int& last) const {
  int best = 0, run = 0, best_end = -1;
  for (int i = 0; i < 2 * kBins; ++i) {
    if (bins_[i % kBins].low > 360) {
      if (++run > best && run <= kBins) { best = run; best_end = i; }
    } else {
      run = 0;
    }
  }
  if (best == 0) { first = 0; last = kBins - 1; return; }
  first = (best_end + 1) % kBins;
  last = ((best_end - best) % kBins + kBins) % kBins;
}

double ExtentFinder::west() const {
  int first, last;
  gap(first, last);
  return bins_[first].low;
}

double ExtentFinder::east() const {
  int first, last;
  gap(first, last);
  double e = bins_[last].high;
  return e < west() ? e + 360 : e;
}

Projection ExtentFinder::fit() const {
  if (empty()) return Projection(ProjectionKind::azimuthal, 0, 0);
  double w = west(), e = east();
  bool world = (e - w > 150 && north_ - south_ > 60) || e - w > 200 || north_ - south_ > 140;
  if (world) return Projection(ProjectionKind::equal_earth, e - w > 300 ? 0 : wrap((w + e) / 2), 0);
  return Projection(ProjectionKind::azimuthal, wrap((w + e) / 2), (south_ + north_) / 2);
}

}  // namespace ochre
