#include "dbf.hpp"

#include <algorithm>
#include <cstring>
#include <string_view>

#include "numbers.hpp"

namespace ochre {

namespace {

struct Field {
  std::string name;
  char type;
  size_t from, width;
};

[[noreturn]] void fail(const std::string& what, size_t at) {
  FileError e(what, "the .dbf part is cut off or damaged; fetch it again");
  e.byte = static_cast<long long>(at);
  throw e;
}

std::string_view trimmed(std::string_view s) {
  while (!s.empty() && (s.back() == ' ' || s.back() == '\0'))
    s.remove_suffix(1);
  while (!s.empty() && s.front() == ' ')
    s.remove_prefix(1);
  return s;
}

// The language byte (dBASE for Windows, Visual FoxPro), as names that iconv knows.
std::string language(uint8_t byte) {
  static const struct {
    uint8_t byte;
    const char* name;
  } known[] = {
      {0x01, "CP437"},  {0x02, "CP850"},  {0x03, "CP1252"}, {0x08, "CP865"},  {0x09, "CP437"},
      {0x0a, "CP850"},  {0x0b, "CP437"},  {0x0d, "CP437"},  {0x0e, "CP850"},  {0x0f, "CP437"},
      {0x10, "CP850"},  {0x11, "CP437"},  {0x12, "CP850"},  {0x13, "CP932"},  {0x14, "CP850"},
      {0x15, "CP437"},  {0x16, "CP850"},  {0x17, "CP865"},  {0x18, "CP437"},  {0x19, "CP437"},
      {0x1a, "CP850"},  {0x1b, "CP437"},  {0x1c, "CP863"},  {0x1d, "CP850"},  {0x1f, "CP852"},
      {0x22, "CP852"},  {0x23, "CP852"},  {0x24, "CP860"},  {0x25, "CP850"},  {0x26, "CP866"},
      {0x37, "CP850"},  {0x40, "CP852"},  {0x4d, "CP936"},  {0x4e, "CP949"},  {0x4f, "CP950"},
      {0x50, "CP874"},  {0x57, "CP1252"}, {0x58, "CP1252"}, {0x59, "CP1252"}, {0x64, "CP852"},
      {0x65, "CP866"},  {0x66, "CP865"},  {0x67, "CP861"},  {0x6a, "CP737"},  {0x6b, "CP857"},
      {0x78, "CP950"},  {0x79, "CP949"},  {0x7a, "CP936"},  {0x7b, "CP932"},  {0x7c, "CP874"},
      {0x86, "CP737"},  {0x87, "CP852"},  {0x88, "CP857"},  {0xc8, "CP1250"}, {0xc9, "CP1251"},
      {0xca, "CP1254"}, {0xcb, "CP1253"}, {0xcc, "CP1257"}};
  for (const auto& k : known)
    if (k.byte == byte) return k.name;
  return "";
}

bool digits_only(std::string_view s) {
  for (char c : s)
    if (c < '0' || c > '9') return false;
  return true;
}

// A number as text of fixed width; stars or blanks stand for a missing one.
void store_number(Column& column, size_t row, std::string_view raw) {
  std::string_view s = trimmed(raw);
  if (s.empty() || s.front() == '*') return;
  char buffer[280];
  size_t n = std::min<size_t>(s.size(), 255);
  std::memcpy(buffer, s.data(), n);
  std::memset(buffer + n, 0, 16);
  const char* p = buffer;
  bool minus = *p == '-', plus = *p == '+';
  p += minus || plus;
  while (*p == '0' && p[1] >= '0' && p[1] <= '9')
    ++p;  // padded with zeros
  std::string padded;
  if (*p == '.') {
    padded = "0" + std::string(p) + std::string(16, '\0');
    p = padded.c_str();
  }
  double v;
  const char* start = p;
  if (!read_number(p, v) || (*p != '\0' && !(*p == '.' && p[1] == '\0'))) {
    column.set_text(row, s);
    return;
  }
  bool whole = digits_only(std::string_view(start, p - start));
  if (whole && v > 9007199254740992.0) {
    column.set_text(row, s);
    return;
  }
  column.set_number(row, minus ? -v : v, whole);
}

void store(Column& column, size_t row, const Field& field, std::string_view raw) {
  switch (field.type) {
    case 'N':
    case 'F':
      store_number(column, row, raw);
      break;
    case 'L':
      if (std::strchr("TtYy", raw[0]) && raw[0])
        column.set_logical(row, true);
      else if (std::strchr("FfNn", raw[0]) && raw[0])
        column.set_logical(row, false);
      break;
    case 'D': {
      std::string_view s = trimmed(raw);
      if (s.size() == 8 && digits_only(s) && s != "00000000")
        column.set_text(row, std::string(s.substr(0, 4)) + "-" + std::string(s.substr(4, 2)) + "-" +
                                 std::string(s.substr(6, 2)));
      break;
    }
    case 'I':
    case '+': {
      if (raw.size() != 4) break;
      int32_t v;
      std::memcpy(&v, raw.data(), 4);
      column.set_number(row, v, true);
      break;
    }
    case 'B':
    case 'O': {
      if (raw.size() != 8) break;
      double v;
      std::memcpy(&v, raw.data(), 8);
      column.set_number(row, v, false);
      break;
    }
    case 'M':
    case 'G':
    case 'P':
      break;  // kept in a file of its own
    default: {
      std::string_view s = trimmed(raw);
      if (size_t nul = s.find('\0'); nul != s.npos) s = s.substr(0, nul);
      if (!s.empty()) column.set_text(row, s);
    }
  }
}

}  // namespace

Table read_dbf(const FileText& file, ColumnSet& columns) {
  const uint8_t* data = reinterpret_cast<const uint8_t*>(file.data());
  size_t size = file.size();
  auto u16 = [&](size_t i) {
    return size_t(data[i]) | size_t(data[i + 1]) << 8;
  };
  auto u32 = [&](size_t i) {
    return u16(i) | u16(i + 2) << 16;
  };
  if (size < 33) fail("the file is too short to be a table", 0);
  Table table;
  table.rows = u32(4);
  size_t header = u16(8), width = u16(10);
  table.encoding = language(data[29]);
  if (header < 33 || header > size) fail("its header says that it is longer than the file", 8);
  std::vector<Field> fields;
  size_t offset = 1;
  for (size_t at = 32; at + 32 <= header && data[at] != 0x0d; at += 32) {
    const char* name = file.data() + at;
    Field f{std::string(trimmed(std::string_view(name, strnlen(name, 11)))), char(data[at + 11]),
            offset, data[at + 16]};
    if (f.type == 'C')
      f.width += 256 * size_t(data[at + 17]);  // long texts keep the high byte here
    if (f.width == 0) fail("the column \"" + f.name + "\" has no width", at + 16);
    offset += f.width;
    if (f.name.empty()) f.name = "unnamed";
    fields.push_back(f);
  }
  if (width == 0 || offset > width) fail("its columns are wider than its rows", 10);
  if (table.rows > (size - header) / width)
    fail("its header says that it has " + std::to_string(table.rows) +
             " rows, but the file holds " + std::to_string((size - header) / width),
         4);

  std::vector<size_t> at;
  for (const Field& f : fields) {
    std::string name = f.name;
    for (int k = 1;
         std::find_if(columns.columns.begin(), columns.columns.end(),
                      [&](const Column& c) { return c.name == name; }) != columns.columns.end();
         ++k)
      name = f.name + "_" + std::to_string(k);
    columns.find(name);
    at.push_back(columns.columns.size() - 1);
    table.date.push_back(f.type == 'D');
  }
  size_t row = 0;
  for (size_t r = 0; r < table.rows; ++r) {
    const char* record = file.data() + header + r * width;
    table.deleted.push_back(record[0] == '*');
    if (table.deleted.back()) continue;
    for (size_t k = 0; k < fields.size(); ++k)
      store(columns.columns[at[k]], row, fields[k],
            std::string_view(record + fields[k].from, fields[k].width));
    ++row;
  }
  return table;
}

}  // namespace ochre
