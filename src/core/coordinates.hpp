// The numbers of one geometry: read from the nested arrays of GeoJSON, or filled by another
// reader, and written as well-known binary. The buffers are kept from one geometry to the next.
#pragma once
#include <algorithm>
#include <cstddef>
#include <string>
#include <vector>

#include "boundaries.hpp"
#include "json-text.hpp"
#include "wkb.hpp"

namespace ochre {

class Coordinates {
 public:
  void clear();
  // The array at the cursor, read and seen by `into` (extent, count).
  void read(JsonText& text, Boundaries& into);

  void add(double x, double y) {
    double p[2] = {x, y};
    add(p, 2);
  }
  void add(const double* position, int dims);
  // Of `n` flat positions those after the first `skip`; backwards on wish.
  void add_run(const double* xy, size_t n, size_t skip, bool back);
  // The positions from `first` on are seen by `into`.
  void see(size_t first, Boundaries& into) const;
  void end_ring() { ring_end.push_back(positions()); }
  void end_part() { part_end.push_back(ring_end.size()); }

  size_t positions() const { return count_; }
  int depth = -1;           // 0 a position, 1 a list of positions, 2, 3; -1 nothing but empty lists
  int dims = 0;             // 2 or 3; the third is kept only if every position has one
  std::vector<double> xyz;  // `dims` numbers a position; may hold more behind the last one
  std::vector<size_t> ring_end;  // positions at the end of each list of positions
  std::vector<size_t> part_end;  // rings at the end of each list of rings

  void write(Shape shape, WkbWriter& out) const;

 private:
  int level(JsonText& text, Boundaries& into, int depth);
  void list_of_positions(JsonText& text, Boundaries& into);
  void quick_positions(JsonText& text);
  int position(JsonText& text, double* p);
  void drop_height();
  void make_room(size_t numbers) {
    if (xyz.size() < numbers) xyz.resize(std::max<size_t>(2 * xyz.size(), numbers + 1024));
  }
  void write_run(size_t from, size_t to, WkbWriter& out) const;
  void write_rings(size_t from, size_t to, WkbWriter& out) const;
  size_t count_ = 0;
};

}  // namespace ochre
