#include "geometry-text.hpp"

#include <algorithm>

#include "arcs.hpp"
#include "rings.hpp"

namespace ochre {

namespace {

// Reads plain well-known binary (as core writes it) and writes text.
class Spelling {
 public:
  Spelling(std::string& out, const uint8_t* data, size_t size, const DecimalText& numbers,
           bool json)
      : out_(out), at_(data), end_(data + size), numbers_(numbers), json_(json) {}

  void geometry() {
    static const char* json[] = {
        "",           "Point",           "LineString",   "Polygon",
        "MultiPoint", "MultiLineString", "MultiPolygon", "GeometryCollection"};
    static const char* wkt[] = {
        "",           "POINT",           "LINESTRING",   "POLYGON",
        "MULTIPOINT", "MULTILINESTRING", "MULTIPOLYGON", "GEOMETRYCOLLECTION"};
    Shape shape = head();
    size_t code = static_cast<size_t>(shape);
    if (json_) {
      out_ += "{\"type\":\"";
      out_ += json[code];
      out_ += shape == Shape::collection ? "\",\"geometries\":" : "\",\"coordinates\":";
      body(shape);
      out_ += '}';
    } else {
      out_ += wkt[code];
      out_ += dims_ == 3 ? " Z " : " ";
      body(shape);
    }
  }

 private:
  Shape head() {
    need(5);
    uint32_t code;
    std::memcpy(&code, at_ + 1, 4);
    at_ += 5;
    dims_ = code >= 1000 ? 3 : 2;
    uint32_t kind = code % 1000;
    if (kind < 1 || kind > 7) throw WkbError("unknown geometry type in well-known binary");
    return static_cast<Shape>(kind);
  }

  void body(Shape shape) {
    switch (shape) {
      case Shape::point:
        point();
        break;
      case Shape::line:
        run(count());
        break;
      case Shape::polygon:
        rings();
        break;
      default: {
        uint32_t n = count();
        if (!n && !json_) {
          out_ += "EMPTY";
          break;
        }
        open();
        for (uint32_t i = 0; i < n; ++i) {
          if (i) out_ += ',';
          if (shape == Shape::collection)
            geometry();
          else
            body(head());
        }
        close();
      }
    }
  }

  void point() {
    need(8 * dims_);
    double x;
    std::memcpy(&x, at_, 8);
    if (std::isnan(x)) {
      at_ += 8 * dims_;
      out_ += json_ ? "[]" : "EMPTY";
      return;
    }
    if (!json_) open();
    position();
    if (!json_) close();
  }

  void run(uint32_t n) {
    if (!n && !json_) {
      out_ += "EMPTY";
      return;
    }
    need(size_t(n) * 8 * dims_);
    open();
    for (uint32_t i = 0; i < n; ++i) {
      if (i) out_ += ',';
      position();
    }
    close();
  }

  // Shells counter-clockwise and holes clockwise in JSON; WKT keeps them as they are.
  void rings() {
    uint32_t n = count();
    if (!n && !json_) {
      out_ += "EMPTY";
      return;
    }
    open();
    for (uint32_t r = 0; r < n; ++r) {
      if (r) out_ += ',';
      uint32_t m = count();
      need(size_t(m) * 8 * dims_);
      if (json_ && backward(m, r == 0)) {
        const uint8_t* next = at_ + size_t(m) * 8 * dims_;
        open();
        for (uint32_t i = 0; i < m; ++i) {
          if (i) out_ += ',';
          at_ = next - size_t(i + 1) * 8 * dims_;
          position();
        }
        close();
        at_ = next;
      } else {
        run(m);
      }
    }
    close();
  }

  bool backward(uint32_t n, bool shell) {
    ring_.resize(n);
    for (uint32_t i = 0; i < n; ++i)
      std::memcpy(&ring_[i], at_ + size_t(i) * 8 * dims_, 16);
    double area = signed_area(ring_.data(), n);
    return area != 0 && (area > 0) != shell;
  }

  void position() {
    size_t old = out_.size();
    out_.resize(old + 3 * (DecimalText::kRoom + 1) + 2);
    char* to = &out_[old];
    if (json_) *to++ = '[';
    for (size_t k = 0; k < dims_; ++k) {
      double v;
      std::memcpy(&v, at_, 8);
      at_ += 8;
      if (k) *to++ = json_ ? ',' : ' ';
      to = numbers_.put(to, v);
    }
    if (json_) *to++ = ']';
    out_.resize(to - out_.data());
  }

  uint32_t count() {
    need(4);
    uint32_t n;
    std::memcpy(&n, at_, 4);
    at_ += 4;
    return n;
  }
  void need(size_t n) const {
    if (static_cast<size_t>(end_ - at_) < n) throw WkbError("well-known binary ends too early");
  }
  void open() { out_ += json_ ? '[' : '('; }
  void close() { out_ += json_ ? ']' : ')'; }

  std::string& out_;
  const uint8_t* at_;
  const uint8_t* end_;
  const DecimalText& numbers_;
  bool json_;
  size_t dims_ = 2;
  std::vector<Point> ring_;
};

}  // namespace

void put_geojson(std::string& out, const uint8_t* data, size_t size, const DecimalText& numbers) {
  if (!size) {
    out += "null";
    return;
  }
  Spelling(out, data, size, numbers, true).geometry();
}

void put_wkt(std::string& out, const uint8_t* data, size_t size, const DecimalText& numbers) {
  if (size) Spelling(out, data, size, numbers, false).geometry();
}

// ---- TopoJSON -------------------------------------------------------------------------------

namespace {

class TopoFile {
 public:
  TopoFile(const FlatLayer& layer, int digits) : layer_(layer), numbers_(digits), digits_(digits) {
    for (Point& p : layer_.points) {
      x0_ = std::min(x0_, p.x);
      y0_ = std::min(y0_, p.y);
    }
    if (layer_.points.empty()) x0_ = y0_ = 0;
    x0_ = std::floor(x0_ * numbers_.unit());
    y0_ = std::floor(y0_ * numbers_.unit());
    for (Point& p : layer_.points)
      p = {std::round(p.x * numbers_.unit()) - x0_, std::round(p.y * numbers_.unit()) - y0_};
    borders_ = border_net(layer_);
  }

