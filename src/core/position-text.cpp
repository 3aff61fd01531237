#include "position-text.hpp"

#include "numbers.hpp"

namespace ochre {

bool read_positions(const char* text, size_t size, std::vector<Point>& out) {
  std::string padded(text, size);
  padded.append(16, '\0');
  const char* p = padded.c_str();
  const char* end = p + size;
  auto space = [](char c) {
    return c == ' ' || c == '\n' || c == '\t' || c == '\r';
  };
  auto number = [&](double& v) {
    if (*p == '+') ++p;
    while (*p == '0' && p[1] >= '0' && p[1] <= '9')
      ++p;
    return read_number(p, v);
  };
  while (p < end) {
    if (space(*p)) {
      ++p;
      continue;
    }
    Point q;
    if (!number(q.x) || *p != ',') return false;
    ++p;
    while (space(*p))
      ++p;  // some programs write a blank behind the comma
    if (!number(q.y)) return false;
    while (p < end && !space(*p))
      ++p;  // a height
    out.push_back(q);
  }
  return true;
}

}  // namespace ochre
