// Reading GeoJSON: what is written comes back, and what is broken is refused with a place.
#include <doctest/doctest.h>
#include <cmath>
#include <cstdio>
#include <cstring>
#include <random>
#include <sstream>

#include "decimal-text.hpp"
#include "geojson.hpp"
#include "numbers.hpp"
#include "wkb.hpp"

using namespace ochre;

namespace {

struct Sink : GeometrySink {
  std::vector<std::vector<uint8_t>> wkb;
  void geometry(const uint8_t* data, size_t size) override { wkb.emplace_back(data, data + size); }
};

// Walks well-known binary into nested text without the type's name: "P(1 2)" "L(0 0,1 1)".
struct Spell {
  std::string out;
  size_t left = 0;
  void part(Shape s) { out += s == Shape::polygon ? "A" : s == Shape::line ? "L" : "P"; }
  void ring(size_t n) {
    out += "(";
    left = n;
    if (!n) out += ")";
  }
  void coordinate(double x, double y) {
    char b[64];
    std::snprintf(b, sizeof b, "%g %g%s", x, y, --left ? "," : ")");
    out += b;
  }
};

std::string spell(const std::vector<uint8_t>& wkb) {
  Spell s;
  walk_wkb(wkb.data(), wkb.size(), s);
  return s.out;
}

Boundaries read(const std::string& text, Sink& sink) {
  return read_json(FileText(text.data(), text.size()), "", sink);
}
FileError refused(const std::string& text) {
  Sink sink;
  try {
    read(text, sink);
  } catch (const FileError& e) {
    return e;
  }
  FAIL("was not refused: " << text);
  return FileError("", "");
}
std::string cell(const Column& c, size_t row) {
  if (c.kind == Column::Kind::text)
    return c.text_size[row] == Column::kMissing
               ? "NA"
               : c.pool.substr(c.text_start[row], c.text_size[row]);
  std::ostringstream s;
  s << c.numbers[row];
  return std::isnan(c.numbers[row]) ? "NA" : s.str();
}

const char* kEverything = R"({"features":[
 {"type":"Feature","geometry":{"type":"Point","coordinates":[1,2]},"properties":{"a":1,"b":{"c":"x","d":[1, 2]}},"id":"p"},
 {"id":7,"properties":null,"geometry":{"coordinates":[[0,0],[1,1]],"type":"LineString"},"type":"Feature"},
 {"type":"Feature","geometry":null,"properties":{"a":2.5,"big":12345678901234567890}},
 {"type":"Feature","geometry":{"type":"Polygon","coordinates":[[[0,0],[4,0],[4,4],[0,0]],[[1,1],[2,1],[2,2],[1,1]]]},"properties":{"a":"é\u00e9"}},
 {"type":"Feature","geometry":{"type":"MultiPoint","coordinates":[[1,2,9],[3,4,9]]},"properties":{"flag":true}},
 {"type":"Feature","geometry":{"type":"MultiLineString","coordinates":[[[0,0],[1,1]],[[5,5],[6,6]]]},"properties":{}},
 {"type":"Feature","geometry":{"type":"MultiPolygon","coordinates":[[[[0,0],[1,0],[1,1],[0,0]]],[[[5,5],[6,5],[6,6],[5,5]]]]},"properties":{}},
 {"type":"Feature","geometry":{"type":"GeometryCollection","geometries":[{"type":"Point","coordinates":[1,1]},{"type":"GeometryCollection","geometries":[{"type":"LineString","coordinates":[[0,0],[2,2]]}]}]},"properties":{}},
 {"type":"Feature","geometry":{"type":"Polygon","coordinates":[]},"properties":{}}
],"extra":{"x":[1,{"y":2}]},"type":"FeatureCollection"})";

}  // namespace

TEST_CASE("every geometry type, null geometry and members in any order are read") {
  Sink sink;
  Boundaries r = read(kEverything, sink);
  std::vector<std::string> want = {"P(1 2)",
                                   "L(0 0,1 1)",
                                   "",
                                   "A(0 0,4 0,4 4,0 0)(1 1,2 1,2 2,1 1)",
                                   "P(1 2)P(3 4)",
                                   "L(0 0,1 1)L(5 5,6 6)",
                                   "A(0 0,1 0,1 1,0 0)A(5 5,6 5,6 6,5 5)",
                                   "P(1 1)L(0 0,2 2)",
                                   "A"};
  REQUIRE(r.features == want.size());
  for (size_t i = 0; i < want.size(); ++i)
    CHECK((sink.wkb[i].empty() ? "" : spell(sink.wkb[i])) == want[i]);
}

