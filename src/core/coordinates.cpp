#include "coordinates.hpp"

#include <algorithm>

#include "numbers.hpp"

namespace ochre {

void Coordinates::clear() {
  ring_end.clear();
  part_end.clear();
  dims = 0;
  depth = -1;
  count_ = 0;
}

void Coordinates::add(const double* p, int n) {
  if (dims == 0)
    dims = n;
  else if (n < dims)
    drop_height();
  make_room(dims * (count_ + 1));
  std::copy(p, p + dims, xyz.begin() + dims * count_);
  ++count_;
}

void Coordinates::add_run(const double* xy, size_t n, size_t skip, bool back) {
  dims = 2;
  make_room(2 * (count_ + n - skip));
  double* to = xyz.data() + 2 * count_;
  if (!back) std::copy(xy + 2 * skip, xy + 2 * n, to);
  for (size_t k = skip; back && k < n; ++k) {
    *to++ = xy[2 * (n - 1 - k)];
    *to++ = xy[2 * (n - 1 - k) + 1];
  }
  count_ += n - skip;
}

void Coordinates::drop_height() {
  for (size_t i = 0; i < count_; ++i) {
    xyz[2 * i] = xyz[3 * i];
    xyz[2 * i + 1] = xyz[3 * i + 1];
  }
  dims = 2;
}

void Coordinates::read(JsonText& text, Boundaries& into) {
  clear();
  if (text.peek() != '[')
    text.fail("\"coordinates\" is not an array", "see RFC 7946, section 3.1.1");
  depth = level(text, into, 0);
  into.positions += count_;
}

// The numbers of one position behind its opening bracket; numbers past the third are passed over.
int Coordinates::position(JsonText& text, double* p) {
  const char* at = text.at();
  int n = 0;
  for (;;) {
    double v;
    while (*at == ' ' || *at == '\n' || *at == '\r' || *at == '\t')
      ++at;
    if (*at == '[') {
      text.move(at);
      text.fail(n ? "a coordinate is not a number" : "\"coordinates\" are nested unevenly",
                n ? "a position is [longitude, latitude], without quotes or inner lists"
                  : "see RFC 7946, section 3.1");
    }
    if (!read_number(at, v)) {
      text.move(at);
      if (text.done()) text.unexpected();
      bool digit = *at >= '0' && *at <= '9';
      text.fail(digit ? "a number is not valid JSON" : "a coordinate is not a number",
                digit ? "numbers have a point, no thousands mark and no leading zero"
                      : "a position is [longitude, latitude], without quotes or inner lists");
    }
    if (n < 3) p[n] = v;
    ++n;
    while (*at == ' ' || *at == '\n' || *at == '\r' || *at == '\t')
      ++at;
    if (*at == ',') {
      ++at;
      continue;
    }
    break;
  }
  text.move(at);
  if (!text.take(']')) text.unexpected();
  if (n < 2)
    text.fail("a position has fewer than two numbers", "a position is [longitude, latitude]");
  return std::min(n, 3);
}

// Nearly all text is "[number,number],[number,number],…": that is read in one tight loop, and the
// careful way is taken where anything else comes.
void Coordinates::list_of_positions(JsonText& text, Boundaries& into) {
  size_t first = count_;
  double p[3] = {0, 0, 0};
  do {
    if (dims != 3) quick_positions(text);
    if (!text.take('['))
      text.fail("a list of positions holds a bare number", "a position is [longitude, latitude]");
    add(p, position(text, p));
  } while (text.take(','));
  if (!text.take(']')) text.unexpected();
  end_ring();
  see(first, into);
}

// Leaves the cursor before the last position of the run, or before one that is written otherwise.
void Coordinates::quick_positions(JsonText& text) {
  const char* at = text.at();
  for (;;) {
    const char* now = at;
    if (*now == ' ' || *now == '\n') ++now;
    if (*now != '[') break;
    make_room(2 * count_ + 2);
    double* to = xyz.data() + 2 * count_;
    ++now;
    if (!read_number(now, to[0]) || *now != ',') break;
    ++now;
    if (*now == ' ') ++now;
    if (!read_number(now, to[1]) || now[0] != ']' || now[1] != ',') break;
    at = now + 2;
    ++count_;
    dims = 2;
  }
  text.move(at);
}

void Coordinates::see(size_t first, Boundaries& into) const {
  double west = 1e300, south = 1e300, east = -1e300, north = -1e300;
  for (size_t i = first; i < count_; ++i) {
    double x = xyz[dims * i], y = xyz[dims * i + 1];
    west = std::min(west, x);
    east = std::max(east, x);
    south = std::min(south, y);
    north = std::max(north, y);
  }
  into.west = std::min(into.west, west);
  into.east = std::max(into.east, east);
  into.south = std::min(into.south, south);
  into.north = std::max(into.north, north);
  if (west >= -180 && east <= 180 && south >= -90 && north <= 90) return;
  for (size_t i = first; i < count_; ++i)
    into.beyond_degrees += std::fabs(xyz[dims * i]) > 180 || std::fabs(xyz[dims * i + 1]) > 90;
}

// How deep positions lie below the array at the cursor: 0 when it is a position itself, -1 when
// it holds nothing but empty arrays.
int Coordinates::level(JsonText& text, Boundaries& into, int above) {
  if (above > 3)
    text.fail("\"coordinates\" are nested deeper than any geometry", "see RFC 7946, section 3.1");
  text.take('[');
  if (text.take(']')) return -1;
  if (text.peek() != '[') {
    double p[3] = {0, 0, 0};
    add(p, position(text, p));
    into.see(p[0], p[1]);
    return 0;
  }
  // "[[" and then a number is a list of positions, by far the most common array.
  const char* here = text.at();
  text.take('[');
  char inner = text.peek();
  text.move(here);
  if (inner == '-' || (inner >= '0' && inner <= '9')) {
    list_of_positions(text, into);
    return 1;
  }
  int found = -1;
  do {
    if (text.peek() != '[')
      text.fail("\"coordinates\" are nested unevenly", "see RFC 7946, section 3.1");
    int below = level(text, into, above + 1);
    if (below >= 0 && found >= 0 && below != found)
      text.fail("\"coordinates\" are nested unevenly", "see RFC 7946, section 3.1");
    found = std::max(found, below);
  } while (text.take(','));
  if (!text.take(']')) text.unexpected();
  if (found == 1) end_part();
  return found < 0 ? -1 : found + 1;
}

void Coordinates::write_run(size_t from, size_t to, WkbWriter& out) const {
  out.count(to - from);
  out.coordinates(xyz.data() + from * dims, (to - from) * dims);
}

void Coordinates::write_rings(size_t from, size_t to, WkbWriter& out) const {
  out.count(to - from);
  for (size_t r = from; r < to; ++r)
    write_run(r ? ring_end[r - 1] : 0, ring_end[r], out);
}

void Coordinates::write(Shape shape, WkbWriter& out) const {
  bool z = dims == 3;
  out.header(shape, z);
  switch (shape) {
    case Shape::point:
      if (count_)
        out.coordinates(xyz.data(), dims);
      else {
        double nan[2] = {NAN, NAN};
        out.coordinates(nan, 2);
      }
      break;
    case Shape::line:
      write_run(0, count_, out);
      break;
    case Shape::polygon:
      write_rings(0, ring_end.size(), out);
      break;
    case Shape::multipoint:
      out.count(count_);
      for (size_t i = 0; i < count_; ++i) {
        out.header(Shape::point, z);
        out.coordinates(xyz.data() + i * dims, dims);
      }
      break;
    case Shape::multiline:
      out.count(ring_end.size());
      for (size_t r = 0; r < ring_end.size(); ++r) {
        out.header(Shape::line, z);
        write_run(r ? ring_end[r - 1] : 0, ring_end[r], out);
      }
      break;
    default:
      out.count(part_end.size());
      for (size_t p = 0; p < part_end.size(); ++p) {
        out.header(Shape::polygon, z);
        write_rings(p ? part_end[p - 1] : 0, part_end[p], out);
      }
  }
}

}  // namespace ochre
