// The account of a delimited text against a second walk over it: records and fields are the same
// when the text is taken apart letter by letter, and every place lies within it.
#include <string>

#include "csv-account.hpp"
#include "fuzz.hpp"

using namespace ochre;

// Fields between delimiters outside of quotes, of a text without faults.
static std::vector<uint32_t> fields_by_letter(const std::string& text, char delimiter) {
  std::vector<uint32_t> out;
  uint32_t fields = 1;
  bool quoted = false, fresh = true, any = false;
  auto end = [&] {
    if (any || fields > 1) out.push_back(fields);
    fields = 1;
    fresh = true;
    any = false;
  };
  for (size_t i = 0; i < text.size(); ++i) {
    char c = text[i];
    if (quoted) {
      if (c == '"' && i + 1 < text.size() && text[i + 1] == '"')
        ++i;
      else if (c == '"')
        quoted = false;
      continue;
    }
    if (c == '"' && fresh) {
      quoted = true;
      fresh = false;
      any = true;
      continue;
    }
    if (c == delimiter) {
      ++fields;
      fresh = true;
      continue;
    }
    if (c == '\n' || c == '\r') {
      end();
      continue;
    }
    bool blank = c == ' ' || (c == '\t' && delimiter != '\t');
    if (!blank) {
      fresh = false;
      any = true;
    }
  }
  end();
  return out;
}

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  if (size < 2) return 0;
  static const char marks[] = {',', ';', '\t', '|'};
  char delimiter = marks[data[0] % 4];
  std::string text(reinterpret_cast<const char*>(data) + 2, size - 2);
  account_csv(text.data(), text.size(), delimiter, data[1] % 5);
  CsvAccount a = account_csv(text.data(), text.size(), delimiter, 0);
  if (a.end > text.size()) std::abort();
  for (const CsvAccount::Record& r : a.odd)
    if (r.start > text.size() || r.fields == a.fields || r.filled > r.fields) std::abort();
  if (a.open_line || a.nul_line || !text.compare(0, 3, "\xef\xbb\xbf")) return 0;
  std::vector<uint32_t> fields = fields_by_letter(text, delimiter);
  if (fields.size() != a.records) std::abort();
  size_t odd = 0;
  for (size_t i = 0; i < fields.size(); ++i) {
    if (fields[i] == fields[0]) continue;
    if (odd == a.odd.size() || a.odd[odd].number != i || a.odd[odd].fields != fields[i])
      std::abort();
    ++odd;
  }
  if (odd != a.odd.size()) std::abort();
  return 0;
}
