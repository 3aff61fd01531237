// What a delimited text holds, counted without reading it: how many records there are, how many
// fields each has, where a quote stays open. Rows that a reader gives are held against this, so
// that none is lost without a word.
//
// Records are those of RFC 4180: fields may stand in quotes, in which delimiters and line ends are
// text and a quote is doubled. A quote within a field that does not begin with one is a letter.
// Lines that hold nothing but blanks are counted apart.
#pragma once
#include <cstddef>
#include <cstdint>
#include <vector>

namespace ochre {

struct CsvAccount {
  struct Record {
    uint64_t number;  // from 0, which is the header
    uint32_t fields, filled;
    uint64_t line, start;  // from 1, and the first byte from 0
  };
  uint64_t records = 0;     // the header among them
  uint32_t fields = 0;      // of the header
  std::vector<Record> odd;  // those with another number of fields; at most kMostOdd
  static constexpr size_t kMostOdd = 100000;
  uint64_t end = 0;    // the byte after the last record
  uint64_t blank = 0;  // lines
  // A quote that is not closed before the text ends, or is closed before something else than a
  // delimiter or line end: its line, from 1; 0 for none.
  uint64_t open_line = 0;
  bool to_the_end = false;    // it is not closed at all
  uint64_t nul_line = 0;      // of a zero byte
  bool lone_returns = false;  // carriage returns as line ends
  bool ends_in_line_end = true;
};

CsvAccount account_csv(const char* data, size_t size, char delimiter, size_t skip_lines);

}  // namespace ochre
