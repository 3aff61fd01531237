// A cursor over JSON text that is whole in memory. It walks objects and arrays member by member
// without an index of the whole text, passes over what nobody asks for in one scan, and says
// where a fault lies. Values with many kinds (properties) are handed on as a stretch of text.
#pragma once
#include <cstddef>
#include <string>
#include <string_view>

#include "file-error.hpp"

namespace ochre {

class JsonText {
 public:
  // The text must go on for kPadding readable bytes after its end.
  static constexpr size_t kPadding = 64;
  JsonText(const char* data, size_t size) : begin_(data), end_(data + size), at_(data) {}

  const char* at() const { return at_; }
  void move(const char* to) { at_ = to; }
  bool done() const { return at_ >= end_; }
  double share() const { return double(at_ - begin_) / double(end_ - begin_ + 1); }
  long feature = 0;  // named in faults

  char peek() {
    while (at_ < end_ && (*at_ == ' ' || *at_ == '\n' || *at_ == '\r' || *at_ == '\t'))
      ++at_;
    return at_ < end_ ? *at_ : '\0';
  }
  bool take(char c) {
    if (peek() != c) return false;
    ++at_;
    return true;
  }
  bool is_null();

  // Calls `member(key)` for each member with the cursor on its value, which it must pass.
  template <class Member>
  void object(Member member) {
    ++at_;
    if (take('}')) return;
    do {
      if (peek() != '"') unexpected();
      std::string_view name = key();
      if (!take(':')) unexpected();
      peek();
      member(name);
    } while (take(','));
    if (!take('}')) unexpected();
  }
  template <class Element>
  void array(Element element) {
    ++at_;
    if (take(']')) return;
    do {
      peek();
      element();
    } while (take(','));
    if (!take(']')) unexpected();
  }

  std::string_view raw_value();        // the stretch of text of the value here; passes it
  std::string text(const char* name);  // a string, unescaped
  double number(const char* name);

  [[noreturn]] void fail(const std::string& what, const std::string& mend,
                         const char* at = nullptr) const;
  [[noreturn]] void unexpected() const;  // the JSON itself is broken here

 private:
  std::string_view key();
  void skip_string();
  const char* begin_;
  const char* end_;
  const char* at_;
  std::string key_;
};

}  // namespace ochre
