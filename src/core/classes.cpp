#include "classes.hpp"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <limits>

namespace ochre {

namespace {

// A number as the unevaluated sum of two doubles (Dekker 1971; Knuth's two-sum).
struct Wide {
  double high = 0, low = 0;
};
Wide two_sum(double a, double b) {
  double s = a + b, t = s - a;
  return {s, (a - (s - t)) + (b - t)};
}
Wide two_product(double a, double b) {
  double p = a * b;
  return {p, std::fma(a, b, -p)};
}
Wide add(Wide a, Wide b) {
  Wide s = two_sum(a.high, b.high);
  return two_sum(s.high, s.low + a.low + b.low);
}
Wide minus(Wide a, Wide b) {
  return add(a, {-b.high, -b.low});
}

struct Prefix {
  std::vector<double> weight;
  std::vector<Wide> sum, square;

  explicit Prefix(const DistinctView& d) {
    size_t n = d.size;
    weight.resize(n + 1);
    sum.resize(n + 1);
    square.resize(n + 1);
    double centre = d.value[n / 2];
    for (size_t i = 0; i < n; ++i) {
      Wide v = two_sum(d.value[i], -centre);
      double w = d.weight[i];
      Wide wv = two_product(w, v.high);
      wv.low += w * v.low;
      Wide wvv = two_product(wv.high, v.high);
      wvv.low += wv.low * v.high + wv.high * v.low;
      weight[i + 1] = weight[i] + w;
      sum[i + 1] = add(sum[i], wv);
      square[i + 1] = add(square[i], wvv);
    }
  }
  // Squared deviations of values from..to-1 from their mean: Σv² - (Σv)²/w.
  double cost(size_t from, size_t to) const {
    if (to <= from + 1) return 0;
    Wide s = minus(sum[to], sum[from]);
    double w = weight[to] - weight[from], mean = s.high / w;
    Wide m = two_product(mean, s.high), rest = two_product(-mean, w);
    // (Σv)²/w = mean·Σv + (Σv - mean·w)·mean, the second term being the rounding of the mean.
    double left = ((s.high + rest.high) + rest.low) + s.low;
    Wide q = minus(minus(square[to], square[from]), m);
    return std::max(0.0, q.high + (q.low - mean * s.low - left * mean));
  }
};

constexpr double kInfinite = std::numeric_limits<double>::infinity();

// One layer of the recurrence on candidate positions:
// next[b] = min over a, pos[a] <= pos[b], of last[a] + cost(pos[a], pos[b]).
struct Layer {
  const Prefix& prefix;
  const std::vector<size_t>& from;
  const std::vector<double>& last;
  const std::vector<size_t>& to;
  std::vector<double> next;
  std::vector<uint32_t> choice;

