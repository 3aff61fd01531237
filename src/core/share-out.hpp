// Work on numbered things that have nothing to do with each other, shared out to the machine's
// cores in pieces. What a piece throws is thrown to the caller, the first piece's first.
#pragma once
#include <algorithm>
#include <atomic>
#include <exception>
#include <system_error>
#include <thread>
#include <vector>

#include "pulse.hpp"

namespace ochre {

// How many cores may work.
inline int cores_allowed = 2;

inline size_t cores_at_work() {
  const size_t all = std::max(1U, std::thread::hardware_concurrency());
  return std::min(all, static_cast<size_t>(std::max(1, cores_allowed)));
}

// work(from, to) for pieces of 0 to n of `piece` each. One thread hears the wish to end it all.
template <class Work>
void share_out(size_t n, size_t piece, Work work) {
  const size_t pieces = (n + piece - 1) / piece;
  std::atomic<size_t> next{0};
  std::vector<std::exception_ptr> failed(pieces);
  auto go = [&] {
    for (size_t k; (k = next++) < pieces;) {
      try {
        work(k * piece, std::min(n, (k + 1) * piece));
      } catch (...) {
        failed[k] = std::current_exception();
        next = pieces;
      }
    }
  };
  std::vector<std::thread> others;
  try {
    for (size_t t = 1; t < std::min(cores_at_work(), pieces); ++t)
      others.emplace_back([&] {
        pulse_is_heard = false;
        go();
      });
  } catch (const std::system_error&) {
    // Where the system gives no more threads, those that there are do all of it.
  }
  go();
  for (std::thread& other : others)
    other.join();
  for (const std::exception_ptr& failure : failed)
    if (failure) std::rethrow_exception(failure);
}

}  // namespace ochre
