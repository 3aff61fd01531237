#include "json-text.hpp"

#include <algorithm>
#include <cstring>

#include "numbers.hpp"

namespace ochre {

bool JsonText::is_null() {
  if (peek() != 'n') return false;
  if (end_ - at_ < 4 || std::memcmp(at_, "null", 4) != 0)
    fail("a value is not valid JSON", "null, true and false are written in small letters");
  at_ += 4;
  return true;
}

void JsonText::skip_string() {
  for (++at_; at_ < end_; ++at_) {
    at_ = static_cast<const char*>(std::memchr(at_, '"', end_ - at_));
    if (!at_) at_ = end_;
    const char* back = at_;
    while (back > begin_ && back[-1] == '\\')
      --back;
    if (at_ < end_ && ((at_ - back) & 1) == 0) {
      ++at_;
      return;
    }
  }
  fail("a text in quotes is never closed", "the file may be cut off; fetch it again", end_);
}

namespace {
void append_utf8(std::string& out, unsigned code) {
  if (code < 0x80)
    out += static_cast<char>(code);
  else if (code < 0x800) {
    out += static_cast<char>(0xc0 | code >> 6);
    out += static_cast<char>(0x80 | (code & 63));
  } else if (code < 0x10000) {
    out += static_cast<char>(0xe0 | code >> 12);
    out += static_cast<char>(0x80 | (code >> 6 & 63));
    out += static_cast<char>(0x80 | (code & 63));
  } else {
    out += static_cast<char>(0xf0 | code >> 18);
    out += static_cast<char>(0x80 | (code >> 12 & 63));
    out += static_cast<char>(0x80 | (code >> 6 & 63));
    out += static_cast<char>(0x80 | (code & 63));
  }
}
// Names of members and types are nearly always plain; escapes in them are still understood.
std::string unescape(const char* p, const char* end) {
  static const char from[] = "\"\\/bfnrt", to[] = "\"\\/\b\f\n\r\t";
  auto hex4 = [&](const char* q, unsigned& code) {
    if (end - q < 4) return false;
    auto r = std::from_chars(q, q + 4, code, 16);
    return r.ptr == q + 4;
  };
  std::string out;
  for (; p < end; ++p) {
    if (*p != '\\') {
      out += *p;
      continue;
    }
    if (++p >= end) break;
    if (*p != 'u') {
      const char* known = std::strchr(from, *p);
      if (known && *p) out += to[known - from];
      continue;
    }
    unsigned code = 0, low = 0;
    if (!hex4(p + 1, code)) continue;
    p += 4;
    if (code >= 0xd800 && code < 0xdc00 && end - p > 2 && p[1] == '\\' && p[2] == 'u' &&
        hex4(p + 3, low)) {
      code = 0x10000 + ((code - 0xd800) << 10) + (low - 0xdc00);
      p += 6;
    }
    append_utf8(out, code & 0x1fffff);
  }
  return out;
}
}  // namespace

std::string_view JsonText::key() {
  const char* from = at_ + 1;
  skip_string();
  std::string_view raw(from, at_ - 1 - from);
  if (raw.find('\\') == raw.npos) return raw;
  key_ = unescape(raw.data(), raw.data() + raw.size());
  return key_;
}

std::string JsonText::text(const char* name) {
  if (peek() != '"') fail(std::string("\"") + name + "\" is not text", "put it in quotes");
  const char* from = at_ + 1;
  skip_string();
  return unescape(from, at_ - 1);
}

double JsonText::number(const char* name) {
  double v = 0;
  peek();
  if (!read_number(at_, v))
    fail(std::string("\"") + name + "\" holds something that is not a number",
         "numbers stand without quotes");
  return v;
}

// One scan; brackets are counted, not entered, so that no depth of nesting can exhaust the stack.
std::string_view JsonText::raw_value() {
  char c = peek();
  const char* from = at_;
  if (c == '"') {
    skip_string();
  } else if (c == '{' || c == '[') {
    std::string open;
    do {
      c = *at_;
      if (c == '"') {
        skip_string();
        continue;
      }
      if (c == '{' || c == '[')
        open += c;
      else if (c == '}' || c == ']') {
        if (open.back() != (c == '}' ? '{' : '[')) unexpected();
        open.pop_back();
      }
      ++at_;
    } while (!open.empty() && at_ < end_);
    if (!open.empty()) unexpected();
  } else {
    while (at_ < end_ && !std::strchr(",]} \t\r\n", *at_))
      ++at_;
    if (at_ == from) unexpected();
  }
  return {from, static_cast<size_t>(at_ - from)};
}

void JsonText::fail(const std::string& what, const std::string& mend, const char* at) const {
  FileError e(what, mend);
  at = std::min(at ? at : at_, end_);
  e.feature = feature;
  e.line = 1 + std::count(begin_, at, '\n');
  const char* start = at;
  while (start > begin_ && start[-1] != '\n')
    --start;
  e.column = at - start + 1;
  throw e;
}

void JsonText::unexpected() const {
  if (at_ >= end_)
    fail("the file ends before its last bracket is closed", "it is cut off; fetch it again", end_);
  fail("the text is not valid JSON", "look at this place for a missing comma, bracket or quote");
}

}  // namespace ochre