  void solve(size_t lo, size_t hi, size_t from_lo, size_t from_hi) {
    if (lo >= hi) return;
    size_t mid = lo + (hi - lo) / 2, best = from_lo;
    double least = kInfinite;
    for (size_t a = from_lo; a < from_hi && from[a] < to[mid]; ++a) {
      double c = last[a] + prefix.cost(from[a], to[mid]);
      if (c < least) {
        least = c;
        best = a;
      }
    }
    next[mid] = least;
    choice[mid] = static_cast<uint32_t>(best);
    bool reached = least < kInfinite;
    solve(lo, mid, from_lo, reached ? best + 1 : from_hi);
    solve(mid + 1, hi, reached ? best : from_lo, from_hi);
  }
};

// The exact optimum with break q (q = 1 … k-1) at one of places[q-1], n being the end.
std::vector<size_t> best_breaks(const Prefix& prefix, std::vector<std::vector<size_t>> places,
                                size_t n) {
  places.insert(places.begin(), {0});
  places.push_back({n});
  size_t k = places.size() - 1;
  std::vector<double> last{0};
  std::vector<std::vector<uint32_t>> choice(k + 1);
  for (size_t q = 1; q <= k; ++q) {
    Layer layer{prefix, places[q - 1], last, places[q], {}, {}};
    layer.next.assign(places[q].size(), kInfinite);
    layer.choice.assign(places[q].size(), 0);
    layer.solve(0, places[q].size(), 0, places[q - 1].size());
    last.swap(layer.next);
    choice[q].swap(layer.choice);
  }
  std::vector<size_t> breaks(k - 1);
  size_t at = 0;
  for (size_t q = k; q > 1; --q) {
    at = choice[q][at];
    breaks[q - 2] = places[q - 1][at];
  }
  return breaks;
}

std::vector<size_t> range(size_t from, size_t to) {
  std::vector<size_t> out;
  out.reserve(to > from ? to - from : 0);
  for (size_t i = from; i < to; ++i)
    out.push_back(i);
  return out;
}

double total_cost(const Prefix& prefix, const std::vector<size_t>& breaks, size_t n) {
  double sum = 0;
  size_t from = 0;
  for (size_t b : breaks) {
    sum += prefix.cost(from, b);
    from = b;
  }
  return sum + prefix.cost(from, n);
}

// Lower bounds by layer: reach[q][b] is at most the cost of the values before block b split
// by q breaks of which the last lies in block b. A class from a break in block a to a break
// in block b costs at least what the blocks strictly between them cost.
using Bounds = std::vector<std::vector<double>>;

void bound_layer(const Prefix& prefix, const std::vector<size_t>& edge,
                 const std::vector<double>& last, std::vector<double>& next, size_t lo, size_t hi,
                 size_t from_lo, size_t from_hi, bool leftwards) {
  if (lo >= hi) return;
  size_t mid = lo + (hi - lo) / 2, best = leftwards ? mid : from_lo;
  double least = kInfinite;
  size_t first = leftwards ? std::max(mid, from_lo) : from_lo;
  size_t end = leftwards ? from_hi : std::min(mid + 1, from_hi);
  for (size_t a = first; a < end; ++a) {
    double between = a == mid    ? 0
                     : leftwards ? prefix.cost(edge[mid + 1], edge[a])
                                 : prefix.cost(edge[a + 1], edge[mid]);
    double c = last[a] + between;
    if (c < least) {
      least = c;
      best = a;
    }
  }
  next[mid] = least;
  bound_layer(prefix, edge, last, next, lo, mid, from_lo, best + 1, leftwards);
  bound_layer(prefix, edge, last, next, mid + 1, hi, best, from_hi, leftwards);
}

Bounds bounds(const Prefix& prefix, const std::vector<size_t>& edge, size_t breaks,
              bool leftwards) {
  size_t blocks = edge.size() - 1;
  Bounds out(breaks, std::vector<double>(blocks, kInfinite));
  for (size_t b = 0; b < blocks; ++b)
    out[0][b] = leftwards ? prefix.cost(edge[b + 1], edge[blocks]) : prefix.cost(0, edge[b]);
  for (size_t q = 1; q < breaks; ++q)
    bound_layer(prefix, edge, out[q - 1], out[q], 0, blocks, 0, blocks, leftwards);
  return out;
}

// Blocks that are even in rank, in value and in squared distance from the middle at once: a
// block that is left out of a lower bound should take little away from it.
constexpr size_t kBlocks = 4096;
std::vector<size_t> block_edges(const DistinctView& data, const Prefix& prefix) {
  size_t n = data.size;
  double least = data.value[0], span = data.value[n - 1] - least;
  auto measure = [&](size_t i) {
    double value = i < n ? (data.value[i] - least) / span : 1;
    return (static_cast<double>(i) / n + value + prefix.square[i].high / prefix.square[n].high) / 3;
  };
  std::vector<size_t> edge{0};
  double next = 1;
  for (size_t i = 1; i < n; ++i) {
    double at = measure(i + 1) * kBlocks;
    if (at < next) continue;
    edge.push_back(i);
    next = std::floor(at) + 1;
  }
  edge.push_back(n);
  return edge;
}

std::vector<std::vector<size_t>> possible_places(const DistinctView& data, const Prefix& prefix,
                                                 size_t breaks) {
  size_t n = data.size;
  if (n <= 2 * kBlocks) return std::vector<std::vector<size_t>>(breaks, range(1, n));
  std::vector<size_t> edge = block_edges(data, prefix);
  const size_t blocks = edge.size() - 1;
  std::vector<size_t> inner(edge.begin() + 1, edge.end() - 1);
  double upper = total_cost(
      prefix, best_breaks(prefix, std::vector<std::vector<size_t>>(breaks, inner), n), n);
  upper *= 1 + 1e-9;
  Bounds before = bounds(prefix, edge, breaks, false), after = bounds(prefix, edge, breaks, true);
  std::vector<std::vector<size_t>> places(breaks);
  for (size_t q = 0; q < breaks; ++q)
    for (size_t b = 0; b < blocks; ++b)
      if (before[q][b] + after[breaks - 1 - q][b] <= upper)
        for (size_t i = edge[b]; i < edge[b + 1]; ++i)
          if (i > 0) places[q].push_back(i);
  return places;
}

uint64_t sortable(double v) {
  uint64_t bits;
  std::memcpy(&bits, &v, 8);
  return bits ^ ((bits >> 63) ? ~0ull : 0x8000000000000000ull);
}
double unsortable(uint64_t bits) {
  bits ^= (bits >> 63) ? 0x8000000000000000ull : ~0ull;
  double v;
  std::memcpy(&v, &bits, 8);
  return v;
}

}  // namespace

// Least-significant-digit radix sort on 11 bits; passes in which all digits agree are left out.
void sort_doubles(std::vector<double>& values) {
  size_t n = values.size();
  if (n < 2048) {
    std::sort(values.begin(), values.end());
    return;
  }
  std::vector<uint64_t> keys(n), other(n);
  std::vector<size_t> counts(size_t{6} * 2048, 0);
  for (size_t i = 0; i < n; ++i) {
    uint64_t key = keys[i] = sortable(values[i]);
    for (size_t d = 0; d < 6; ++d)
      ++counts[d * 2048 + ((key >> (11 * d)) & 2047)];
  }
  for (size_t d = 0; d < 6; ++d) {
    size_t* count = &counts[d * 2048];
    if (count[(keys[0] >> (11 * d)) & 2047] == n) continue;
    for (size_t i = 0, at = 0; i < 2048; ++i) {
      size_t c = count[i];
      count[i] = at;
      at += c;
    }
    for (uint64_t key : keys)
      other[count[(key >> (11 * d)) & 2047]++] = key;
    keys.swap(other);
  }
  for (size_t i = 0; i < n; ++i)
    values[i] = unsortable(keys[i]);
}

Distinct distinct_values(std::vector<double> values) {
  for (double& v : values)
    v += 0.0;  // -0 and 0 are one value
  sort_doubles(values);
  Distinct out;
  out.value.reserve(values.size());
  out.weight.reserve(values.size());
  for (double v : values) {
    if (out.value.empty() || out.value.back() != v) {
      out.value.push_back(v);
      out.weight.push_back(1);
    } else {
      out.weight.back() += 1;
    }
  }
  return out;
}

std::vector<size_t> natural_starts(const DistinctView& data, int k) {
  size_t n = data.size, classes = std::min<size_t>(k < 1 ? 1 : k, n);
  if (classes < 2) return {};
  Prefix prefix(data);
  return best_breaks(prefix, possible_places(data, prefix, classes - 1), n);
}

ClassSums class_sums(const DistinctView& data, const std::vector<size_t>& starts) {
  ClassSums out;
  for (size_t c = 0; c <= starts.size(); ++c) {
    size_t from = c ? starts[c - 1] : 0, to = c < starts.size() ? starts[c] : data.size;
    double count = 0, sum = 0, squares = 0, origin = data.value[from];
    for (size_t i = from; i < to; ++i) {
      count += data.weight[i];
      sum += data.weight[i] * (data.value[i] - origin);
    }
    double mean = origin + sum / count;
    for (size_t i = from; i < to; ++i)
      squares += data.weight[i] * (data.value[i] - mean) * (data.value[i] - mean);
    out.count.push_back(count);
    out.mean.push_back(mean);
    out.squares.push_back(squares);
  }
  return out;
}

}  // namespace ochre
