#include "unfold.hpp"

#include <algorithm>
#include <cmath>
#include <memory>

#include "predicates.hpp"
#include "rings.hpp"
#include "segment-grid.hpp"

namespace ochre {

namespace {

class Unfolder {
 public:
  Unfolder(const std::vector<Point>& vertex, const ArcNet& net, bool degrees, const std::vector<double>& weight, std::vector<uint8_t>& keep)
      : vertex_(vertex), net_(net), degrees_(degrees), weight_(weight), keep_(keep), grid_(frame(), segments()) {}

  size_t run(const std::function<void()>& pause) {
    size_t back = 0;
    note_pieces();
    for (;;) {
      pause();
      std::vector<uint32_t> bad;
      for (uint32_t s : fresh_) {
        if (!live_[s]) continue;
        find_crossings(s, bad);
        find_islands(s, bad);
      }
      fresh_.clear();
      for (uint32_t s : bad) if (live_[s]) back += split(s);
      if (fresh_.empty()) return back;
    }
  }

 private:
  struct Segment { uint32_t a, b; };  // positions in net.vertex of one arc; b - a > 1 hides vertices

  const Point& at(uint32_t i) const { return vertex_[net_.vertex[i]]; }
  bool hides(uint32_t s) const { return segment_[s].b - segment_[s].a > 1; }

  Box frame() const {
    Box b;
    for (uint32_t v : net_.vertex) b.add(vertex_[v].x, vertex_[v].y);
    return b;
  }
  size_t segments() const { return std::count(keep_.begin(), keep_.end(), 1); }

  void add(uint32_t a, uint32_t b) {
    if (degrees_ && std::fabs(at(a).x - at(b).x) > 180) return;
    uint32_t s = static_cast<uint32_t>(segment_.size());
    segment_.push_back({a, b});
    live_.push_back(true);
    grid_.add(s, at(a), at(b));
    fresh_.push_back(s);
  }

  // The segments, and one vertex of each piece of land that hangs together: whether it lies on
  // the right side is asked for that vertex only, because a piece that crosses nothing lies on
  // one side as a whole.
  void note_pieces() {
    std::vector<uint32_t> root(vertex_.size());
    for (uint32_t i = 0; i < root.size(); ++i) root[i] = i;
    auto find = [&](uint32_t v) {
      while (root[v] != v) v = root[v] = root[root[v]];
      return v;
    };
    for (size_t a = 0; a < net_.arcs(); ++a) {
      uint32_t from = static_cast<uint32_t>(net_.arc_from(a)), to = static_cast<uint32_t>(net_.arc_end[a]), last = from;
      root[find(net_.vertex[from])] = find(net_.vertex[to - 1]);
      for (uint32_t i = from + 1; i < to; ++i) {
        if (!keep_[i]) continue;
        add(last, i);
        last = i;
      }
    }
    std::vector<Box> boxes;
    std::vector<uint8_t> seen(vertex_.size(), 0);
    for (size_t a = 0; a < net_.arcs(); ++a) {
      uint32_t v = net_.vertex[net_.arc_from(a)], r = find(v);
      if (seen[r]) continue;
      seen[r] = 1;
      piece_.push_back(v);
      piece_root_.push_back(r);
      boxes.emplace_back();
      boxes.back().add(vertex_[v].x, vertex_[v].y);
    }
    pieces_.reset(new BoxTree(boxes));
    root_.resize(vertex_.size());
    for (uint32_t i = 0; i < root.size(); ++i) root_[i] = find(i);
  }

  void find_crossings(uint32_t s, std::vector<uint32_t>& bad) {
    Point a = at(segment_[s].a), b = at(segment_[s].b);
    bool own = false;
    grid_.search(a, b, 0, [&](uint32_t t) {
      if (t == s || !live_[t] || !(hides(s) || hides(t))) return;
      Point c = at(segment_[t].a), d = at(segment_[t].b);
      if (std::max(a.x, b.x) < std::min(c.x, d.x) || std::max(c.x, d.x) < std::min(a.x, b.x) ||
          std::max(a.y, b.y) < std::min(c.y, d.y) || std::max(c.y, d.y) < std::min(a.y, b.y)) return;
      Meeting m = meeting(a, b, c, d);
      if (m == Meeting::none || m == Meeting::ends) return;
      own = true;
      if (hides(t)) bad.push_back(t);
    });
    if (own && hides(s)) bad.push_back(s);
  }

  // Pieces that lie between a segment and the border that it stands for.
  void find_islands(uint32_t s, std::vector<uint32_t>& bad) {
    if (!hides(s)) return;
    Segment g = segment_[s];
    Box box;
    for (uint32_t i = g.a; i <= g.b; ++i) box.add(at(i).x, at(i).y);
    bool wrong = false;
    std::vector<Point> ring;
    uint32_t own = root_[net_.vertex[g.a]];
    pieces_->search(box, [&](uint32_t k) {
      if (piece_root_[k] == own) return true;
      if (ring.empty()) {
        for (uint32_t i = g.a; i <= g.b; ++i) ring.push_back(at(i));
        ring.push_back(ring.front());
      }
      Point p = vertex_[piece_[k]];
      wrong = in_ring(ring.data(), ring.size(), p.x, p.y);
      return !wrong;
    });
    if (wrong) bad.push_back(s);
  }

  size_t split(uint32_t s) {
    Segment g = segment_[s];
    if (g.b - g.a < 2) return 0;
    uint32_t best = g.a + 1;
    for (uint32_t i = best + 1; i < g.b; ++i) if (weight_[i] > weight_[best]) best = i;
    live_[s] = false;
    keep_[best] = 1;
    add(g.a, best);
    add(best, g.b);
    return 1;
  }

  const std::vector<Point>& vertex_;
  const ArcNet& net_;
  bool degrees_;
  const std::vector<double>& weight_;
  std::vector<uint8_t>& keep_;
  SegmentGrid grid_;
  std::vector<Segment> segment_;
  std::vector<bool> live_;
  std::vector<uint32_t> fresh_, piece_, piece_root_, root_;
  std::unique_ptr<BoxTree> pieces_;
};

}  // namespace

size_t unfold(const std::vector<Point>& vertex, const ArcNet& net, bool degrees, const std::vector<double>& weight, std::vector<uint8_t>& keep,
              const std::function<void()>& pause) {
  return Unfolder(vertex, net, degrees, weight, keep).run(pause);
}

}  // namespace ochre
