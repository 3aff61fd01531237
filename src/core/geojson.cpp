#include "geojson.hpp"

#include <algorithm>
#include <fstream>
#include <utility>

#include "coordinates.hpp"
#include "json-text.hpp"
#include "properties.hpp"
#include "topojson.hpp"

namespace ochre {

FileText::FileText(const char* data, size_t size)
    : bytes_(new char[size + JsonText::kPadding]), size_(size) {
  std::copy(data, data + size, bytes_.get());
  std::fill_n(bytes_.get() + size, JsonText::kPadding, '\0');
}

FileText::FileText(const std::string& path) {
  std::ifstream file(path, std::ios::binary);
  if (!file) throw FileError("the file cannot be opened", "check its path and rights");
  file.seekg(0, std::ios::end);
  std::streamoff size = file.tellg();
  file.seekg(0);
  if (size < 0 || !file) throw FileError("the file cannot be read", "check its path and rights");
  bytes_.reset(new char[size + JsonText::kPadding]);
  file.read(bytes_.get(), size);
  size_ = static_cast<size_t>(file.gcount());
  std::fill_n(bytes_.get() + size_, JsonText::kPadding, '\0');
}

namespace {

// Thrown where the text turns out to be TopoJSON.
struct IsTopology {};

class Reader {
 public:
  Reader(JsonText text, const ColumnSet& limits, GeometrySink& sink)
      : text_(std::move(text)), sink_(sink) {
    result_.properties = limits;
  }

  Boundaries read() {
    bool any = false;
    while (next_record()) {
      if (text_.peek() != '{') {
        if (any)
          text_.fail("there is more text after the end of the GeoJSON object",
                     "one FeatureCollection, or one Feature a line, makes a file");
        text_.fail("the file does not hold a JSON object",
                   "GeoJSON begins with { and has a \"type\"");
      }
      root();
      any = true;
    }
    if (!any) text_.fail("the file is empty", "fetch it again");
    result_.texts_with_nul = properties_.with_nul();
    result_.finish();
    return std::move(result_);
  }

 private:
  struct Bare {  // what a geometry object said so far
    std::string type;
    bool coordinates = false, geometries = false;
  };

  // Past white space and the marks between records of a text sequence.
  bool next_record() {
    for (;;) {
      text_.peek();
      if (text_.done()) return false;
      if (*text_.at() != '\x1e') return true;
      text_.move(text_.at() + 1);
    }
  }

  void root() {
    Bare bare;
    bool collection = false, feature = false;
    writer_.clear();
    text_.object([&](std::string_view key) {
      if (key == "type") {
        bare.type = text_.text("type");
        if (bare.type == "Topology") throw IsTopology{};
      } else if (key == "features") {
        collection = true;
        features();
      } else if (key == "crs")
        reference_system();
      else if (key == "geometry") {
        feature = true;
        geometry_member();
      } else if (key == "properties") {
        feature = true;
        properties_.object(text_, result_.properties, result_.features);
      } else if (key == "id")
        properties_.id(text_, result_.id, result_.features);
      else if (key == "coordinates") {
        bare.coordinates = true;
        now_.read(text_, result_);
      } else if (key == "geometries") {
        bare.geometries = true;
        geometries(0);
      } else
        text_.raw_value();
    });
    if (bare.type.empty())
      text_.fail("the object has no \"type\"",
                 "GeoJSON needs one, for example \"FeatureCollection\"");
    if (bare.type == "FeatureCollection") {
      ++result_.collections;
      if (!collection)
        text_.fail("the FeatureCollection has no \"features\"",
                   "the file may be cut off; fetch it again");
    } else if (bare.type == "Feature") {
      if (!feature)
        text_.fail("the Feature has neither \"geometry\" nor \"properties\"",
                   "the file may be cut off; fetch it again");
      end_feature();
    } else {
      write_geometry(bare);
      end_feature();
    }
  }

  void features() {
    if (text_.peek() != '[')
      text_.fail("\"features\" is not an array", "see RFC 7946, section 3.3");
    text_.array([&] {
      text_.feature = static_cast<long>(result_.features) + 1;
      if (text_.peek() != '{')
        text_.fail("this feature is not an object", "see RFC 7946, section 3.2");
      writer_.clear();
      text_.object([&](std::string_view key) {
        if (key == "geometry")
          geometry_member();
        else if (key == "properties")
          properties_.object(text_, result_.properties, result_.features);
        else if (key == "id")
          properties_.id(text_, result_.id, result_.features);
        else
          text_.raw_value();
      });
      end_feature();
    });
    text_.feature = 0;
  }

  void end_feature() {
    sink_.geometry(writer_.data(), writer_.size());
    ++result_.features;
    if ((result_.features & 255) == 0) sink_.progress(text_.share());
  }

