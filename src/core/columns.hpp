// Typed columns filled row by row from values whose type is only known as they come. A
// column starts empty and is widened when a value does not fit: logical, integer, number,
// text. Rows that were not set are missing.
#pragma once
#include <limits>
#include <cstdint>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

namespace ochre {

class Column {
 public:
  enum class Kind { empty, logical, integer, number, text };
  static constexpr uint32_t kMissing = 0xffffffffu;

  std::string name;
  Kind kind = Kind::empty;
  std::vector<double> numbers;  // logical, integer and number; NaN is missing
  std::string pool;             // text, one value after the other
  std::vector<size_t> text_start;
  std::vector<uint32_t> text_size;  // kMissing where missing

  size_t rows() const { return kind == Kind::text ? text_size.size() : numbers.size(); }
  void set_logical(size_t row, bool value);
  void set_number(size_t row, double value, bool integer);
  void set_text(size_t row, std::string_view value);
  void finish(size_t rows) { pad(rows); }

 private:
  void pad(size_t rows);
  void to_text();
  void put_number(size_t row, double value);
};

// Columns in order of first appearance. Features tend to have the same keys in the same
// order, so the column after the last one is tried before the table is asked.
class ColumnSet {
 public:
  std::vector<Column> columns;
  // More columns, or more cells in all, end in a FileError.
  size_t most = std::numeric_limits<size_t>::max(), most_cells = std::numeric_limits<size_t>::max();
  Column& find(std::string_view name);
  void start_row() {
    next_ = 0;
    ++rows_;
  }
  void finish(size_t rows);

 private:
  std::unordered_map<std::string, size_t> index_;
  size_t next_ = 0, rows_ = 0;
  void check_size(size_t rows) const;
};

}  // namespace ochre
