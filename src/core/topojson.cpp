#include "topojson.hpp"

#include <algorithm>
#include <utility>

#include "coordinates.hpp"
#include "properties.hpp"

namespace ochre {

namespace {

class Reader {
 public:
  Reader(JsonText text, const ColumnSet& limits, GeometrySink& sink)
      : text_(std::move(text)), sink_(sink) {
    result_.properties = limits;
  }

  Boundaries read(const std::string& layer) {
    find_members();
    size_t chosen = std::find(names_.begin(), names_.end(), layer) - names_.begin();
    if (layer.empty() && names_.size() == 1) chosen = 0;
    if (chosen == names_.size()) {
      FileError e(layer.empty() ? "the TopoJSON holds " + std::to_string(names_.size()) + " objects"
                                : "the TopoJSON has no object \"" + layer + "\"",
                  "");
      e.layers = names_;
      throw e;
    }
    if (transform_) read_transform();
    if (!has_arcs_)
      text_.fail("the Topology has no \"arcs\"", "the file may be cut off; fetch it again");
    place_arcs();
    text_.move(objects_[chosen].at);
    result_.topology = true;
    object(objects_[chosen].is_collection);
    result_.texts_with_nul = properties_.with_nul();
    result_.finish();
    return std::move(result_);
  }

 private:
  struct Geometry {
    std::string type;
    bool has_arcs = false, has_coordinates = false, has_geometries = false;
  };

  struct Object {
    const char* at;
    bool is_collection;
  };

  // Members may come in any order, and arcs are needed before objects: a first scan reads arcs and
  // notes where the rest lies.
  void find_members() {
    if (text_.peek() != '{')
      text_.fail("the file does not hold a JSON object",
                 "TopoJSON begins with { and has a \"type\"");
    text_.object([&](std::string_view key) {
      if (key == "arcs") {
        read_arcs();
        return;
      }
      if (key == "objects" && text_.peek() == '{') {
        text_.object([&](std::string_view name) {
          names_.emplace_back(name);
          note_object();
        });
        return;
      }
      if (key == "transform") transform_ = text_.at();
      text_.raw_value();
    });
    if (names_.empty())
      text_.fail("the Topology has no \"objects\"", "the file may be cut off; fetch it again");
  }

  // A collection's members are features; any other object is one.
  void note_object() {
    objects_.push_back({text_.at(), false});
    if (text_.peek() != '{') {
      text_.raw_value();
      return;
    }
    text_.object([&](std::string_view key) {
      if (key == "type" && text_.peek() == '"')
        objects_.back().is_collection = text_.text("type") == "GeometryCollection";
      else
        text_.raw_value();
    });
  }

  void read_transform() {
    text_.move(transform_);
    if (text_.peek() == 'n' && text_.is_null()) return;
    if (text_.peek() != '{')
      text_.fail("\"transform\" is not an object", "it holds \"scale\" and \"translate\"");
    text_.object([&](std::string_view key) {
      double* to = key == "scale" ? scale_ : key == "translate" ? shift_ : nullptr;
      if (!to || text_.peek() != '[') {
        text_.raw_value();
        return;
      }
      int n = 0;
      text_.array([&] {
        double v = text_.number("transform");
        if (n < 2) to[n++] = v;
      });
    });
    quantised_ = true;
  }

  void read_arcs() {
    has_arcs_ = true;
    Boundaries unseen;
    arc_.read(text_, unseen);
    if (arc_.depth >= 0 && arc_.depth != 2)
      text_.fail("\"arcs\" are not a list of lists of positions",
                 "each arc is a list of positions");
    if (arc_.dims == 3) arc_.add(0.0, 0.0);  // heights of arcs are not kept; this drops them
  }

  void place_arcs() {
    if (!quantised_) return;
    for (size_t a = 0, i = 0; a < arc_.ring_end.size(); ++a) {
      double x = 0, y = 0;
      for (; i < arc_.ring_end[a]; ++i) {
        x += arc_.xyz[2 * i];
        y += arc_.xyz[2 * i + 1];
        arc_.xyz[2 * i] = x * scale_[0] + shift_[0];
        arc_.xyz[2 * i + 1] = y * scale_[1] + shift_[1];
      }
    }
  }

