// Texts that are one number each, written in one way between the same words: "Town 1,234.5 visits".
// A text that is written in any other way, be it by one mark, is none of them.
#pragma once
#include <cstdint>
#include <cstring>
#include <string>

namespace ochre {

struct Writing {
  std::string before, after, minus, thousands, point;
  int decimals = 0;
  bool grouped = false;  // thousands marks in whole numbers of more than three digits
  size_t width = 0;      // digits of a code that begins with zeros; 0 for numbers
};

struct WrittenNumber {
  bool fits = false;
  double value = 0;
};

class NumberReader {
 public:
  NumberReader(const Writing& writing, const char* text, size_t size)
      : w_(writing), at_(text), end_(text + size) {}

  WrittenNumber read() {
    WrittenNumber none;
    if (static_cast<size_t>(end_ - at_) < w_.before.size() + w_.after.size()) return none;
    if (!eat(w_.before)) return none;
    end_ -= w_.after.size();
    if (std::memcmp(end_, w_.after.data(), w_.after.size()) != 0) return none;
    const bool negative = !w_.minus.empty() && eat(w_.minus);
    if (!(w_.width ? code() : whole()) || !part() || at_ != end_) return none;
    // More digits than a page can count on, and a zero with a minus, are written otherwise.
    if (digits_ > kMostDigits || (negative && number_ == 0)) return none;
    double value = static_cast<double>(number_);
    for (int i = 0; i < w_.decimals; ++i)
      unit_ *= 10;
    return {true, (negative ? -value : value) / unit_};
  }

 private:
  static constexpr uint64_t kMostDigits = 15;

  bool eat(const std::string& word) {
    if (static_cast<size_t>(end_ - at_) < word.size()) return false;
    if (std::memcmp(at_, word.data(), word.size()) != 0) return false;
    at_ += word.size();
    return true;
  }

  size_t run() {
    const char* from = at_;
    for (; at_ < end_ && *at_ >= '0' && *at_ <= '9'; ++at_) {
      if (number_ > 0 || *at_ != '0') ++digits_;
      if (digits_ <= kMostDigits) number_ = 10 * number_ + static_cast<uint64_t>(*at_ - '0');
    }
    return static_cast<size_t>(at_ - from);
  }
  bool code() { return run() == w_.width; }
  bool whole() {
    const char* from = at_;
    const size_t first = run();
    if (first == 0 || (*from == '0' && first > 1)) return false;
    if (!w_.grouped) return true;
    if (first > 3) return false;
    const bool leads = *from != '0';
    while (leads && !w_.thousands.empty() && eat(w_.thousands))
      if (run() != 3) return false;
    return true;
  }
  bool part() {
    if (w_.decimals == 0) return true;
    return eat(w_.point) && run() == static_cast<size_t>(w_.decimals);
  }

  const Writing& w_;
  const char *at_, *end_;
  uint64_t number_ = 0, digits_ = 0;
  double unit_ = 1;
};

}  // namespace ochre
