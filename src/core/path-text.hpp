// Runs of points in whole units as paths of SVG: where a run begins, then its steps. Points that
// stay where they are, and runs that come to a single point, are left out: they draw nothing.
#pragma once
#include <charconv>
#include <cstddef>
#include <string>

namespace ochre {

class PathText {
 public:
  explicit PathText(bool closed) : closed_(closed) {}

  void add(const int* x, const int* y, size_t size) {
    const size_t start = text_.size();
    size_t points = 1;
    move('M', x[0], y[0]);
    for (size_t i = 1; i < size; ++i) {
      if (x[i] == x[i - 1] && y[i] == y[i - 1]) continue;
      move('l', x[i] - x[i - 1], y[i] - y[i - 1]);
      ++points;
    }
    if (points == 1)
      text_.resize(start);
    else if (closed_)
      text_ += 'z';
  }
  const std::string& text() const { return text_; }

 private:
  void move(char how, int x, int y) {
    text_ += how;
    put(x);
    if (y >= 0) text_ += ' ';
    put(y);
  }
  void put(int v) {
    char digits[12];
    text_.append(digits, std::to_chars(digits, digits + sizeof digits, v).ptr);
  }

  bool closed_;
  std::string text_;
};

}  // namespace ochre
