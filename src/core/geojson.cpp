// The one translation unit that includes simdjson (it is slow to compile).
#include "geojson.hpp"

#include <algorithm>
#include <cmath>

#include "wkb.hpp"

#if defined(__GNUC__)
#pragma GCC diagnostic push
#pragma GCC diagnostic ignored "-Wunused-function"
#pragma GCC diagnostic ignored "-Wunused-parameter"
#endif
// Two kernels (AVX2 and portable) are enough; each one more makes this file slower to compile.
#ifndef SIMDJSON_IMPLEMENTATION_ICELAKE
#define SIMDJSON_IMPLEMENTATION_ICELAKE 0
#endif
#ifndef SIMDJSON_IMPLEMENTATION_WESTMERE
#define SIMDJSON_IMPLEMENTATION_WESTMERE 0
#endif
#include "simdjson.h"
#include "simdjson.cpp"
#if defined(__GNUC__)
#pragma GCC diagnostic pop
#endif

namespace ochre {

namespace {

namespace json = simdjson::ondemand;
using simdjson::error_code;

struct Fault {
  std::string what, mend;
};

// The numbers of one `coordinates` member, with the ends of each level of nesting.
struct Coordinates {
  std::vector<double> xyz;        // with `dims` numbers a position
  int dims = 0;                   // 2 or 3; the third is kept only if every position has one
  int depth = -1;                 // 0 a position, 1 a list of positions, 2, 3; -1 not seen
  std::vector<size_t> ring_end;   // positions at the end of each list of positions
  std::vector<size_t> part_end;   // lists at the end of each list of lists
  size_t positions = 0;

  void clear() {
    xyz.clear(); ring_end.clear(); part_end.clear();
    dims = 0; depth = -1; positions = 0;
  }
};

class Reader {
 public:
  Reader(const simdjson::padded_string& text, GeometrySink& sink) : text_(text), sink_(sink) {}

  GeoJsonResult read() {
    json::parser parser;
    try {
      json::document doc;
      auto error = parser.iterate(text_).get(doc);
      if (error) throw simdjson::simdjson_error(error);
      doc_ = &doc;
      json::object root;
      error = doc.get_object().get(root);
      if (error == simdjson::INCORRECT_TYPE) throw Fault{"the file does not hold a JSON object", "GeoJSON begins with { and has a \"type\""};
      if (error) throw simdjson::simdjson_error(error);
      document(root);
      if (!doc.at_end()) throw Fault{"there is more text after the end of the GeoJSON object", "newline-delimited GeoJSON holds several; give one FeatureCollection"};
    } catch (const Fault& f) {
      fail(f.what, f.mend);
    } catch (const simdjson::simdjson_error& e) {
      fail_syntax(e.error());
    }
    result_.id.finish(result_.features);
    for (Column& c : result_.properties.columns) c.finish(result_.features);
    return std::move(result_);
  }

 private:
  struct Bare {  // what a geometry object said so far
    std::string type;
    bool coordinates = false, geometries = false;
  };

  // ---- the document -------------------------------------------------------------------

  void document(json::object root) {
    Bare bare;
    bool collection = false, feature = false;
    writer_.clear();
    for (auto member : root) {
      std::string_view key = member.unescaped_key();
      json::value value = member.value();
      if (key == "type") bare.type = text(value, "type");
      else if (key == "features") { collection = true; features(value); }
      else if (key == "crs") reference_system(value);
      else if (key == "geometry") { feature = true; geometry_member(value); }
      else if (key == "properties") { feature = true; properties(value); }
      else if (key == "id") id(value);
      else if (key == "coordinates") { bare.coordinates = true; coordinates(value); }
      else if (key == "geometries") { bare.geometries = true; geometries(value, 0); }
    }
    if (bare.type.empty()) throw Fault{"the object has no \"type\"", "GeoJSON needs one, for example \"FeatureCollection\""};
    if (bare.type == "FeatureCollection") {
      if (!collection) throw Fault{"the FeatureCollection has no \"features\"", "the file may be cut off; fetch it again"};
    } else if (bare.type == "Feature") {
      if (!feature) throw Fault{"the Feature has neither \"geometry\" nor \"properties\"", "the file may be cut off; fetch it again"};
      end_feature();
    } else if (bare.type == "Topology") {
      throw Fault{"this is TopoJSON, not GeoJSON", "ask the publisher for GeoJSON, or convert it first"};
    } else {
      write_geometry(bare);
      end_feature();
    }
  }

