#include "wkb.hpp"

#include <algorithm>

namespace ochre {

namespace {

// A cursor over one geometry's bytes.
class Bytes {
 public:
  Bytes(const uint8_t* data, size_t size) : at_(data), end_(data + size) {}
  void need(size_t n) const {
    if (static_cast<size_t>(end_ - at_) < n) throw WkbError("well-known binary ends too early");
  }
  bool order() {
    need(1);
    if (*at_ > 1)
      throw WkbError("well-known binary begins with a byte order that is neither 0 nor 1");
    return *at_++ != WkbWriter::little_endian();
  }
  uint32_t word(bool swap) { return take<uint32_t>(swap); }
  double real(bool swap) { return take<double>(swap); }
  size_t left() const { return end_ - at_; }
  const uint8_t* at() const { return at_; }
  void skip(size_t n) {
    need(n);
    at_ += n;
  }

 private:
  template <class T>
  T take(bool swap) {
    need(sizeof(T));
    uint8_t b[sizeof(T)];
    std::memcpy(b, at_, sizeof(T));
    if (swap) std::reverse(b, b + sizeof(T));
    at_ += sizeof(T);
    T v;
    std::memcpy(&v, b, sizeof(T));
    return v;
  }
  const uint8_t* at_;
  const uint8_t* end_;
};

struct Head {
  Shape shape;
  bool swap, z, m;
  uint32_t system;
};

Head read_head(Bytes& in) {
  Head h{};
  h.swap = in.order();
  uint32_t code = in.word(h.swap);
  h.z = code & 0x80000000u;
  h.m = code & 0x40000000u;
  if (code & 0x20000000u) h.system = in.word(h.swap);
  code &= 0x1fffffffu;
  uint32_t kind = code % 1000, dims = code / 1000;
  h.z |= dims == 1 || dims == 3;
  h.m |= dims == 2 || dims == 3;
  if (kind < 1 || kind > 7 || dims > 3)
    throw WkbError("unknown geometry type in well-known binary");
  h.shape = static_cast<Shape>(kind);
  return h;
}

void copy_run(Bytes& in, const Head& h, uint64_t n, WkbWriter& out) {
  if (in.left() / (16 + 8 * (h.z + h.m)) < n) throw WkbError("well-known binary ends too early");
  for (uint64_t i = 0; i < n; ++i) {
    double p[4];
    for (int k = 0; k < 2 + h.z + h.m; ++k)
      p[k] = in.real(h.swap);
    out.coordinates(p, 2 + h.z);
  }
}

void copy(Bytes& in, WkbWriter& out, int depth) {
  if (depth > 32) throw WkbError("geometry collections are nested too deep");
  Head h = read_head(in);
  out.header(h.shape, h.z);
  if (h.shape == Shape::point) return copy_run(in, h, 1, out);
  uint32_t n = in.word(h.swap);
  out.count(n);
  if (h.shape == Shape::line) return copy_run(in, h, n, out);
  for (uint32_t i = 0; i < n; ++i) {
    if (h.shape != Shape::polygon) {
      copy(in, out, depth + 1);
      continue;
    }
    uint32_t m = in.word(h.swap);
    out.count(m);
    copy_run(in, h, m, out);
  }
}

// OGC 12-128r18, 2.1.3: "GP", a version, flags, a system, an envelope.
size_t geopackage_header(const uint8_t* data, size_t size) {
  if (size < 8 || data[0] != 'G' || data[1] != 'P') return 0;
  static const size_t envelope[] = {0, 32, 48, 48, 64, 0, 0, 0};
  if ((data[3] >> 1 & 7) > 4)
    throw WkbError("the GeoPackage header names an envelope that does not exist");
  size_t n = 8 + envelope[data[3] >> 1 & 7];
  if (n > size) throw WkbError("the GeoPackage header ends too early");
  return n;
}

// A point without a place is written as two that are no numbers.
void check_numbers(Bytes& in, const Head& h, uint64_t n) {
  const size_t step = 16 + 8 * (h.z + h.m);
  if (in.left() / step < n) throw WkbError("well-known binary ends too early");
  for (uint64_t i = 0; i < n; ++i) {
    double x = in.real(h.swap), y = in.real(h.swap);
    in.skip(step - 16);
    if (std::isfinite(x) && std::isfinite(y)) continue;
    if (h.shape == Shape::point && std::isnan(x) && std::isnan(y)) continue;
    throw WkbError("a position is no number");
  }
}

// Whether all of it is written as plain_wkb() writes.
bool check_plain(Bytes& in, int depth) {
  if (depth > 32) throw WkbError("geometry collections are nested too deep");
  const uint8_t* from = in.at();
  Head h = read_head(in);
  bool plain =
      !h.swap && !h.m && in.at() - from == 5 && !(from[WkbWriter::little_endian() ? 4 : 1] & 0x80);
  if (h.shape == Shape::point) {
    check_numbers(in, h, 1);
    return plain;
  }
  uint32_t n = in.word(h.swap);
  if (h.shape == Shape::line) {
    check_numbers(in, h, n);
    return plain;
  }
  for (uint32_t i = 0; i < n; ++i) {
    if (h.shape == Shape::polygon)
      check_numbers(in, h, in.word(h.swap));
    else if (!check_plain(in, depth + 1))
      plain = false;
  }
  return plain;
}

}  // namespace

bool is_plain_wkb(const uint8_t* data, size_t size) {
  size_t skip = geopackage_header(data, size);
  Bytes in(data + skip, size - skip);
  return check_plain(in, 0) && !skip && !in.left();
}

void plain_wkb(const uint8_t* data, size_t size, WkbWriter& out) {
  out.clear();
  size_t skip = geopackage_header(data, size);
  Bytes in(data + skip, size - skip);
  copy(in, out, 0);
}

Shape wkb_shape(const uint8_t* data, size_t size) {
  if (!size) return Shape(0);
  Bytes in(data, size);
  return read_head(in).shape;
}

bool wkb_has_height(const uint8_t* data, size_t size) {
  Bytes in(data, size);
  Head h = read_head(in);
  return h.z || h.m;
}

uint32_t wkb_system(const uint8_t* data, size_t size) {
  Bytes in(data, size);
  return read_head(in).system;
}

}  // namespace ochre
