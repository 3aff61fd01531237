#include "arcs.hpp"

#include <algorithm>

namespace ochre {

namespace {

constexpr uint32_t kNobody = 0xffffffffu;  // the neighbour beyond the end of a line
constexpr uint32_t kUnseen = 0xfffffffeu;

// What is known of each vertex's surroundings.
class Surroundings {
 public:
  explicit Surroundings(size_t n) : before_(n, kUnseen), after_(n, kUnseen), junction_(n, 0) {}

  // A closed run's first vertex is met once, with its true neighbours.
  void see(const uint32_t* p, size_t n, bool closed) {
    if (n == 1) {
      visit(p[0], kNobody, kNobody);
      return;
    }
    size_t distinct = closed ? n - 1 : n;
    for (size_t i = 0; i < distinct; ++i)
      visit(p[i], i > 0 ? p[i - 1] : closed ? p[n - 2] : kNobody, i + 1 < n ? p[i + 1] : kNobody);
  }
  bool junction(uint32_t v) const { return junction_[v]; }

 private:
  void visit(uint32_t v, uint32_t before, uint32_t after) {
    if (before > after) std::swap(before, after);
    if (before_[v] == kUnseen) {
      before_[v] = before;
      after_[v] = after;
      junction_[v] = after == kNobody;
    } else if (before_[v] != before || after_[v] != after) {
      junction_[v] = 1;
    }
  }
  std::vector<uint32_t> before_, after_;
  std::vector<uint8_t> junction_;
};

// The arcs found so far; asked for a run of vertices it answers with its number.
class ArcTable {
 public:
  explicit ArcTable(ArcNet& out) : out_(out), slots_(64, -1) {}

  // An arc is stored in the direction in which it is met first.
  int32_t add(const std::vector<uint32_t>& run) {
    bool forward = canonical(run);
    uint64_t hash = 1469598103934665603ull;
    for (size_t i = 0; i < run.size(); ++i)
      hash = mix(hash ^ run[forward ? i : run.size() - 1 - i]);
    if (2 * (hashes_.size() + 1) > slots_.size()) grow();
    size_t mask = slots_.size() - 1, at = hash & mask;
    for (; slots_[at] >= 0; at = (at + 1) & mask) {
      int32_t arc = slots_[at];
      if (hashes_[arc] != hash) continue;
      if (same(arc, run, false)) return arc;
      if (same(arc, run, true)) return ~arc;
    }
    int32_t arc = static_cast<int32_t>(hashes_.size());
    slots_[at] = arc;
    hashes_.push_back(hash);
    out_.vertex.insert(out_.vertex.end(), run.begin(), run.end());
    out_.arc_end.push_back(out_.vertex.size());
    return arc;
  }

 private:
  static bool canonical(const std::vector<uint32_t>& run) {
    for (size_t i = 0, j = run.size() - 1; i < j; ++i, --j)
      if (run[i] != run[j]) return run[i] < run[j];
    return true;
  }
  bool same(int32_t arc, const std::vector<uint32_t>& run, bool backwards) const {
    size_t from = out_.arc_from(arc), n = out_.arc_end[arc] - from;
    if (n != run.size()) return false;
    for (size_t i = 0; i < n; ++i)
      if (out_.vertex[from + i] != run[backwards ? n - 1 - i : i]) return false;
    return true;
  }
  void grow() {
    std::vector<int32_t> old(slots_.size() * 4, -1);
    old.swap(slots_);
    size_t mask = slots_.size() - 1;
    for (int32_t arc : old) {
      if (arc < 0) continue;
      size_t at = hashes_[arc] & mask;
      while (slots_[at] >= 0)
        at = (at + 1) & mask;
      slots_[at] = arc;
    }
  }
  ArcNet& out_;
  std::vector<int32_t> slots_;
  std::vector<uint64_t> hashes_;
};

// A ring is cut from junction to junction. One without a junction starts at its least vertex, so
// that the same ring met again (an enclave and the hole it fills) gives the same arc.
void cut_run(const uint32_t* p, size_t n, bool closed, const Surroundings& around, ArcTable& arcs,
             std::vector<int32_t>& out) {
  std::vector<uint32_t> turned, run;
  if (closed && n > 1) {
    size_t start = n;
    for (size_t i = 0; i + 1 < n && start == n; ++i)
      if (around.junction(p[i])) start = i;
    if (start == n) start = std::min_element(p, p + n - 1) - p;
    turned.reserve(n);
    for (size_t i = 0; i < n; ++i)
      turned.push_back(p[(start + i) % (n - 1)]);
    p = turned.data();
  }
  run.push_back(p[0]);
  for (size_t i = 1; i < n; ++i) {
    run.push_back(p[i]);
    if (i + 1 == n || around.junction(p[i])) {
      out.push_back(arcs.add(run));
      run.assign(1, p[i]);
    }
  }
  if (n == 1) out.push_back(arcs.add(run));
}

}  // namespace

ArcNet find_arcs(const Runs& runs, size_t vertices) {
  ArcNet net;
  Surroundings around(vertices);
  for (size_t r = 0; r < runs.end.size(); ++r)
    if (runs.end[r] > runs.from(r))
      around.see(runs.vertex.data() + runs.from(r), runs.end[r] - runs.from(r), runs.closed[r]);
  ArcTable arcs(net);
  net.run_end.reserve(runs.end.size());
  for (size_t r = 0; r < runs.end.size(); ++r) {
    if (runs.end[r] > runs.from(r))
      cut_run(runs.vertex.data() + runs.from(r), runs.end[r] - runs.from(r), runs.closed[r], around,
              arcs, net.run_arc);
    net.run_end.push_back(net.run_arc.size());
  }
  return net;
}

BorderNet border_net(const FlatLayer& layer) {
  BorderNet out;
  VertexIndex<Point> index(layer.points.size());
  Runs runs;
  runs.vertex.reserve(layer.points.size());
  for (size_t p = 0; p < layer.part_end.size(); ++p) {
    bool polygon = layer.part_shape[p] == Shape::polygon;
    for (size_t r = layer.first_ring(p); r < layer.part_end[p]; ++r) {
      size_t start = runs.vertex.size();
      const Point* q = layer.ring(r);
      for (size_t i = 0; i < layer.ring_size(r) && layer.part_shape[p] != Shape::point; ++i) {
        uint32_t v = index.number(q[i]);
        if (runs.vertex.size() == start || runs.vertex.back() != v) runs.vertex.push_back(v);
      }
      if (polygon && runs.vertex.size() > start) {
        while (runs.vertex.size() > start + 1 && runs.vertex.back() == runs.vertex[start])
          runs.vertex.pop_back();
        runs.vertex.push_back(runs.vertex[start]);
      }
      runs.end.push_back(runs.vertex.size());
      runs.closed.push_back(polygon);
    }
  }
  out.net = find_arcs(runs, index.points.size());
  out.vertex = std::move(index.points);
  return out;
}

}  // namespace ochre