  void features(json::value value) {
    json::array list;
    if (value.get_array().get(list)) throw Fault{"\"features\" is not an array", "see RFC 7946, section 3.3"};
    for (auto element : list) {
      feature_ = static_cast<long>(result_.features) + 1;
      json::object object;
      if (element.get_object().get(object)) throw Fault{"this feature is not an object", "see RFC 7946, section 3.2"};
      writer_.clear();
      for (auto member : object) {
        std::string_view key = member.unescaped_key();
        json::value inner = member.value();
        if (key == "geometry") geometry_member(inner);
        else if (key == "properties") properties(inner);
        else if (key == "id") id(inner);
      }
      end_feature();
    }
    feature_ = 0;
  }

  void end_feature() {
    sink_.geometry(writer_.data(), writer_.size());
    ++result_.features;
    const char* here;
    if ((result_.features & 255) == 0 && !doc_->current_location().get(here)) sink_.progress(double(here - text_.data()) / text_.size());
  }

  // A named system other than WGS 84 would be drawn in the wrong place.
  void reference_system(json::value value) {
    std::string raw(std::string_view(value.raw_json()));
    bool degrees = raw.find("CRS84") != raw.npos || raw.find("4326") != raw.npos || raw.find("null") == 0;
    if (!degrees) {
      if (raw.size() > 120) raw = raw.substr(0, 117) + "...";
      throw Fault{"its coordinates are in another system than longitude and latitude: " + raw,
                  "export the file again as WGS 84 (EPSG:4326)"};
    }
  }

  // ---- properties ---------------------------------------------------------------------

  void properties(json::value value) {
    result_.properties.start_row();
    if (value.is_null()) return;
    json::object object;
    if (value.get_object().get(object)) throw Fault{"\"properties\" is neither an object nor null", "see RFC 7946, section 3.2"};
    property_object(object, "", 0);
  }

  void property_object(json::object object, const std::string& prefix, int depth) {
    for (auto member : object) {
      std::string_view key = member.unescaped_key();
      json::value value = member.value();
      if (value.type() == json::json_type::object && depth < 8) {
        property_object(value.get_object(), prefix + std::string(key) + ".", depth + 1);
      } else if (prefix.empty()) {
        store(result_.properties.find(key), value);
      } else {
        store(result_.properties.find(prefix + std::string(key)), value);
      }
    }
  }

  void store(Column& column, json::value value) {
    size_t row = result_.features;
    switch (value.type().value()) {
      case json::json_type::string: column.set_text(row, no_nul(value.get_string())); break;
      case json::json_type::boolean: column.set_logical(row, value.get_bool()); break;
      case json::json_type::number: store_number(column, value); break;
      case json::json_type::null:
        if (!bool(value.is_null())) throw Fault{"a value is not valid JSON", "null, true and false are written in small letters"};
        break;
      default: column.set_text(row, trimmed(value.raw_json())); break;
    }
  }

  // Whole numbers that a double cannot hold are identifiers: they stay text, digit by digit.
  void store_number(Column& column, json::value value) {
    std::string_view token = trimmed(value.raw_json_token());
    bool whole = token.find_first_of(".eE") == token.npos;
    if (whole && token.size() > 15) {
      double d = 0;
      if (value.get_double().get(d)) d = std::numeric_limits<double>::infinity();
      if (std::fabs(d) > 9007199254740992.0) { column.set_text(result_.features, token); return; }
      column.set_number(result_.features, d, true);
      return;
    }
    column.set_number(result_.features, value.get_double(), whole);
  }

