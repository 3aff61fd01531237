// Reading decimal numbers as coordinates have them: a few digits, a point, a few digits. Up to
// eight digits are taken from one machine word. A number whose digits fit in 2^53 and whose power
// of ten is exact is one multiplication or division away from the nearest double (Clinger, W.D.
// 1990, How to read floating point numbers accurately, PLDI '90, 92-101); all others go to the
// standard library, which rounds correctly too. The text must go on for eight bytes after its end.
// Writing them: the shortest text that reads back as the same number.
#pragma once
#include <charconv>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <string>

namespace ochre {

namespace numbers {

inline constexpr double kPowers[] = {1e0,  1e1,  1e2,  1e3,  1e4,  1e5,  1e6,  1e7,
                                     1e8,  1e9,  1e10, 1e11, 1e12, 1e13, 1e14, 1e15,
                                     1e16, 1e17, 1e18, 1e19, 1e20, 1e21, 1e22};
inline constexpr uint64_t kWhole[] = {1,      10,      100,      1000,     10000,
                                      100000, 1000000, 10000000, 100000000};

// How many of the eight bytes, from the first on, are digits.
inline int digit_run(uint64_t word) {
  uint64_t off = word ^ 0x3030303030303030ull;
  uint64_t bad =
      ((off + 0x7676767676767676ull) | off) & 0x8080808080808080ull;  // high bit where not 0-9
  return bad ? __builtin_ctzll(bad) >> 3 : 8;
}
// The value of eight digits, the first in the lowest byte.
inline uint64_t eight_digits(uint64_t word) {
  word = (word & 0x0f0f0f0f0f0f0f0full) * 2561 >> 8;
  word = (word & 0x00ff00ff00ff00ffull) * 6553601 >> 16;
  return (word & 0x0000ffff0000ffffull) * 42949672960001ull >> 32;
}

// Appends the digits at `p` to `value`; says how many there were.
inline int take_digits(const char*& p, uint64_t& value) {
#if defined(__BYTE_ORDER__) && __BYTE_ORDER__ == __ORDER_LITTLE_ENDIAN__
  int all = 0, n;
  do {
    uint64_t word;
    std::memcpy(&word, p, 8);
    n = digit_run(word);
    if (n == 0) break;
    value = value * kWhole[n] + eight_digits(n == 8 ? word : word << (8 * (8 - n)));
    p += n;
    all += n;
  } while (n == 8);
  return all;
#else
  int all = 0;
  for (; *p >= '0' && *p <= '9'; ++p, ++all)
    value = value * 10 + (*p - '0');
  return all;
#endif
}

inline double by_library(const char* from, const char* to) {
#if defined(__cpp_lib_to_chars) && __cpp_lib_to_chars >= 201611L
  double v = 0;
  auto r = std::from_chars(from, to, v);
  if (r.ec == std::errc()) return v;
#endif
  return std::strtod(std::string(from, to).c_str(), nullptr);
}

// The shortest text that reads back as the same number, by trial; returns the end.
inline char* put_by_trial(char* to, size_t room, double v) {
  int size = 0;
  for (int digits = 15; digits <= 17; ++digits) {
    size = std::snprintf(to, room, "%.*g", digits, v);
    if (by_library(to, to + size) == v) break;
  }
  return to + size;
}

// The same by the library, where it can; `room` is at least 32.
inline char* put_shortest(char* to, size_t room, double v) {
#if defined(__cpp_lib_to_chars) && __cpp_lib_to_chars >= 201611L
  return std::to_chars(to, to + room, v).ptr;
#else
  return put_by_trial(to, room, v);
#endif
}

}  // namespace numbers

// A number as JSON writes it, at `p`, which is moved behind it; false when there is none.
inline bool read_number(const char*& p, double& out) {
  const char* start = p;
  bool minus = *p == '-';
  p += minus;
  uint64_t digits = 0;
  const char* first = p;
  int whole = numbers::take_digits(p, digits);
  if (whole == 0 || (whole > 1 && *first == '0')) return false;
  int exponent = 0, all = whole;
  if (*p == '.') {
    ++p;
    int part = numbers::take_digits(p, digits);
    if (part == 0) return false;
    exponent = -part;
    all += part;
  }
  if (*p == 'e' || *p == 'E') {
    ++p;
    bool down = *p == '-';
    if (down || *p == '+') ++p;
    uint64_t power = 0;
    int n = numbers::take_digits(p, power);
    if (n == 0) return false;
    if (n > 6) power = 999999;
    exponent += down ? -static_cast<int>(power) : static_cast<int>(power);
  }
  if (all <= 19 && digits <= (1ull << 53) && exponent >= -22 && exponent <= 22) {
    double v = static_cast<double>(digits);
    v = exponent < 0 ? v / numbers::kPowers[-exponent] : v * numbers::kPowers[exponent];
    out = minus ? -v : v;
  } else {
    out = numbers::by_library(start, p);
  }
  return true;
}

// Whether a text is nothing but a number with a point, without a power of ten. `code` where its
// digits are rather a name: after a zero, or more than a double keeps. The text must go on for
// eight bytes after its end.
struct PlainNumber {
  bool plain = false, code = false;
  double value = 0;
};
inline PlainNumber plain_number(const char* text, size_t size) {
  PlainNumber out;
  const char *p = text, *end = text + size;
  const bool plus = size && *p == '+';
  p += plus;
  if (plus && *p == '-') return out;
  const char* first = p + (*p == '-');
  uint64_t digits = 0;
  const char* at = first;
  const int whole = numbers::take_digits(at, digits);
  if (!whole) return out;
  out.code = first == text && at == end && (whole > 15 || (whole > 1 && *first == '0'));
  // Leading zeros are no JSON, but numbers all the same: all are passed by but the last.
  const bool minus = first > p;
  while (*first == '0' && first[1] >= '0' && first[1] <= '9')
    ++first;
  p = first;
  const bool power = std::memchr(at, 'e', end - at) || std::memchr(at, 'E', end - at);
  out.plain = !power && read_number(p, out.value) && p == end;
  if (minus) out.value = -out.value;
  return out;
}

}  // namespace ochre
