// Groups and age rates against std::map and sums by hand.
#include <doctest/doctest.h>

#include <cmath>
#include <limits>
#include <map>
#include <random>

#include "age-rates.hpp"
#include "groups.hpp"

using namespace ochre;

TEST_CASE("marks and whole numbers are numbered as a map numbers them, and found again") {
  std::mt19937_64 random(7);
  const int missing = std::numeric_limits<int>::min();
  for (int round = 0; round < 60; ++round) {
    const size_t n = 1 + random() % 5000;
    const int64_t range = round % 3 == 0 ? 10 : round % 3 == 1 ? 4000 : int64_t{1} << 31;
    std::vector<int> value(n);
    for (int& v : value)
      v = random() % 20 == 0 ? missing
                             : static_cast<int>(static_cast<int64_t>(random() % range) - range / 2);
    std::map<int, int> known;
    std::vector<int> expected;
    for (int v : value)
      expected.push_back(
          v == missing ? -1 : known.emplace(v, static_cast<int>(known.size())).first->second);
    std::vector<int> index(n), marked(n), at(n);
    std::vector<size_t> first = number_integers(value.data(), n, missing, index.data());
    CHECK(index == expected);
    CHECK(first.size() == known.size());
    for (size_t k = 0; k < first.size(); ++k)
      CHECK(index[first[k]] == static_cast<int>(k));
    // Marks far apart, as addresses are.
    auto mark = [&](size_t i) {
      return value[i] == missing
                 ? uint64_t{0}
                 : (uint64_t{0x7f0000000000} + static_cast<uint32_t>(value[i]) * uint64_t{56});
    };
    CHECK(number_marks(mark, n, 0, marked.data()) == first);
    CHECK(marked == expected);
    auto table = [&](size_t k) {
      return mark(first[k]);
    };
    look_up(table, first.size() / 2, mark, n, 0, 1, -9, at.data());
    for (size_t i = 0; i < n; ++i)
      CHECK(at[i] == (expected[i] >= 0 && static_cast<size_t>(expected[i]) < first.size() / 2
                          ? expected[i] + 1
                          : -9));
  }
}

TEST_CASE("cells hold the row that belongs there; taken and empty ones are counted") {
  const int none = -1;
  std::vector<int> area{1, 3, 2, none, 1, 1}, period{0, 0, 1, 1, 1, 0}, place{1, 0}, cell(6);
  Cells c = fill_cells(area.data(), period.data(), place.data(), 6, 3, 2, none, cell.data());
  CHECK(cell == std::vector<int>{5, 3, none, 6, none, 2});
  CHECK(c.repeats == 1);
  CHECK(c.empty == 2);
  std::vector<int> one(3);
  c = fill_cells(area.data(), nullptr, nullptr, 3, 3, 1, none, one.data());
  CHECK(one == std::vector<int>{1, 3, 2});
  CHECK(c.empty + c.repeats == 0);
}

TEST_CASE("age sums are those of a double loop, and faults are counted where they are") {
  std::mt19937 random(3);
  const int groups = 7, ages = 5;
  std::vector<int> group, age;
  std::vector<double> count, people, weight(ages);
  for (double& w : weight)
    w = random() % 100 / 100.0;
  for (int g = 0; g < groups; ++g)
    for (int a = 0; a < ages; ++a) {
      group.push_back(g);
      age.push_back(a);
      people.push_back(1 + random() % 500);
      count.push_back(random() % 40);
    }
  AgeRows rows{group.data(), age.data(), count.data(), people.data(), group.size(), groups, ages};
  AgeSums sums = sum_ages(rows, weight);
  for (int g = 0; g < groups; ++g) {
    double direct = 0, spread = 0, expected = 0;
    for (int a = 0; a < ages; ++a) {
      const double d = count[g * ages + a], n = people[g * ages + a];
      direct += weight[a] * d / n;
      spread += weight[a] * weight[a] * d / (n * n);
      expected += weight[a] * n;
    }
    CHECK(sums.direct[g] == doctest::Approx(direct));
    CHECK(sums.spread[g] == doctest::Approx(spread));
    CHECK(sums.expected[g] == doctest::Approx(expected));
  }
  CHECK(check_age_rows(rows).repeated.number == 0);
  count[3] = -1;
  people[8] = 0;
  count[9] = 2.5;
  age[11] = age[10];
  people[12] = std::nan("");
  AgeFaults f = check_age_rows(rows);
  CHECK(f.negative_count.first == 3);
  CHECK(f.count_without_people.number == (count[8] > 0 ? 1u : 0u));
  CHECK(f.part_count.first == 9);
  CHECK(f.repeated.first == 11);
  CHECK(f.repeated.number == 1);
  CHECK(std::isnan(sum_ages(rows, weight).population[12 / ages]));
  // A grid far larger than its rows is not laid out whole.
  std::vector<int> far{0, 1999999999, 0}, old{0, 1, 0};
  AgeRows sparse{far.data(), old.data(), count.data(), people.data(), 3, 2000000000, 100000};
  CHECK(check_age_rows(sparse).repeated.first == 2);
}