  // The old form's member: {"type": "name", "properties": {"name": "urn:ogc:def:crs:EPSG::3857"}},
  // or
  // {"type": "link", "properties": {"href": "…"}}, which is not followed.
  void reference_system() {
    std::string_view raw = text_.raw_value();
    if (raw == "null" || raw.find("CRS84") != raw.npos || raw.find(":4326\"") != raw.npos) return;
    size_t at = raw.find("\"name\"", raw.find("\"properties\""));
    if (at == raw.npos) at = raw.find("\"href\"", raw.find("\"properties\""));
    size_t from = at == raw.npos ? at : raw.find('"', at + 6);
    size_t to = from == raw.npos ? from : raw.find('"', from + 1);
    if (to == raw.npos)
      text_.fail(
          "its coordinates are in another system than longitude and latitude, which it does not "
          "name",
          "say which with `system`, for example system = \"EPSG:25832\"");
    result_.system = std::string(raw.substr(from + 1, to - from - 1));
  }

  // ---- geometry -----------------------------------------------------------------------

  void geometry_member() {
    if (text_.peek() == 'n' && text_.is_null()) return;
    geometry(0);
  }

  void geometry(int depth) {
    if (text_.peek() != '{')
      text_.fail("a geometry is neither an object nor null", "see RFC 7946, section 3.1");
    if (depth > 16)
      text_.fail("geometry collections are nested too deep", "take the inner geometries out");
    Bare bare;
    text_.object([&](std::string_view key) {
      if (key == "type")
        bare.type = text_.text("type");
      else if (key == "coordinates") {
        bare.coordinates = true;
        now_.read(text_, result_);
      } else if (key == "geometries") {
        bare.geometries = true;
        geometries(depth);
      } else
        text_.raw_value();
    });
    write_geometry(bare);
  }

  // The members of a collection are written first and its header is put before them.
  void geometries(int depth) {
    if (text_.peek() != '[')
      text_.fail("\"geometries\" is not an array", "see RFC 7946, section 3.1.8");
    WkbWriter outer;
    std::swap(outer, writer_);
    uint32_t n = 0;
    text_.array([&] {
      geometry(depth + 1);
      ++n;
    });
    WkbWriter members;
    std::swap(members, writer_);
    writer_ = std::move(outer);
    writer_.header(Shape::collection, false);
    writer_.count(n);
    writer_.append(members);
  }

  void write_geometry(const Bare& bare) {
    static const struct {
      const char* name;
      Shape shape;
      int depth;
    } kinds[] = {{"Point", Shape::point, 0},     {"MultiPoint", Shape::multipoint, 1},
                 {"LineString", Shape::line, 1}, {"MultiLineString", Shape::multiline, 2},
                 {"Polygon", Shape::polygon, 2}, {"MultiPolygon", Shape::multipolygon, 3}};
    if (bare.type == "GeometryCollection") {
      if (!bare.geometries)
        text_.fail("the GeometryCollection has no \"geometries\"", "see RFC 7946, section 3.1.8");
      return;
    }
    for (const auto& kind : kinds) {
      if (bare.type != kind.name) continue;
      if (!bare.coordinates)
        text_.fail("the " + bare.type + " has no \"coordinates\"",
                   "the file may be cut off; fetch it again");
      if (now_.depth >= 0 && now_.depth != kind.depth)
        text_.fail("the coordinates of this " + bare.type + " are nested " +
                       std::to_string(now_.depth) + " deep, not " + std::to_string(kind.depth),
                   "the type or the brackets are wrong");
      now_.write(kind.shape, writer_);
      return;
    }
    text_.fail(bare.type.empty() ? "a geometry has no \"type\""
                                 : "\"" + bare.type.substr(0, 60) + "\" is not a GeoJSON type",
               "the types are listed in RFC 7946, section 1.4; capitals matter");
  }

  JsonText text_;
  GeometrySink& sink_;
  Boundaries result_;
  WkbWriter writer_;
  Coordinates now_;
  PropertyReader properties_;
};

// The text without a byte-order mark, once it is known to be UTF-8.
JsonText checked(const FileText& file) {
  const char* data = file.data();
  size_t size = file.size();
  if (const char* bad = bad_utf8(data, size))
    JsonText(data, size)
        .fail("the text is not valid UTF-8", "save the file with the encoding UTF-8", bad);
  if (size >= 3 && std::string_view(data, 3) == "\xef\xbb\xbf") {
    data += 3;
    size -= 3;
  }
  return JsonText(data, size);
}

}  // namespace

Boundaries read_json(const FileText& file, const std::string& layer, GeometrySink& sink,
                     size_t most_columns) {
  JsonText text = checked(file);
  ColumnSet limits;
  limits.most = most_columns;
  // A table that is mostly empty may be larger than the file, but not without end.
  limits.most_cells = 100000000 + file.size();
  try {
    return Reader(std::move(text), limits, sink).read();
  } catch (const IsTopology&) {
    return read_topojson(text, layer, limits, sink);
  }
}

}  // namespace ochre
