// Numbered items by a weight, the lightest first; equal ones by number. A heap of four to a node
// whose entries carry their weight, so that comparing reads nothing else; `slot_` says where each
// item stands, so that its weight can be changed.
#pragma once
#include <cstddef>
#include <cstdint>
#include <vector>

namespace ochre {

class LeastFirst {
 public:
  struct Entry {
    double weight;
    uint32_t item;
    bool operator<(const Entry& o) const {
      return weight < o.weight || (weight == o.weight && item < o.item);
    }
  };

  explicit LeastFirst(size_t items) : slot_(items, kNowhere) {}

  bool empty() const { return heap_.empty(); }
  bool has(uint32_t item) const { return slot_[item] != kNowhere; }

  // Adds an item, or gives it another weight.
  void put(uint32_t item, double weight) {
    size_t at = slot_[item];
    if (at == kNowhere) {
      at = heap_.size();
      heap_.emplace_back();
    }
    settle(at, {weight, item});
  }

  Entry pop() {
    const Entry top = heap_[0], last = heap_.back();
    heap_.pop_back();
    slot_[top.item] = kNowhere;
    if (!heap_.empty()) settle(0, last);
    return top;
  }

 private:
  static constexpr uint32_t kNowhere = 0xffffffffu;
  static constexpr size_t kNode = 4;

  // Puts an entry where it belongs, from a place that is free.
  void settle(size_t at, const Entry& entry) {
    while (at > 0 && entry < heap_[(at - 1) / kNode]) {
      move((at - 1) / kNode, at);
      at = (at - 1) / kNode;
    }
    for (size_t first; (first = kNode * at + 1) < heap_.size();) {
      size_t least = first;
      const size_t last = first + kNode < heap_.size() ? first + kNode : heap_.size();
      for (size_t k = first + 1; k < last; ++k)
        if (heap_[k] < heap_[least]) least = k;
      if (!(heap_[least] < entry)) break;
      move(least, at);
      at = least;
    }
    heap_[at] = entry;
    slot_[entry.item] = static_cast<uint32_t>(at);
  }
  void move(size_t from, size_t to) {
    heap_[to] = heap_[from];
    slot_[heap_[to].item] = static_cast<uint32_t>(to);
  }

  std::vector<Entry> heap_;
  std::vector<uint32_t> slot_;
};

}  // namespace ochre
