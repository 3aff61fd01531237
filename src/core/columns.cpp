#include "columns.hpp"

#include <charconv>
#include <cmath>
#include <limits>

#include "file-error.hpp"
#include "numbers.hpp"

namespace ochre {

namespace {
const double kNaN = std::numeric_limits<double>::quiet_NaN();
}

void Column::pad(size_t rows) {
  if (kind == Kind::text) {
    text_start.resize(rows, pool.size());
    text_size.resize(rows, kMissing);
  } else {
    numbers.resize(rows, kNaN);
  }
}

void Column::put_number(size_t row, double value) {
  pad(row);
  if (numbers.size() > row)
    numbers[row] = value;  // a key repeated in one feature: the last counts
  else
    numbers.push_back(value);
}

void Column::set_logical(size_t row, bool value) {
  if (kind == Kind::empty) kind = Kind::logical;
  if (kind != Kind::logical) {
    set_text(row, value ? "true" : "false");
    return;
  }
  put_number(row, value ? 1 : 0);
}

void Column::set_number(size_t row, double value, bool integer) {
  bool fits = integer && std::fabs(value) <= 2147483647.0;
  if (kind == Kind::empty) kind = fits ? Kind::integer : Kind::number;
  if (kind == Kind::integer && !fits) kind = Kind::number;
  if (kind == Kind::integer || kind == Kind::number) {
    put_number(row, value);
    return;
  }
  char buffer[40];
  auto end = numbers::put_shortest(buffer, sizeof buffer, value);
  set_text(row, std::string_view(buffer, end - buffer));
}

void Column::to_text() {
  Kind old = kind;
  std::vector<double> values;
  values.swap(numbers);
  kind = Kind::text;
  for (double v : values) {
    char buffer[40];
    std::string_view text;
    if (old == Kind::logical)
      text = v == 1 ? "true" : "false";
    else if (std::fabs(v) < 1e15 && v == std::trunc(v))
      text = {buffer,
              size_t(std::to_chars(buffer, buffer + 40, static_cast<int64_t>(v)).ptr - buffer)};
    else
      text = {buffer, size_t(numbers::put_shortest(buffer, sizeof buffer, v) - buffer)};
    text_start.push_back(pool.size());
    text_size.push_back(std::isnan(v) ? kMissing : static_cast<uint32_t>(text.size()));
    if (!std::isnan(v)) pool.append(text);
  }
}

void Column::set_text(size_t row, std::string_view value) {
  if (kind != Kind::text) to_text();
  pad(row);
  if (text_size.size() > row) {
    text_start.pop_back();
    text_size.pop_back();
  }
  text_start.push_back(pool.size());
  text_size.push_back(static_cast<uint32_t>(value.size()));
  pool.append(value);
}

Column& ColumnSet::find(std::string_view name) {
  if (next_ < columns.size() && columns[next_].name == name) return columns[next_++];
  auto [it, fresh] = index_.try_emplace(std::string(name), columns.size());
  if (fresh) {
    columns.emplace_back();
    columns.back().name = std::string(name);
    check_size(rows_);
  }
  next_ = it->second + 1;
  return columns[it->second];
}

void ColumnSet::check_size(size_t rows) const {
  const std::string names = std::to_string(columns.size()) + " names of properties";
  if (columns.size() > most)
    throw FileError("it has " + names + " or more",
                    "if that is right, raise the limit with options(ochre.column_limit = )");
  if (columns.size() > most_cells / (rows + 1))
    throw FileError("its " + names + " make a table of " + std::to_string(rows) +
                        " rows that would be nearly empty",
                    "leave out properties that few features have");
}

void ColumnSet::finish(size_t rows) {
  check_size(rows);
  for (Column& c : columns)
    c.finish(rows);
}

}  // namespace ochre
