// What lies in a JSON text before it is parsed: how deep it is nested, and how many documents stand
// one after the other. One pass, no recursion.
#pragma once
#include <cstddef>
#include <string>
#include <vector>

namespace ochre {

struct JsonAccount {
  size_t depth = 0;          // the deepest nesting of brackets
  std::vector<size_t> ends;  // where each object or list at the top ends
  size_t end = 0;            // where the last one that is closed ends
};

JsonAccount account_of_json(const char* data, size_t size);

// The documents as the members of one list.
std::string joined_documents(const char* data, const JsonAccount& account);

}  // namespace ochre