  // ---- objects ------------------------------------------------------------------------

  void object(bool collection) {
    if (text_.peek() != '{')
      text_.fail("an object is not a geometry", "see the TopoJSON specification, section 2.1.5");
    if (!collection) {
      feature();
      return;
    }
    text_.object([&](std::string_view key) {
      if (key != "geometries") {
        text_.raw_value();
        return;
      }
      if (text_.peek() != '[')
        text_.fail("\"geometries\" is not an array",
                   "see the TopoJSON specification, section 2.2.8");
      text_.array([&] { feature(); });
    });
  }

  void feature() {
    text_.feature = static_cast<long>(result_.features) + 1;
    writer_.clear();
    geometry(0);
    sink_.geometry(writer_.data(), writer_.size());
    ++result_.features;
    if ((result_.features & 255) == 0) sink_.progress(text_.share());
  }

  void geometry(int depth) {
    if (text_.peek() != '{')
      text_.fail("a geometry is not an object", "see the TopoJSON specification, section 2.2");
    if (depth > 16)
      text_.fail("geometry collections are nested too deep", "take the inner geometries out");
    Geometry g;
    text_.object([&](std::string_view key) {
      if (key == "type") {
        if (!(text_.peek() == 'n' && text_.is_null())) g.type = text_.text("type");
      } else if (key == "arcs") {
        g.has_arcs = true;
        references();
      } else if (key == "coordinates") {
        g.has_coordinates = true;
        Boundaries unseen;
        now_.read(text_, unseen);
      } else if (key == "geometries") {
        g.has_geometries = true;
        geometries(depth);
      } else if (key == "properties" && depth == 0)
        properties_.object(text_, result_.properties, result_.features);
      else if (key == "id" && depth == 0)
        properties_.id(text_, result_.id, result_.features);
      else
        text_.raw_value();
    });
    write_geometry(g);
  }

  void geometries(int depth) {
    if (text_.peek() != '[')
      text_.fail("\"geometries\" is not an array", "see the TopoJSON specification, section 2.2.8");
    WkbWriter outer;
    std::swap(outer, writer_);
    uint32_t n = 0;
    text_.array([&] {
      geometry(depth + 1);
      ++n;
    });
    outer.header(Shape::collection, false);
    outer.count(n);
    outer.append(writer_);
    writer_ = std::move(outer);
  }

  // The nested numbers of one "arcs" member.
  void references() {
    ref_.clear();
    ref_ring_.clear();
    ref_part_.clear();
    if (text_.peek() != '[')
      text_.fail("\"arcs\" is not an array", "see the TopoJSON specification, section 2.1.4");
    ref_depth_ = reference_level(0);
  }
  int reference_level(int above) {
    if (above > 3)
      text_.fail("\"arcs\" are nested deeper than any geometry",
                 "see the TopoJSON specification, section 2.1.4");
    int found = -1;
    text_.array([&] {
      int below = -1;
      if (text_.peek() == '[') {
        below = reference_level(above + 1);
      } else {
        double v = text_.number("arcs");
        double arc = v < 0 ? -v - 1 : v;
        if (!(arc < arc_.ring_end.size()) || arc != std::floor(arc))
          text_.fail("an arc is named that the file does not have",
                     "the file is damaged; fetch it again");
        ref_.push_back(static_cast<long>(v));
      }
      if (found >= 0 && below + 1 != found)
        text_.fail("\"arcs\" are nested unevenly", "see the TopoJSON specification, section 2.1.4");
      found = below + 1;
    });
    if (found == 0) ref_ring_.push_back(ref_.size());
    if (found == 1) ref_part_.push_back(ref_ring_.size());
    return found < 0 ? 0 : found;
  }

