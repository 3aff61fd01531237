// What a parser throws when a file is not what it should be: one sentence for what is wrong, one
// for the likely mend, and the place. Bindings turn it into a condition with these fields.
#pragma once
#include <cstddef>
#include <stdexcept>
#include <string>
#include <vector>

namespace ochre {

struct FileError : std::runtime_error {
  FileError(const std::string& what, const std::string& mend)
      : std::runtime_error(what), mend(mend) {}
  std::string mend;
  long feature = 0;                 // counted from 1; 0 when the fault is outside of a feature
  size_t line = 0, column = 0;      // of a text, counted from 1; 0 when unknown
  long long byte = -1;              // of a binary file, counted from 0; -1 when unknown
  std::vector<std::string> layers;  // the names to choose from, when one must be chosen
};

}  // namespace ochre
