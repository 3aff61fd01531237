// Writes a made-up country of small areas that share wiggly borders: `make-large FILE AREAS
// VERTICES` writes FILE.geojson, and FILE.csv with what is counted in each of them. Always the
// same.
#include <cmath>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <string>
#include <vector>

namespace {

// A number from 0 to 1 that looks like chance, of two whole numbers and what is asked.
double chance(uint64_t a, uint64_t b, uint64_t what) {
  uint64_t h = a * 0x9e3779b97f4a7c15u ^ b * 0xc2b2ae3d27d4eb4fu ^ what * 0x165667b19e3779f9u;
  h ^= h >> 31;
  h *= 0xbf58476d1ce4e5b9u;
  h ^= h >> 29;
  h *= 0x94d049bb133111ebu;
  h ^= h >> 32;
  return static_cast<double>(h >> 11) / 9007199254740992.0;
}

struct Place {
  double x, y;
};

class Country {
 public:
  Country(uint64_t side, int edge) : side_(side), edge_(edge), cell_(8.0 / double(side)) {}

  Place corner(uint64_t i, uint64_t j) const {
    auto off = [&](uint64_t what) {
      return 0.4 * cell_ * (chance(i, j, what) - 0.5);
    };
    return {double(i) * cell_ + off(1), 44 + double(j) * cell_ + off(2)};
  }
  // The vertices of the edge to the right of a corner or above it, but for its last one.
  std::vector<Place> edge(uint64_t i, uint64_t j, bool up) const {
    const Place a = corner(i, j), b = up ? corner(i, j + 1) : corner(i + 1, j);
    std::vector<Place> out;
    double bend = 0;
    for (int k = 0; k < edge_; ++k) {
      const double t = double(k) / edge_;
      if (k) bend += 0.08 / std::sqrt(edge_) * (chance(i, j, 10 + 2 * uint64_t(k) + up) - 0.5);
      const double off = bend * (1 - t);
      out.push_back(
          {a.x + t * (b.x - a.x) - off * (b.y - a.y), a.y + t * (b.y - a.y) + off * (b.x - a.x)});
    }
    return out;
  }
  void ring(uint64_t i, uint64_t j, std::string& out) const {
    auto put = [&](Place p) {
      char text[48];
      out.append(text, size_t(std::snprintf(text, sizeof text, "[%.6f,%.6f],", p.x, p.y)));
    };
    auto forth = [&](const std::vector<Place>& run) {
      for (Place p : run)
        put(p);
    };
    auto back = [&](const std::vector<Place>& run, Place end) {
      put(end);
      for (size_t k = run.size() - 1; k > 0; --k)
        put(run[k]);
    };
    forth(edge(i, j, false));
    forth(edge(i + 1, j, true));
    back(edge(i, j + 1, false), corner(i + 1, j + 1));
    back(edge(i, j, true), corner(i, j + 1));
    put(corner(i, j));
    out.pop_back();
  }

 private:
  uint64_t side_;
  int edge_;
  double cell_;
};

}  // namespace

int main(int argc, char** argv) {
  if (argc != 4) return 2;
  const std::string stem = argv[1];
  const auto areas = std::strtoull(argv[2], nullptr, 10);
  const auto vertices = std::strtoull(argv[3], nullptr, 10);
  const auto side = static_cast<uint64_t>(std::ceil(std::sqrt(double(areas))));
  const Country country(side, int(std::fmax(1.0, double(vertices) / double(areas) / 4)));
  std::FILE* shapes = std::fopen((stem + ".geojson").c_str(), "w");
  std::FILE* counts = std::fopen((stem + ".csv").c_str(), "w");
  if (!shapes || !counts) return 1;
  std::fputs("{\"type\":\"FeatureCollection\",\"features\":[\n", shapes);
  std::fputs("code,cases,people\n", counts);
  std::string ring;
  for (uint64_t k = 0; k < areas; ++k) {
    const uint64_t i = k % side, j = k / side;
    ring.clear();
    country.ring(i, j, ring);
    std::fprintf(
        shapes,
        "%s{\"type\":\"Feature\",\"properties\":{\"code\":\"%07llu\",\"name\":\"Area %llu\"},"
        "\"geometry\":{\"type\":\"Polygon\",\"coordinates\":[[%s]]}}\n",
        k ? "," : "", static_cast<unsigned long long>(k), static_cast<unsigned long long>(k),
        ring.c_str());
    // Waves over the country, with chance on top.
    const double wave =
        2 + std::sin(9 * double(i) / double(side)) + std::cos(7 * double(j) / double(side));
    const int people = 200 + int(800 * chance(i, j, 3));
    std::fprintf(counts, "%07llu,%d,%d\n", static_cast<unsigned long long>(k),
                 int(people * 0.02 * wave * (0.5 + chance(i, j, 4))), people);
  }
  std::fputs("]}\n", shapes);
  return std::fclose(shapes) || std::fclose(counts);
}