  // Arcs end to end, each without the point that it shares with the one before.
  void join(size_t from, size_t to) {
    size_t before = now_.positions();
    for (size_t i = from; i < to; ++i) {
      bool back = ref_[i] < 0;
      size_t arc = back ? -ref_[i] - 1 : ref_[i], start = arc ? arc_.ring_end[arc - 1] : 0,
             n = arc_.ring_end[arc] - start;
      const size_t first = now_.positions() > before ? 1 : 0;
      if (n > first) now_.add_run(&arc_.xyz[2 * start], n, first, back);
      // A few short lines of references could otherwise ask for any amount of memory.
      if (now_.positions() + result_.positions > 64 * arc_.positions() + 1000000)
        text_.fail("arcs are used again and again", "the file is damaged; fetch it again");
    }
    now_.see(before, result_);
  }

  void points() {
    for (size_t i = 0; i < now_.positions(); ++i) {
      double* p = &now_.xyz[now_.dims * i];
      if (quantised_) {
        p[0] = p[0] * scale_[0] + shift_[0];
        p[1] = p[1] * scale_[1] + shift_[1];
      }
      result_.see(p[0], p[1]);
    }
    result_.positions += now_.positions();
  }

  void write_geometry(const Geometry& g) {
    if (g.type == "GeometryCollection") {
      if (!g.has_geometries)
        text_.fail("the GeometryCollection has no \"geometries\"",
                   "see the TopoJSON specification, section 2.2.8");
      return;
    }
    if (g.type.empty()) return;  // a null geometry
    if (g.type == "Point" || g.type == "MultiPoint") {
      int want = g.type == "Point" ? 0 : 1;
      if (!g.has_coordinates)
        text_.fail("the " + g.type + " has no \"coordinates\"",
                   "the file may be cut off; fetch it again");
      if (now_.depth >= 0 && now_.depth != want)
        text_.fail("the coordinates of this " + g.type + " are nested " +
                       std::to_string(now_.depth) + " deep",
                   "the type or the brackets are wrong");
      points();
      now_.write(want ? Shape::multipoint : Shape::point, writer_);
      return;
    }
    static const struct {
      const char* name;
      Shape shape;
      int depth;
    } kinds[] = {{"LineString", Shape::line, 0},
                 {"MultiLineString", Shape::multiline, 1},
                 {"Polygon", Shape::polygon, 1},
                 {"MultiPolygon", Shape::multipolygon, 2}};
    for (const auto& kind : kinds) {
      if (g.type != kind.name) continue;
      if (!g.has_arcs)
        text_.fail("the " + g.type + " has no \"arcs\"", "the file may be cut off; fetch it again");
      if (!ref_.empty() && ref_depth_ != kind.depth)
        text_.fail("the arcs of this " + g.type + " are nested " + std::to_string(ref_depth_) +
                       " deep, not " + std::to_string(kind.depth),
                   "the type or the brackets are wrong");
      now_.clear();
      now_.dims = 2;
      for (size_t r = 0; r < ref_ring_.size(); ++r) {
        join(r ? ref_ring_[r - 1] : 0, ref_ring_[r]);
        now_.end_ring();
      }
      now_.part_end = ref_part_;
      result_.positions += now_.positions();
      now_.write(kind.shape, writer_);
      return;
    }
    text_.fail("\"" + g.type.substr(0, 60) + "\" is not a TopoJSON geometry", "capitals matter");
  }

  JsonText text_;
  GeometrySink& sink_;
  Boundaries result_;
  WkbWriter writer_;
  PropertyReader properties_;
  bool has_arcs_ = false;
  const char* transform_ = nullptr;
  std::vector<std::string> names_;
  std::vector<Object> objects_;
  double scale_[2] = {1, 1}, shift_[2] = {0, 0};
  bool quantised_ = false;
  Coordinates arc_, now_;
  std::vector<long> ref_;
  std::vector<size_t> ref_ring_, ref_part_;
  int ref_depth_ = -1;
};

}  // namespace

Boundaries read_topojson(JsonText text, const std::string& layer, const ColumnSet& limits,
                         GeometrySink& sink) {
  return Reader(std::move(text), limits, sink).read(layer);
}

}  // namespace ochre
