#include "vertex-levels.hpp"

#include <algorithm>
#include <cmath>

#include "least-first.hpp"
#include "share-out.hpp"

namespace ochre {

namespace {

constexpr int kDeepest = 30;

double triangle(GridPoint a, GridPoint b, GridPoint c) {
  const double ux = double(b.x) - a.x, uy = double(b.y) - a.y;
  const double vx = double(c.x) - a.x, vy = double(c.y) - a.y;
  return std::fabs(ux * vy - uy * vx) / 2;
}

class ArcLevels {
 public:
  explicit ArcLevels(double pixel) : least_(pixel * pixel / 2) {}

  void find(const GridPoint* p, size_t n, uint8_t* level) {
    std::fill(level, level + n, uint8_t{0});
    // A ring of one arc keeps a triangle.
    const size_t stay = n > 1 && p[0] == p[n - 1] ? 4 : 2;
    if (n <= stay) return;
    before_.resize(n);
    after_.resize(n);
    LeastFirst turn(n);
    for (size_t i = 1; i + 1 < n; ++i) {
      before_[i] = i - 1;
      after_[i] = i + 1;
      turn.put(static_cast<uint32_t>(i), triangle(p[i - 1], p[i], p[i + 1]));
    }
    double reached = 0;
    for (size_t left = n; left > stay; --left) {
      const LeastFirst::Entry least = turn.pop();
      reached = std::max(reached, least.weight);
      level[least.item] = level_of(reached);
      const size_t a = before_[least.item], b = after_[least.item];
      if (a > 0) weigh(p, a, before_[a], b, turn), after_[a] = b;
      if (b + 1 < n) weigh(p, b, a, after_[b], turn), before_[b] = a;
    }
  }

 private:
  static void weigh(const GridPoint* p, size_t at, size_t before, size_t after, LeastFirst& turn) {
    turn.put(static_cast<uint32_t>(at), triangle(p[before], p[at], p[after]));
  }
  // The first level whose half square of a pixel is no larger.
  uint8_t level_of(double area) const {
    int level = 0;
    for (double wanted = least_; wanted > area && level < kDeepest; wanted /= 4)
      ++level;
    return static_cast<uint8_t>(level);
  }

  double least_;
  std::vector<size_t> before_, after_;
};

}  // namespace

std::vector<uint8_t> vertex_levels(const Topology& t, double pixel) {
  std::vector<uint8_t> out(t.points.size());
  share_out(t.arc_end.size(), 4096, [&](size_t from, size_t to) {
    ArcLevels levels(pixel);
    for (size_t a = from; a < to; ++a) {
      pulse();
      const size_t start = a ? t.arc_end[a - 1] : 0;
      levels.find(t.points.data() + start, t.arc_end[a] - start, out.data() + start);
    }
  });
  return out;
}

}  // namespace ochre
