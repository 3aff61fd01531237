#include "json-account.hpp"

#include <algorithm>

namespace ochre {

JsonAccount account_of_json(const char* data, size_t size) {
  JsonAccount out;
  size_t depth = 0;
  bool quoted = false;
  for (size_t i = 0; i < size; ++i) {
    const char c = data[i];
    if (quoted) {
      if (c == '\\')
        ++i;
      else if (c == '"')
        quoted = false;
    } else if (c == '"') {
      quoted = true;
    } else if (c == '{' || c == '[') {
      out.depth = std::max(out.depth, ++depth);
    } else if ((c == '}' || c == ']') && depth > 0 && --depth == 0) {
      out.ends.push_back(out.end = i + 1);
    }
  }
  return out;
}

std::string joined_documents(const char* data, const JsonAccount& account) {
  std::string out = "[";
  out.reserve(account.end + account.ends.size() + 2);
  size_t from = 0;
  for (size_t end : account.ends) {
    if (from > 0) out += ',';
    // A separator of text sequences (RFC 8142) is no JSON.
    for (size_t i = from; i < end; ++i)
      out += data[i] == '\x1e' ? ' ' : data[i];
    from = end;
  }
  return out + "]";
}

}  // namespace ochre
