// Writing coordinates: a number is rounded to a whole multiple of 10^-digits, and the digits of
// that integer are put down two at a time with the point between; trailing zeros are left out.
// Without a number of digits it is the shortest text that reads back as the same double.
#pragma once
#include <cmath>
#include <cstdint>
#include <cstring>
#include <string>
#include <vector>

#include "numbers.hpp"

namespace ochre {

class DecimalText {
 public:
  // `digits` from 0 to 15, or negative for the shortest text.
  explicit DecimalText(int digits) : digits_(digits) {
    for (int i = 0; i < digits; ++i)
      unit_ *= 10;
  }
  double unit() const { return unit_; }

  // Writes at `to`, which has room for kRoom bytes; returns the end.
  static constexpr size_t kRoom = 40;
  char* put(char* to, double v) const {
    double scaled = v * unit_;
    if (digits_ < 0 || !(std::fabs(scaled) < 9e15)) {
      if (!std::isfinite(v)) {
        std::memcpy(to, "null", 4);
        return to + 4;
      }
      return numbers::put_shortest(to, kRoom, v);
    }
    int64_t n = std::llround(scaled);
    if (n < 0) {
      *to++ = '-';
      n = -n;
    }
    return put_digits(to, static_cast<uint64_t>(n));
  }

  static char* put_integer(char* to, uint64_t n) {
    char buffer[20];
    char* at = buffer + 20;
    while (n >= 100) {
      at -= 2;
      std::memcpy(at, pairs() + 2 * (n % 100), 2);
      n /= 100;
    }
    if (n >= 10) {
      at -= 2;
      std::memcpy(at, pairs() + 2 * n, 2);
    } else
      *--at = static_cast<char>('0' + n);
    size_t size = buffer + 20 - at;
    std::memcpy(to, at, size);
    return to + size;
  }

 private:
  static const char* pairs() {
    static const std::vector<char> table = [] {
      std::vector<char> t;
      for (int i = 0; i < 100; ++i) {
        t.push_back(static_cast<char>('0' + i / 10));
        t.push_back(static_cast<char>('0' + i % 10));
      }
      return t;
    }();
    return table.data();
  }
  char* put_digits(char* to, uint64_t n) const {
    int places = digits_;
    while (places > 0 && n % 10 == 0) {
      n /= 10;
      --places;
    }
    if (places == 0) return put_integer(to, n);
    char buffer[24];
    char* end = put_integer(buffer, n);
    int size = static_cast<int>(end - buffer);
    if (size <= places) {
      *to++ = '0';
      *to++ = '.';
      for (int i = size; i < places; ++i)
        *to++ = '0';
      std::memcpy(to, buffer, size);
      return to + size;
    }
    std::memcpy(to, buffer, size - places);
    to += size - places;
    *to++ = '.';
    std::memcpy(to, end - places, places);
    return to + places;
  }
  int digits_;
  double unit_ = 1;
};

}  // namespace ochre
