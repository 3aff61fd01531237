// How every number is read that is classed, value and break alike: at fifteen significant digits,
// so that the noise of a sum (0.1 + 0.2 and 0.3) makes no class, and a value that equals a break is
// on the same side of it wherever it is classed. From 1e15 to 2^53 a double counts single units,
// and is read as it stands. The result is the double nearest to a decimal, so reading it again
// changes nothing, and the order of numbers stays.
#pragma once
#include <cmath>
#include <cstdio>
#include <cstdlib>

#include "numbers.hpp"

namespace ochre {

inline double fifteen_digits(double x) {
  constexpr double kCounted = 9007199254740992.0;  // 2^53
  const double size = std::fabs(x);
  if (!std::isfinite(x) || x == 0 || (size >= 1e15 && size < kCounted)) return x;
  if (size < 1e15 && x == std::trunc(x)) return x;
  // The digits as a whole number between 1e14 and 1e15, where both steps are exact but for one
  // rounding that is nowhere near a half.
  const int power = 14 - static_cast<int>(std::floor(std::log10(size)));
  if (power >= 0 && power <= 22 && size < 1e15) {
    const long double scaled = static_cast<long double>(size) * numbers::kPowers[power];
    const long double whole = std::floor(scaled);
    const long double rest = scaled - whole;
    if (scaled >= 1e14L && scaled < 1e15L - 1 && std::fabs(rest - 0.5L) > 1e-2L) {
      const double near = static_cast<double>(rest > 0.5L ? whole + 1 : whole);
      return std::copysign(near / numbers::kPowers[power], x);
    }
  }
  char text[32];
  std::snprintf(text, sizeof text, "%.14e", x);
  const double near = std::strtod(text, nullptr);
  if (size >= kCounted && std::fabs(near) < kCounted) return std::copysign(kCounted, x);
  return near;
}

}  // namespace ochre
