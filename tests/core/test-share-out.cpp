// Work that is shared out to cores is the same work.
#include <doctest/doctest.h>

#include <mutex>
#include <random>
#include <set>
#include <stdexcept>

#include "share-out.hpp"

using namespace ochre;

namespace {
struct Cores {
  explicit Cores(int n) { cores_allowed = n; }
  ~Cores() { cores_allowed = 2; }
};

}  // namespace

TEST_CASE("every number is worked on once, whatever the cores") {
  for (int cores : {1, 2, 7}) {
    Cores set(cores);
    std::vector<int> seen(10007, 0);
    share_out(seen.size(), 10, [&](size_t from, size_t to) {
      for (size_t i = from; i < to; ++i)
        ++seen[i];
    });
    CHECK(std::set<int>(seen.begin(), seen.end()) == std::set<int>{1});
  }
  share_out(0, 10, [](size_t, size_t) { FAIL("there is nothing to do"); });
}

TEST_CASE("what a piece throws reaches the caller, and only one thread is heard") {
  static int heard;
  heard = 0;
  pulse_listener = [] {
    ++heard;
  };
  CHECK_THROWS_WITH(share_out(100000, 10,
                              [](size_t from, size_t) {
                                pulse();
                                if (from == 5000) throw std::runtime_error("five thousand");
                              }),
                    "five thousand");
  pulse_listener = [] {
    throw std::runtime_error("stop");
  };
  CHECK_THROWS_WITH(share_out(100000, 10,
                              [](size_t, size_t) {
                                for (int k = 0; k < 300; ++k)
                                  pulse();
                              }),
                    "stop");
  pulse_listener = nullptr;
}