TEST_CASE("properties become columns, widened only where a value does not fit") {
  Sink sink;
  Boundaries r = read(kEverything, sink);
  auto column = [&](const std::string& name) -> const Column& {
    for (auto& c : r.properties.columns)
      if (c.name == name) return c;
    FAIL("no column " << name);
    return r.id;
  };
  CHECK(column("a").kind == Column::Kind::text);
  CHECK(cell(column("a"), 0) == "1");
  CHECK(cell(column("a"), 1) == "NA");
  CHECK(cell(column("a"), 2) == "2.5");
  CHECK(cell(column("a"), 3) == "éé");
  CHECK(cell(column("b.c"), 0) == "x");
  CHECK(cell(column("b.d"), 0) == "[1, 2]");
  CHECK(cell(column("big"), 2) == "12345678901234567890");
  CHECK(column("flag").kind == Column::Kind::logical);
  CHECK(cell(r.id, 0) == "p");
  CHECK(cell(r.id, 1) == "7");
  CHECK(cell(r.id, 2) == "NA");
}

TEST_CASE("what JSON forbids is refused inside of arrays too, at its place") {
  for (const char* bad : {"[-01]", "[1,,2]", "[NaN]", "[01]", "[1.]", "[.5]", "[+1]", "[1 2]",
                          "[tru]", "{\"k\":[-01]}", "-01", "01", "1.", "NaN", "+1"}) {
    std::string text =
        "{\"type\":\"Feature\",\"geometry\":null,\n\"properties\":{\"a\":" + std::string(bad) +
        "}}";
    INFO(bad);
    CHECK(refused(text).line == 2);
  }
  Sink sink;
  Boundaries r = read(
      "{\"type\":\"Feature\",\"geometry\":null,\"properties\":{\"a\":[1, -0.5e3, {\"b\": null}]}}",
      sink);
  CHECK(cell(r.properties.columns[0], 0) == "[1, -0.5e3, {\"b\": null}]");
}

TEST_CASE("numbers are read as the standard library reads them, to the last bit") {
  std::mt19937_64 random(3);
  auto same = [](const std::string& text) {
    std::string padded = text + std::string(16, '\0');
    const char* p = padded.c_str();
    double v = 0;
    REQUIRE_MESSAGE(read_number(p, v), text);
    CHECK_MESSAGE(p == padded.c_str() + text.size(), text);
    CHECK_MESSAGE(v == std::strtod(text.c_str(), nullptr), text);
  };
  for (int i = 0; i < 20000; ++i) {
    char b[64];
    double v;
    uint64_t bits = random();
    std::memcpy(&v, &bits, 8);
    if (!std::isfinite(v)) continue;
    std::snprintf(b, sizeof b, i % 3 ? "%.*g" : "%.*e", 1 + int(random() % 19), v);
    std::string text = b;
    if (text.find("+") != text.npos) text.erase(text.find("+"), 1);
    same(text);
    std::snprintf(b, sizeof b, "%.*f", int(random() % 12), std::remainder(v, 360));
    same(b);
  }
  for (const char* text :
       {"0", "-0", "-0.0", "9007199254740993", "123456789012345678901234567890", "1e400", "1e-400",
        "0.000000000000000000000000000001", "179.99999999999999999"})
    same(text);
  for (const char* text : {"", "-", ".5", "01", "1.", "1e", "+1", "e5", "nan"}) {
    std::string padded = std::string(text) + std::string(16, '\0');
    const char* p = padded.c_str();
    double v;
    CHECK_FALSE_MESSAGE(read_number(p, v), text);
  }
}

TEST_CASE("decimals are written rounded, without zeros, and read back as the nearest") {
  auto put = [](double v, int digits) {
    char b[DecimalText::kRoom];
    return std::string(b, DecimalText(digits).put(b, v));
  };
  CHECK(put(-12.5, 7) == "-12.5");
  CHECK(put(0.00000004, 7) == "0");
  CHECK(put(-0.00000006, 7) == "-0.0000001");
  CHECK(put(100, 0) == "100");
  CHECK(put(0.1, -1) == "0.1");
  CHECK(put(1e300, 7) == "1e+300");
  std::mt19937 random(5);
  std::uniform_real_distribution<double> u(-180, 180);
  for (int i = 0; i < 20000; ++i) {
    int digits = i % 13;
    double v = u(random);
    CHECK(std::fabs(std::strtod(put(v, digits).c_str(), nullptr) - v) <=
          0.5 / DecimalText(digits).unit() + 6e-14);
    CHECK(std::strtod(put(v, -1).c_str(), nullptr) == v);
    // Where the standard library cannot write the shortest, trial does.
    char b[32];
    std::string tried(b, numbers::put_by_trial(b, sizeof b, v));
    CHECK(std::strtod(tried.c_str(), nullptr) == v);
    CHECK(tried.size() == put(v, -1).size());
  }
}