  std::string write(const std::string& name, const std::vector<std::string>& properties) {
    out_ = "{\"type\":\"Topology\",\"transform\":{\"scale\":[";
    std::string scale = digits_ > 0 ? "1e-" + std::to_string(digits_) : "1";
    out_ += scale + "," + scale + "],\"translate\":[";
    decimal(x0_ / numbers_.unit());
    out_ += ',';
    decimal(y0_ / numbers_.unit());
    out_ += "]},\"arcs\":[";
    for (size_t a = 0; a < borders_.net.arcs(); ++a) {
      out_ += a ? ",[" : "[";
      Point last{0, 0};
      size_t from = borders_.net.arc_from(a);
      for (size_t i = from; i < borders_.net.arc_end[a]; ++i) {
        Point p = borders_.vertex[borders_.net.vertex[i]];
        out_ += i > from ? ",[" : "[";
        integer(p.x - last.x);
        out_ += ',';
        integer(p.y - last.y);
        out_ += ']';
        last = p;
      }
      // A ring that rounding shrank to one place still has two positions.
      if (borders_.net.arc_end[a] - from == 1) out_ += ",[0,0]";
      out_ += ']';
    }
    out_ += "],\"objects\":{" + name + ":{\"type\":\"GeometryCollection\",\"geometries\":[";
    for (size_t f = 0; f < layer_.features(); ++f) {
      out_ += f ? ",{" : "{";
      geometry(f);
      if (!properties.empty() && !properties[f].empty()) out_ += ",\"properties\":" + properties[f];
      out_ += '}';
    }
    return std::move(out_ += "]}}}\n");
  }

 private:
  void decimal(double v) {
    char b[DecimalText::kRoom];
    out_.append(b, numbers_.put(b, v));
  }
  void integer(double v) {
    char b[24];
    if (v < 0) out_ += '-';
    out_.append(b, DecimalText::put_integer(b, static_cast<uint64_t>(std::fabs(v))));
  }
  void references(size_t ring) {
    out_ += '[';
    for (size_t i = borders_.net.run_from(ring); i < borders_.net.run_end[ring]; ++i) {
      if (i > borders_.net.run_from(ring)) out_ += ',';
      out_ += std::to_string(borders_.net.run_arc[i]);
    }
    out_ += ']';
  }
  void position(size_t part) {
    size_t r = layer_.first_ring(part);
    if (r == layer_.part_end[part]) {
      out_ += "[]";
      return;
    }
    out_ += '[';
    integer(layer_.ring(r)->x);
    out_ += ',';
    integer(layer_.ring(r)->y);
    out_ += ']';
  }

  // Members of one geometry, without braces.
  void geometry(size_t f) {
    Shape whole = layer_.feature_shape[f];
    size_t from = layer_.first_part(f), to = layer_.feature_end[f];
    if (static_cast<uint32_t>(whole) == 0) {
      out_ += "\"type\":null";
      return;
    }
    if (whole != Shape::collection) {
      for (size_t p = from; p < to; ++p)
        if (layer_.part_shape[p] != layer_.part_shape[from]) whole = Shape::collection;
      if (from < to && whole != Shape::collection && to - from > 1)
        whole = static_cast<Shape>(static_cast<uint32_t>(layer_.part_shape[from]) + 3);
    }
    if (whole == Shape::collection) {
      out_ += "\"type\":\"GeometryCollection\",\"geometries\":[";
      for (size_t p = from; p < to; ++p) {
        out_ += p > from ? ",{" : "{";
        simple(p, p + 1, layer_.part_shape[p]);
        out_ += '}';
      }
      out_ += ']';
      return;
    }
    simple(from, to, whole);
  }

  void simple(size_t from, size_t to, Shape shape) {
    static const char* names[] = {"",           "Point",           "LineString",  "Polygon",
                                  "MultiPoint", "MultiLineString", "MultiPolygon"};
    bool points = shape == Shape::point || shape == Shape::multipoint,
         many = static_cast<int>(shape) > 3;
    out_ += std::string("\"type\":\"") + names[static_cast<int>(shape)] +
            (points ? "\",\"coordinates\":" : "\",\"arcs\":");
    if (many || from == to) out_ += '[';
    for (size_t p = from; p < to; ++p) {
      if (p > from) out_ += ',';
      if (points) {
        position(p);
        continue;
      }
      bool polygon = layer_.part_shape[p] == Shape::polygon;
      if (polygon) out_ += '[';
      for (size_t r = layer_.first_ring(p); r < layer_.part_end[p]; ++r) {
        if (r > layer_.first_ring(p)) out_ += ',';
        references(r);
      }
      if (!polygon && layer_.first_ring(p) == layer_.part_end[p]) out_ += "[]";
      if (polygon) out_ += ']';
    }
    if (many || from == to) out_ += ']';
  }

  FlatLayer layer_;
  DecimalText numbers_;
  int digits_;
  double x0_ = 1e300, y0_ = 1e300;
  BorderNet borders_;
  std::string out_;
};

}  // namespace

std::string topojson_file(const FlatLayer& layer, const std::string& name,
                          const std::vector<std::string>& properties, int digits) {
  return TopoFile(layer, digits).write(name, properties);
}

}  // namespace ochre