  void id(json::value value) {
    auto type = value.type().value();
    if (type == json::json_type::string || type == json::json_type::number) store(result_.id, value);
    else if (!(type == json::json_type::null && bool(value.is_null()))) throw Fault{"\"id\" is neither text nor a number", "see RFC 7946, section 3.2"};
  }

  std::string_view no_nul(std::string_view s) {
    if (s.find('\0') != s.npos) throw Fault{"a text holds the character \\u0000", "remove it from the file"};
    return s;
  }
  static std::string_view trimmed(std::string_view s) {
    while (!s.empty() && static_cast<unsigned char>(s.back()) <= ' ') s.remove_suffix(1);
    return s;
  }
  std::string text(json::value value, const char* name) {
    std::string_view s;
    if (value.get_string().get(s)) throw Fault{std::string("\"") + name + "\" is not text", "see RFC 7946"};
    return std::string(s);
  }

  // ---- geometry -----------------------------------------------------------------------

  void geometry_member(json::value value) {
    if (value.type() == json::json_type::null && value.is_null()) return;
    geometry(value, 0);
  }

  void geometry(json::value value, int depth) {
    json::object object;
    if (value.get_object().get(object)) throw Fault{"a geometry is neither an object nor null", "see RFC 7946, section 3.1"};
    if (depth > 16) throw Fault{"geometry collections are nested too deep", "take the inner geometries out"};
    Bare bare;
    for (auto member : object) {
      std::string_view key = member.unescaped_key();
      json::value inner = member.value();
      if (key == "type") bare.type = text(inner, "type");
      else if (key == "coordinates") { bare.coordinates = true; coordinates(inner); }
      else if (key == "geometries") { bare.geometries = true; geometries(inner, depth); }
    }
    write_geometry(bare);
  }

  // The members of a collection are written first and its header is put before them.
  void geometries(json::value value, int depth) {
    json::array list;
    if (value.get_array().get(list)) throw Fault{"\"geometries\" is not an array", "see RFC 7946, section 3.1.8"};
    WkbWriter outer;
    std::swap(outer, writer_);
    uint32_t n = 0;
    for (auto element : list) { geometry(element.value(), depth + 1); ++n; }
    WkbWriter members;
    std::swap(members, writer_);
    writer_ = std::move(outer);
    writer_.header(Shape::collection, false);
    writer_.count(n);
    writer_.append(members);
  }

  void coordinates(json::value value) {
    now_.clear();
    json::array list;
    if (value.get_array().get(list)) throw Fault{"\"coordinates\" is not an array", "see RFC 7946, section 3.1.1"};
    now_.depth = coordinate_level(list, 0);
    result_.positions += now_.positions;
  }

  // Returns how deep positions lie below this array: 0 when it is a position itself, -1 when
  // it is empty.
  int coordinate_level(json::array list, int level) {
    if (level > 3) throw Fault{"\"coordinates\" are nested deeper than any geometry", "see RFC 7946, section 3.1"};
    int depth = -1, count = 0;
    double position[3] = {0, 0, 0};
    for (auto element : list) {
      json::value value;
      if (auto e = std::move(element).get(value)) throw simdjson::simdjson_error(e);
      json::array inner;
      // After one number another is expected, so an array is not tried first.
      if (depth != 0 && value.get_array().get(inner) == simdjson::SUCCESS) {
        int below = coordinate_level(inner, level + 1);
        if (below >= 0 && depth > 0 && depth != below + 1) throw Fault{"\"coordinates\" are nested unevenly", "see RFC 7946, section 3.1"};
        if (below >= 0) depth = below + 1;
        else if (depth < 0) depth = -2;
      } else {
        if (depth > 0) throw Fault{"a list of positions holds a bare number", "a position is [longitude, latitude]"};
        depth = 0;
        double number;
        if (auto e = value.get_double().get(number)) {
          if (e != simdjson::INCORRECT_TYPE) throw simdjson::simdjson_error(e);
          throw Fault{"a coordinate is not a number", "a position is [longitude, latitude], without quotes or inner lists"};
        }
        if (count < 3) position[count] = number;
        ++count;
      }
    }
    if (depth == 0) end_position(position, count);
    else if (depth == 1) now_.ring_end.push_back(now_.positions);
    else if (depth == 2) now_.part_end.push_back(now_.ring_end.size());
    return depth < 0 ? -1 : depth;
  }

