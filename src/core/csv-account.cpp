#include "csv-account.hpp"

#include <cstring>

namespace ochre {

namespace {

class CsvCursor {
 public:
  CsvCursor(const char* data, size_t size, char delimiter, CsvAccount& out)
      : begin_(data), at_(data), end_(data + size), delimiter_(delimiter), out_(out) {}

  void skip_lines(size_t n) {
    static const char kMark[] = "\xef\xbb\xbf";
    if (end_ - at_ >= 3 && !std::memcmp(at_, kMark, 3)) at_ += 3;
    while (n-- && at_ < end_) {
      while (at_ < end_ && !line_end())
        ++at_;
      pass_line_end();
    }
  }

  void run() {
    while (at_ < end_ && !out_.open_line && !out_.nul_line)
      record();
    out_.ends_in_line_end = at_ == begin_ || at_[-1] == '\n' || at_[-1] == '\r';
  }

 private:
  bool line_end() const { return *at_ == '\n' || *at_ == '\r'; }
  bool blank() const { return *at_ == ' ' || (*at_ == '\t' && delimiter_ != '\t'); }

  void pass_line_end() {
    if (at_ == end_) return;
    bool both = *at_ == '\r' && at_ + 1 < end_ && at_[1] == '\n';
    if (*at_ == '\r' && !both) out_.lone_returns = true;
    at_ += both ? 2 : 1;
    ++line_;
  }

  void record() {
    const char* from = at_;
    uint64_t line = line_;
    uint32_t fields = 0, filled = 0;
    for (bool more = true; more && !out_.open_line && !out_.nul_line; ++fields) {
      filled += field();
      more = at_ < end_ && *at_ == delimiter_;
      if (more) ++at_;
    }
    bool empty = fields == 1 && !filled && !quoted_;
    if (empty) {
      ++out_.blank;
    } else {
      uint64_t start = static_cast<uint64_t>(from - begin_);
      if (!out_.records) out_.fields = fields;
      bool odd = fields != out_.fields && out_.odd.size() < CsvAccount::kMostOdd;
      if (odd) out_.odd.push_back({out_.records, fields, filled, line, start});
      ++out_.records;
      out_.end = at_ - begin_;
    }
    pass_line_end();
  }

  // Whether there is anything in it; the cursor stands at its delimiter, line end or the end.
  bool field() {
    while (at_ < end_ && blank())
      ++at_;
    quoted_ = at_ < end_ && *at_ == '"';
    if (quoted_) return quoted_field();
    const char* from = at_;
    for (; at_ < end_ && *at_ != delimiter_ && !line_end(); ++at_)
      if (!*at_) see_nul();
    return at_ > from;
  }

  bool quoted_field() {
    uint64_t line = line_;
    const char* from = ++at_;
    for (;; ++at_) {
      if (at_ == end_) {
        out_.open_line = line;
        out_.to_the_end = true;
        return true;
      }
      if (*at_ == '\n' || (*at_ == '\r' && (at_ + 1 == end_ || at_[1] != '\n'))) ++line_;
      if (!*at_) see_nul();
      if (*at_ != '"') continue;
      if (at_ + 1 < end_ && at_[1] == '"') {
        ++at_;
        continue;
      }
      break;
    }
    bool filled = at_ > from;
    ++at_;
    while (at_ < end_ && blank())
      ++at_;
    if (at_ < end_ && *at_ != delimiter_ && !line_end()) out_.open_line = line;
    return filled;
  }

  void see_nul() {
    if (!out_.nul_line) out_.nul_line = line_;
  }

  const char *begin_, *at_, *end_;
  char delimiter_;
  CsvAccount& out_;
  uint64_t line_ = 1;
  bool quoted_ = false;
};

}  // namespace

CsvAccount account_csv(const char* data, size_t size, char delimiter, size_t skip_lines) {
  CsvAccount out;
  CsvCursor cursor(data, size, delimiter, out);
  cursor.skip_lines(skip_lines);
  cursor.run();
  return out;
}

}  // namespace ochre
