// Values as numbers of groups, found by hashing 64-bit marks (whole numbers, or the addresses of
// texts that are kept once each): numbering distinct values, looking values up in a table, and
// putting rows into the cells of a grid. Each is one pass. `mark(i)` gives the mark of value i, so
// that nothing is copied.
#pragma once
#include <cstddef>
#include <cstdint>
#include <vector>

#include "share-out.hpp"

namespace ochre {

inline size_t hash_of(uint64_t v) {
  const uint64_t h = v * 0x9E3779B97F4A7C15ull;
  return static_cast<size_t>(h ^ (h >> 29));
}

// Marks to positions, by open addressing; at most half full.
class MarkTable {
 public:
  explicit MarkTable(size_t expected = 0) {
    while (mask_ < 2 * expected)
      mask_ = 2 * mask_ + 1;
    slot_.assign(mask_ + 1, Slot{0, -1});
  }
  // The position of a mark, or -1.
  int find(uint64_t mark) const {
    size_t at = hash_of(mark) & mask_;
    while (slot_[at].position >= 0 && slot_[at].mark != mark)
      at = (at + 1) & mask_;
    return slot_[at].position;
  }
  // The position that the mark has already, or else the one given.
  int insert(uint64_t mark, int position) {
    size_t at = hash_of(mark) & mask_;
    while (slot_[at].position >= 0 && slot_[at].mark != mark)
      at = (at + 1) & mask_;
    if (slot_[at].position >= 0) return slot_[at].position;
    slot_[at] = {mark, position};
    if (2 * ++used_ > mask_) grow();
    return position;
  }

 private:
  struct Slot {
    uint64_t mark;
    int position;
  };
  void grow() {
    std::vector<Slot> old(4 * (mask_ + 1), Slot{0, -1});
    old.swap(slot_);
    mask_ = slot_.size() - 1;
    for (const Slot& s : old) {
      if (s.position < 0) continue;
      size_t at = hash_of(s.mark) & mask_;
      while (slot_[at].position >= 0)
        at = (at + 1) & mask_;
      slot_[at] = s;
    }
  }
  size_t mask_ = 1023, used_ = 0;
  std::vector<Slot> slot_;
};

// Numbers distinct marks from 0 in order of first appearance into `index`, -1 for a missing one;
// returns the position of the first of each.
template <class Mark>
std::vector<size_t> number_marks(Mark mark, size_t size, uint64_t missing, int* index) {
  std::vector<size_t> first;
  MarkTable known;
  for (size_t i = 0; i < size; ++i) {
    const uint64_t m = mark(i);
    // Tables are often sorted: the same value as the row above.
    if (i && m == mark(i - 1)) {
      index[i] = index[i - 1];
    } else if (m == missing) {
      index[i] = -1;
    } else {
      index[i] = known.insert(m, static_cast<int>(first.size()));
      if (index[i] == static_cast<int>(first.size())) first.push_back(i);
    }
  }
  return first;
}

// The same for whole numbers; those of a small range need no hashing.
std::vector<size_t> number_integers(const int* value, size_t size, int missing, int* index);

// Position of each mark in a table of marks, or `none`; a missing mark is in no table. Positions
// count from `base`.
template <class TableMark, class Mark>
void look_up(TableMark table, size_t table_size, Mark mark, size_t size, uint64_t missing, int base,
             int none, int* at) {
  MarkTable known(table_size);
  for (size_t i = 0; i < table_size; ++i) {
    if (table(i) != missing) known.insert(table(i), static_cast<int>(i));
  }
  share_out(size, 1 << 16, [&](size_t from, size_t to) {
    for (size_t i = from; i < to; ++i) {
      const int found = known.find(mark(i));
      at[i] = found < 0 ? none : found + base;
    }
  });
}

// Sums by group, which counts from 1; values of a number out of range are left out. Added up with
// more digits than a double has, so that the order of rows does not show.
void sum_groups(const double* value, const int* group, size_t size, double* sums, size_t groups);

// Which row goes into each cell of `areas` × periods, period by period; rows count from 1, and
// `none` stands in an empty cell. `area` counts from 1 (`none`: nowhere). `period` counts from 0
// (negative: nowhere) and `place` says where each period stands; `period` is null where there is
// only one.
struct Cells {
  size_t repeats = 0, empty = 0;  // rows that found their cell taken; cells without a row
};
Cells fill_cells(const int* area, const int* period, const int* place, size_t rows, size_t areas,
                 size_t periods, int none, int* cell);

}  // namespace ochre
