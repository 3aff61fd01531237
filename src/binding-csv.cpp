// The account of a delimited text, for R/read-delimited.R; numbers in texts, one by one.
#include <cctype>
#include <cstring>

#include "binding-bridge.h"
#include "core/csv-account.hpp"
#include "core/geojson.hpp"
#include "core/numbers.hpp"
#include "core/written-number.hpp"

using Rcpp::List;
using Rcpp::Named;
using Rcpp::NumericVector;

// What account_csv() found; `odd` are the records with another number of fields than the header.
// [[Rcpp::export]]
List csv_account_core(const std::string& path, const std::string& delimiter, double skip_lines) {
  return guarded([&]() {
    ochre::FileText text(path);
    ochre::CsvAccount a =
        ochre::account_csv(text.data(), text.size(), delimiter[0], static_cast<size_t>(skip_lines));
    size_t n = a.odd.size();
    NumericVector number(n), line(n), start(n);
    Rcpp::IntegerVector fields(n), filled(n);
    for (size_t i = 0; i < n; ++i) {
      number[i] = double(a.odd[i].number);
      fields[i] = int(a.odd[i].fields);
      filled[i] = int(a.odd[i].filled);
      line[i] = double(a.odd[i].line);
      start[i] = double(a.odd[i].start);
    }
    List odd = List::create(Named("number") = number, Named("fields") = fields,
                            Named("filled") = filled, Named("line") = line, Named("start") = start);
    return List::create(Named("records") = double(a.records), Named("fields") = double(a.fields),
                        Named("odd") = odd, Named("end") = double(a.end),
                        Named("blank") = double(a.blank), Named("open_line") = double(a.open_line),
                        Named("to_the_end") = a.to_the_end, Named("nul_line") = double(a.nul_line),
                        Named("lone_returns") = a.lone_returns,
                        Named("ends_in_line_end") = a.ends_in_line_end);
  });
}

namespace {

// Four letters at its start: no number with a currency before it, and no mark for a missing one.
bool is_word(const char* text) {
  for (int i = 0; i < 4; ++i)
    if (!std::isalpha(static_cast<unsigned char>(text[i]))) return false;
  return std::strcmp(text, "null") != 0 && std::strcmp(text, "NULL") != 0;
}

}  // namespace

// Texts that are numbers as they stand: their `value`, missing for others; `codes`: whether any is
// rather a code; `word`, which of them begin with letters as no number does.
// [[Rcpp::export]]
List plain_numbers_core(const Rcpp::CharacterVector& text) {
  return guarded([&]() {
    NumericVector value(text.size(), NA_REAL);
    Rcpp::LogicalVector word(text.size());
    bool codes = false;
    char copy[128] = {0};
    for (R_xlen_t i = 0; i < text.size(); ++i) {
      const SEXP one = STRING_ELT(text, i);
      const size_t size = static_cast<size_t>(LENGTH(one));
      if (one == NA_STRING) continue;
      word[i] = is_word(CHAR(one));
      if (word[i] || size > 100) continue;
      std::memcpy(copy, CHAR(one), size);
      std::memset(copy + size, 0, 16);
      const ochre::PlainNumber number = ochre::plain_number(copy, size);
      if (number.plain) value[i] = number.value;
      codes = codes || number.code;
    }
    return List::create(Named("value") = value, Named("codes") = codes, Named("word") = word);
  });
}

// The numbers of texts that are written as `writing` says; missing for all others.
// [[Rcpp::export]]
List written_numbers_core(const Rcpp::CharacterVector& text, const List& writing) {
  return guarded([&]() {
    auto word = [&](const char* name) {
      return Rcpp::as<std::string>(writing[name]);
    };
    const ochre::Writing how = {word("before"),
                                word("after"),
                                word("minus"),
                                word("thousands"),
                                word("point"),
                                Rcpp::as<int>(writing["decimals"]),
                                Rcpp::as<bool>(writing["grouped"]),
                                static_cast<size_t>(Rcpp::as<int>(writing["width"]))};
    NumericVector value(text.size(), NA_REAL);
    for (R_xlen_t i = 0; i < text.size(); ++i) {
      const SEXP one = STRING_ELT(text, i);
      if (one == NA_STRING) continue;
      const ochre::WrittenNumber number =
          ochre::NumberReader(how, CHAR(one), static_cast<size_t>(LENGTH(one))).read();
      if (number.fits) value[i] = number.value;
    }
    return List::create(Named("value") = value);
  });
}
