// Prints a result and puts it into the log that keep.R reads; smaller is better.
#pragma once
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <string>

inline bool small_run() {
  const char* size = std::getenv("OCHRE_BENCH");
  return size && !std::strcmp(size, "small");
}

inline void report(const std::string& row, double ratio, const char* floor, double goal,
                   const std::string& detail) {
  std::printf("%s: %.2f of %s (goal %g); %s\n", row.c_str(), ratio, floor, goal, detail.c_str());
  const char* name = std::getenv("OCHRE_BENCH_LOG");
  if (!name) return;
  if (std::FILE* log = std::fopen(name, "a")) {
    std::fprintf(log, "%s\t%.4f\t%g\t%s\n", row.c_str(), ratio, goal, floor);
    std::fclose(log);
  }
}
