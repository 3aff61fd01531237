// Property values into typed columns, with simdjson, which finds every fault of the JSON. Nested
// objects become columns named "outer.inner", arrays stay JSON text.
#pragma once
#include <memory>
#include <string_view>

#include "columns.hpp"
#include "json-text.hpp"

namespace ochre {

class PropertyReader {
 public:
  PropertyReader();
  ~PropertyReader();
  // The object (or null) at the cursor into a row of the columns.
  void object(JsonText& text, ColumnSet& columns, size_t row);
  // One value at the cursor: text or a number.
  void id(JsonText& text, Column& column, size_t row);
  // Texts in which the character U+0000 stood, which no text of R can hold: it is left out.
  size_t with_nul() const;

 private:
  struct Parser;
  std::unique_ptr<Parser> parser_;
};

// Where the text stops being UTF-8, or nullptr.
const char* bad_utf8(const char* text, size_t size);

}  // namespace ochre
