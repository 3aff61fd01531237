// The one translation unit that includes simdjson (it is slow to compile).
#include "properties.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#if defined(__GNUC__)
#pragma GCC diagnostic push
#pragma GCC diagnostic ignored "-Wunused-function"
#pragma GCC diagnostic ignored "-Wunused-parameter"
#endif
// Two kernels (AVX2 and portable) are enough; each one more makes this file slower to compile.
#ifndef SIMDJSON_IMPLEMENTATION_ICELAKE
#define SIMDJSON_IMPLEMENTATION_ICELAKE 0
#endif
#ifndef SIMDJSON_IMPLEMENTATION_WESTMERE
#define SIMDJSON_IMPLEMENTATION_WESTMERE 0
#endif
#include "simdjson.h"
#include "simdjson.cpp"  // NOLINT(bugprone-suspicious-include): how simdjson ships
#if defined(__GNUC__)
#pragma GCC diagnostic pop
#endif

namespace ochre {

namespace json = simdjson::ondemand;

namespace {

struct Fault {
  const char* what;
  const char* mend;
  const char* at = nullptr;
};

std::string_view trimmed(std::string_view s) {
  while (!s.empty() && static_cast<unsigned char>(s.back()) <= ' ')
    s.remove_suffix(1);
  return s;
}

// Texts without the character U+0000, and how many had it.
class Texts {
 public:
  std::string_view operator()(std::string_view s) {
    if (s.find('\0') == s.npos) return s;
    ++with_nul;
    without_ = s;
    without_.erase(std::remove(without_.begin(), without_.end(), '\0'), without_.end());
    return without_;
  }
  size_t with_nul = 0;

 private:
  std::string without_;
};

// Whole numbers that a double cannot hold are identifiers: they stay text, digit by digit.
void store_number(Column& column, size_t row, std::string_view token,
                  simdjson::simdjson_result<double>&& value) {
  bool whole = token.find_first_of(".eE") == token.npos;
  if (whole && token.size() > 15) {
    double d = 0;
    if (std::move(value).get(d)) d = std::numeric_limits<double>::infinity();
    if (std::fabs(d) > 9007199254740992.0) {
      column.set_text(row, token);
      return;
    }
    column.set_number(row, d, true);
    return;
  }
  column.set_number(row, std::move(value).value(), whole);
}

// The text of an array or object that stays as it is, once all of it is known to be JSON.
std::string_view checked_json(json::value value, simdjson::dom::parser& checker) {
  std::string_view raw = trimmed(value.raw_json());
  simdjson::dom::element whole;
  if (checker.parse(raw.data(), raw.size(), false).get(whole))
    throw Fault{
        "an array or object is not valid JSON",
        "look into it for a number with a leading zero, a missing value or a word without quotes",
        raw.data()};
  return raw;
}

class Storing {
 public:
  explicit Storing(ColumnSet& columns, Texts& texts, simdjson::dom::parser& checker)
      : columns_(columns), texts_(texts), checker_(checker) {}

  void value(Column& column, size_t row, json::value value) {
    switch (value.type().value()) {
      case json::json_type::string:
        column.set_text(row, texts_(value.get_string()));
        break;
      case json::json_type::boolean:
        column.set_logical(row, value.get_bool());
        break;
      case json::json_type::number: {
        std::string_view token = trimmed(value.raw_json_token());
        store_number(column, row, token, value.get_double());
        break;
      }
      case json::json_type::null:
        if (!bool(value.is_null()))
          throw Fault{"a value is not valid JSON",
                      "null, true and false are written in small letters"};
        break;
      default:
        column.set_text(row, checked_json(value, checker_));
        break;
    }
  }

  void object(size_t row, json::object object, const std::string& prefix, int depth) {
    for (auto member : object) {
      std::string_view key = texts_(member.unescaped_key());
      json::value inner = member.value();
      if (inner.type() == json::json_type::object && depth < 8) {
        this->object(row, inner.get_object(), prefix + std::string(key) + ".", depth + 1);
      } else if (prefix.empty()) {
        value(columns_.find(key), row, inner);
      } else {
        value(columns_.find(prefix + std::string(key)), row, inner);
      }
    }
  }