  void end_position(const double* p, int count) {
    if (count < 2) throw Fault{"a position has fewer than two numbers", "a position is [longitude, latitude]"};
    int dims = std::min(count, 3);
    if (now_.dims == 0) now_.dims = dims;
    else if (dims < now_.dims) drop_height();
    now_.xyz.insert(now_.xyz.end(), p, p + now_.dims);
    ++now_.positions;
    if (p[0] < result_.west) result_.west = p[0];
    if (p[0] > result_.east) result_.east = p[0];
    if (p[1] < result_.south) result_.south = p[1];
    if (p[1] > result_.north) result_.north = p[1];
    if (std::fabs(p[0]) > 180 || std::fabs(p[1]) > 90) ++result_.beyond_degrees;
  }

  void drop_height() {
    size_t n = now_.positions;
    for (size_t i = 0; i < n; ++i) {
      now_.xyz[2 * i] = now_.xyz[3 * i];
      now_.xyz[2 * i + 1] = now_.xyz[3 * i + 1];
    }
    now_.xyz.resize(2 * n);
    now_.dims = 2;
  }

  void write_geometry(const Bare& bare) {
    static const struct { const char* name; Shape shape; int depth; } kinds[] = {
        {"Point", Shape::point, 0}, {"MultiPoint", Shape::multipoint, 1}, {"LineString", Shape::line, 1},
        {"MultiLineString", Shape::multiline, 2}, {"Polygon", Shape::polygon, 2}, {"MultiPolygon", Shape::multipolygon, 3}};
    if (bare.type == "GeometryCollection") {
      if (!bare.geometries) throw Fault{"the GeometryCollection has no \"geometries\"", "see RFC 7946, section 3.1.8"};
      return;
    }
    for (const auto& kind : kinds) {
      if (bare.type != kind.name) continue;
      if (!bare.coordinates) throw Fault{"the " + bare.type + " has no \"coordinates\"", "the file may be cut off; fetch it again"};
      if (now_.depth >= 0 && now_.depth != kind.depth)
        throw Fault{"the coordinates of this " + bare.type + " are nested " + std::to_string(now_.depth) + " deep, not " + std::to_string(kind.depth), "the type or the brackets are wrong"};
      write_shape(kind.shape);
      return;
    }
    throw Fault{bare.type.empty() ? "a geometry has no \"type\"" : "\"" + bare.type.substr(0, 60) + "\" is not a GeoJSON type",
                "the types are listed in RFC 7946, section 1.4; capitals matter"};
  }

  void write_run(size_t from, size_t to) {
    writer_.count(to - from);
    writer_.coordinates(now_.xyz.data() + from * now_.dims, (to - from) * now_.dims);
  }
  void write_rings(size_t from, size_t to) {
    writer_.count(to - from);
    for (size_t r = from; r < to; ++r) write_run(r ? now_.ring_end[r - 1] : 0, now_.ring_end[r]);
  }

  void write_shape(Shape shape) {
    const Coordinates& c = now_;
    bool z = c.dims == 3;
    writer_.header(shape, z);
    switch (shape) {
      case Shape::point:
        if (c.positions) writer_.coordinates(c.xyz.data(), c.dims);
        else { double nan[2] = {NAN, NAN}; writer_.coordinates(nan, 2); }
        break;
      case Shape::line: write_run(0, c.positions); break;
      case Shape::polygon: write_rings(0, c.ring_end.size()); break;
      case Shape::multipoint:
        writer_.count(c.positions);
        for (size_t i = 0; i < c.positions; ++i) { writer_.header(Shape::point, z); writer_.coordinates(c.xyz.data() + i * c.dims, c.dims); }
        break;
      case Shape::multiline:
        writer_.count(c.ring_end.size());
        for (size_t r = 0; r < c.ring_end.size(); ++r) { writer_.header(Shape::line, z); write_run(r ? c.ring_end[r - 1] : 0, c.ring_end[r]); }
        break;
      default:
        writer_.count(c.part_end.size());
        for (size_t p = 0; p < c.part_end.size(); ++p) { writer_.header(Shape::polygon, z); write_rings(p ? c.part_end[p - 1] : 0, c.part_end[p]); }
    }
  }

