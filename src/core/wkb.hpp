// Well-known binary, written and walked. ISO 13249-3 / OGC 06-103r4: byte order, type code
// (thousands digit: 1 Z, 2 M, 3 ZM; the older high-bit flags are understood too), counts,
// coordinates. The walker is a template over its handler, so that projecting or measuring a
// boundary is one pass over its bytes without an intermediate tree.
#pragma once
#include <cmath>
#include <cstdint>
#include <cstring>
#include <limits>
#include <stdexcept>
#include <vector>

namespace ochre {

enum class Shape : uint32_t {
  point = 1,
  line = 2,
  polygon = 3,
  multipoint = 4,
  multiline = 5,
  multipolygon = 6,
  collection = 7
};

struct WkbError : std::runtime_error {
  using std::runtime_error::runtime_error;
};

class WkbWriter {
 public:
  void clear() { bytes_.clear(); }
  const uint8_t* data() const { return bytes_.data(); }
  size_t size() const { return bytes_.size(); }

  void header(Shape shape, bool has_z) {
    bytes_.push_back(little_endian());
    put32(static_cast<uint32_t>(shape) + (has_z ? 1000u : 0u));
  }
  void count(size_t n) { put32(static_cast<uint32_t>(n)); }
  void append(const WkbWriter& other) {
    bytes_.insert(bytes_.end(), other.bytes_.begin(), other.bytes_.end());
  }
  // `values` doubles in a row: x y x y … or x y z x y z …
  void coordinates(const double* from, size_t values) {
    size_t old = bytes_.size();
    bytes_.resize(old + values * sizeof(double));
    if (values) std::memcpy(bytes_.data() + old, from, values * sizeof(double));
  }

  static uint8_t little_endian() {
    const uint16_t probe = 1;
    uint8_t first;
    std::memcpy(&first, &probe, 1);
    return first;
  }

 private:
  void put32(uint32_t v) {
    size_t old = bytes_.size();
    bytes_.resize(old + 4);
    std::memcpy(bytes_.data() + old, &v, 4);
  }
  std::vector<uint8_t> bytes_;
};

// Calls, for every simple part of a geometry in order:
//   handler.part(Shape::point | line | polygon), then for each run of coordinates
//   handler.ring(n) and n times handler.coordinate(x, y).
// A point's run has length 1; an empty geometry has no part or a part without a ring.
template <class Handler>
class WkbWalker {
 public:
  WkbWalker(const uint8_t* data, size_t size, Handler& handler)
      : at_(data), end_(data + size), handler_(handler) {}

  void walk() { geometry(0); }

 private:
  static constexpr int kDeepest = 32;

  void geometry(int depth) {
    if (depth > kDeepest) throw WkbError("geometry collections are nested too deep");
    need(5);
    swap_ = *at_++ != WkbWriter::little_endian();
    uint32_t code = get32();
    bool has_z = code & 0x80000000u, has_m = code & 0x40000000u;
    if (code & 0x20000000u) {
      get32();
    }  // an embedded reference-system number
    code &= 0x1fffffffu;
    uint32_t kind = code % 1000, dims = code / 1000;
    if (dims == 1 || dims == 3) has_z = true;
    if (dims == 2 || dims == 3) has_m = true;
    if (kind < 1 || kind > 7 || dims > 3)
      throw WkbError("unknown geometry type in well-known binary");
    int extra = (has_z ? 1 : 0) + (has_m ? 1 : 0);
    switch (static_cast<Shape>(kind)) {
      case Shape::point:
        point(extra);
        break;
      case Shape::line:
        handler_.part(Shape::line);
        run(get32(), extra);
        break;
      case Shape::polygon: {
        handler_.part(Shape::polygon);
        uint32_t rings = get32();
        for (uint32_t i = 0; i < rings; ++i)
          run(get32(), extra);
        break;
      }
      default: {
        uint32_t parts = get32();
        for (uint32_t i = 0; i < parts; ++i)
          geometry(depth + 1);
      }
    }
  }

  void point(int extra) {
    double x = getd(), y = getd();
    for (int i = 0; i < extra; ++i)
      getd();
    if (std::isnan(x) && std::isnan(y)) return;  // how an empty point is written
    handler_.part(Shape::point);
    handler_.ring(1);
    handler_.coordinate(x, y);
  }

  void run(uint32_t n, int extra) {
    if (static_cast<size_t>(end_ - at_) / (16 + 8 * extra) < n)
      throw WkbError("well-known binary ends too early");
    handler_.ring(n);
    for (uint32_t i = 0; i < n; ++i) {
      double x = getd(), y = getd();
      at_ += 8 * extra;
      handler_.coordinate(x, y);
    }
  }

  void need(size_t n) const {
    if (static_cast<size_t>(end_ - at_) < n) throw WkbError("well-known binary ends too early");
  }
  uint32_t get32() {
    need(4);
    uint8_t b[4];
    std::memcpy(b, at_, 4);
    at_ += 4;
    if (swap_) {
      std::swap(b[0], b[3]);
      std::swap(b[1], b[2]);
    }
    uint32_t v;
    std::memcpy(&v, b, 4);
    return v;
  }
  double getd() {
    need(8);
    uint8_t b[8];
    std::memcpy(b, at_, 8);
    at_ += 8;
    if (swap_)
      for (int i = 0; i < 4; ++i)
        std::swap(b[i], b[7 - i]);
    double v;
    std::memcpy(&v, b, 8);
    return v;
  }

  const uint8_t* at_;
  const uint8_t* end_;
  Handler& handler_;
  bool swap_ = false;
};

template <class Handler>
void walk_wkb(const uint8_t* data, size_t size, Handler& handler) {
  WkbWalker<Handler>(data, size, handler).walk();
}

// What a geometry is as a whole, whatever dialect it is written in; Shape(0) for no bytes.
Shape wkb_shape(const uint8_t* data, size_t size);
// Whether its positions have heights or measures.
bool wkb_has_height(const uint8_t* data, size_t size);
// The reference-system number that some databases put into it; 0 without one.
uint32_t wkb_system(const uint8_t* data, size_t size);

// Any dialect (byte orders, high-bit flags, an embedded system number, a GeoPackage header) as
// plain ISO well-known binary without measures; checks all counts on the way. Throws WkbError.
void plain_wkb(const uint8_t* data, size_t size, WkbWriter& out);
// Whether bytes are plain already and nothing follows them. Throws WkbError where they are no
// geometry at all, or a position is no number.
bool is_plain_wkb(const uint8_t* data, size_t size);

// Calls each(x, y) with the place of every position's two numbers, empty points included.
template <class Each>
void each_position(uint8_t* data, size_t size, Each each) {
  if (!is_plain_wkb(data, size)) throw WkbError("the geometry is not in plain form");
  const uint8_t* end = data + size;
  auto word = [&] {
    uint32_t n;
    std::memcpy(&n, data, 4);
    data += 4;
    return n;
  };
  size_t step = 16;
  auto run = [&](uint32_t n) {
    for (; n; --n, data += step)
      each(data, data + 8);
  };
  while (data != end) {
    ++data;
    uint32_t code = word();
    step = code >= 1000 ? 24 : 16;
    switch (static_cast<Shape>(code % 1000)) {
      case Shape::point:
        run(1);
        break;
      case Shape::line:
        run(word());
        break;
      case Shape::polygon:
        for (uint32_t rings = word(); rings; --rings)
          run(word());
        break;
      default:
        word();  // its members follow
    }
  }
}

}  // namespace ochre
