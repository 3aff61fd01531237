// The floor for reading boundaries: load the file and visit every value in it with simdjson's
// on-demand parser (numbers parsed, strings and keys passed over), keeping nothing but a sum.
// Prints the seconds of the fastest of several runs, loading included, and the peak memory.
#include <sys/resource.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstdlib>

// The header first: how simdjson ships.
#include "simdjson.h"

#include "simdjson.cpp"

namespace json = simdjson::ondemand;

static double sum = 0;

static void walk(json::value v) {
  switch (v.type().value()) {
    case json::json_type::array:
      for (auto e : v.get_array())
        walk(e.value());
      break;
    case json::json_type::object:
      for (auto f : v.get_object()) {
        sum += f.escaped_key().value().size();
        walk(f.value());
      }
      break;
    case json::json_type::number:
      sum += v.get_double().value();
      break;
    case json::json_type::string:
      sum += v.raw_json_token().size();
      break;
    default:
      sum += 1;
  }
}

int main(int, char** args) {
  double best = 1e9;
  for (int i = 0; i < std::atoi(args[2]); ++i) {
    auto start = std::chrono::steady_clock::now();
    simdjson::padded_string text;
    if (simdjson::padded_string::load(args[1]).get(text)) return 1;
    json::parser parser;
    json::document doc = parser.iterate(text);
    for (auto f : doc.get_object()) {
      sum += f.escaped_key().value().size();
      walk(f.value());
    }
    best = std::min(
        best, std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count());
  }
  rusage use;
  getrusage(RUSAGE_SELF, &use);
  std::printf("%.4f %ld %.0f\n", best, use.ru_maxrss / 1024, sum);
}