  // ---- errors -------------------------------------------------------------------------

  [[noreturn]] void fail(const std::string& what, const std::string& mend, const char* at = nullptr) {
    if (!at && doc_) {
      const char* here;
      if (!doc_->current_location().get(here)) at = here;
    }
    size_t line = 0, column = 0;
    if (at && at >= text_.data() && at <= text_.data() + text_.size()) {
      line = 1 + std::count(text_.data(), at, '\n');
      const char* start = at;
      while (start > text_.data() && start[-1] != '\n') --start;
      column = at - start + 1;
    }
    throw GeoJsonError(what, mend, feature_, line, column);
  }

  [[noreturn]] void fail_syntax(error_code code) {
    const char* end = text_.data() + text_.size();
    const char* last = end;
    while (last > text_.data() && static_cast<unsigned char>(last[-1]) <= ' ') --last;
    bool whole = last > text_.data() && last[-1] == '}';
    if (!whole && code != simdjson::EMPTY && code != simdjson::UTF8_ERROR && code != simdjson::UNCLOSED_STRING) code = simdjson::INCOMPLETE_ARRAY_OR_OBJECT;
    switch (code) {
      case simdjson::EMPTY: fail("the file is empty", "fetch it again");
      case simdjson::UTF8_ERROR: fail("the text is not valid UTF-8", "save the file with the encoding UTF-8", bad_utf8());
      case simdjson::UNCLOSED_STRING: fail("a text in quotes is never closed", "the file may be cut off; fetch it again", end);
      case simdjson::INCOMPLETE_ARRAY_OR_OBJECT: fail("the file ends before its last bracket is closed", "it is cut off; fetch it again", end);
      case simdjson::NUMBER_ERROR: fail("a number is not valid JSON", "numbers have a point, no thousands mark and no leading zero");
      case simdjson::CAPACITY: case simdjson::MEMALLOC: fail("the file is too large to be read at once", "split it, or leave out columns");
      case simdjson::DEPTH_ERROR: fail("the brackets are nested too deep", "this is not a file of boundaries");
      default: fail("the text is not valid JSON", "look at this place for a missing comma, bracket or quote");
    }
  }

  const char* bad_utf8() const {
    const unsigned char* p = reinterpret_cast<const unsigned char*>(text_.data());
    size_t n = text_.size(), i = 0;
    while (i < n) {
      int more = p[i] < 0x80 ? 0 : (p[i] >> 5) == 6 ? 1 : (p[i] >> 4) == 14 ? 2 : (p[i] >> 3) == 30 ? 3 : -1;
      bool good = more >= 0 && i + more < n;
      for (int k = 1; good && k <= more; ++k) good = (p[i + k] >> 6) == 2;
      if (!good) break;
      i += 1 + more;
    }
    return text_.data() + i;
  }

  const simdjson::padded_string& text_;
  GeometrySink& sink_;
  json::document* doc_ = nullptr;
  GeoJsonResult result_;
  WkbWriter writer_;
  Coordinates now_;
  long feature_ = 0;
};

}  // namespace

GeoJsonResult read_geojson(const std::string& path, GeometrySink& sink) {
  simdjson::padded_string text;
  if (simdjson::padded_string::load(path).get(text))
    throw GeoJsonError("the file cannot be opened", "check its path and rights", 0, 0, 0);
  return Reader(text, sink).read();
}

}  // namespace ochre