 private:
  ColumnSet& columns_;
  Texts& texts_;
  simdjson::dom::parser& checker_;
};

[[noreturn]] void fail(JsonText& text, const char* at, simdjson::error_code code) {
  switch (code) {
    case simdjson::UNCLOSED_STRING:
      text.fail("a text in quotes is never closed", "the file may be cut off; fetch it again", at);
    case simdjson::NUMBER_ERROR:
      text.fail("a number is not valid JSON",
                "numbers have a point, no thousands mark and no leading zero", at);
    case simdjson::CAPACITY:
    case simdjson::MEMALLOC:
      text.fail("the file is too large to be read at once", "split it, or leave out columns", at);
    case simdjson::DEPTH_ERROR:
      text.fail("the brackets are nested too deep", "this is not a file of boundaries", at);
    default:
      text.fail("the text is not valid JSON",
                "look at this place for a missing comma, bracket or quote", at);
  }
}

}  // namespace

struct PropertyReader::Parser {
  json::parser parser;
  simdjson::dom::parser checker;
  Texts texts;

  template <class Work>
  void run(JsonText& text, Work work) {
    const char* from = text.at();
    std::string_view raw = text.raw_value();
    json::document doc;
    const char* here = nullptr;
    auto error = parser.iterate(raw.data(), raw.size(), raw.size() + JsonText::kPadding).get(doc);
    if (error) fail(text, from, error);
    try {
      work(doc);
      if (!doc.at_end()) throw simdjson::simdjson_error(simdjson::TAPE_ERROR);
    } catch (const Fault& f) {
      if (f.at)
        here = f.at;
      else if (doc.current_location().get(here))
        here = from;
      text.fail(f.what, f.mend, here);
    } catch (const simdjson::simdjson_error& e) {
      if (doc.current_location().get(here)) here = from;
      fail(text, here, e.error());
    }
  }
};

PropertyReader::PropertyReader() : parser_(new Parser) {}
PropertyReader::~PropertyReader() = default;
size_t PropertyReader::with_nul() const {
  return parser_->texts.with_nul;
}

void PropertyReader::object(JsonText& text, ColumnSet& columns, size_t row) {
  columns.start_row();
  if (text.peek() == 'n' && text.is_null()) return;
  if (text.peek() != '{')
    text.fail("\"properties\" is neither an object nor null", "see RFC 7946, section 3.2");
  parser_->run(text, [&](json::document& doc) {
    Storing(columns, parser_->texts, parser_->checker).object(row, doc.get_object(), "", 0);
  });
}

void PropertyReader::id(JsonText& text, Column& column, size_t row) {
  char c = text.peek();
  if (c == 'n' && text.is_null()) return;
  if (c != '"' && c != '-' && !(c >= '0' && c <= '9'))
    text.fail("\"id\" is neither text nor a number", "see RFC 7946, section 3.2");
  parser_->run(text, [&](json::document& doc) {
    if (c == '"') {
      column.set_text(row, parser_->texts(doc.get_string()));
      return;
    }
    std::string_view token = trimmed(doc.raw_json_token());
    store_number(column, row, token, doc.get_double());
  });
}

const char* bad_utf8(const char* text, size_t size) {
  if (simdjson::validate_utf8(text, size)) return nullptr;
  const unsigned char* p = reinterpret_cast<const unsigned char*>(text);
  size_t i = 0;
  while (i < size) {
    int more = p[i] < 0x80         ? 0
               : (p[i] >> 5) == 6  ? 1
               : (p[i] >> 4) == 14 ? 2
               : (p[i] >> 3) == 30 ? 3
                                   : -1;
    bool good = more >= 0 && i + more < size;
    for (int k = 1; good && k <= more; ++k)
      good = (p[i + k] >> 6) == 2;
    if (!good) break;
    i += 1 + more;
  }
  return text + i;
}

}  // namespace ochre
