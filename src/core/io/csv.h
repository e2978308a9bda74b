// CSV files (RFC 4180) with a header row, read by libcsv.
#pragma once
#include "units/result.h"
#include <map>
#include <memory>
#include <string>
#include <vector>

namespace ng {

/// Where each column is, by its name.
using CsvHeader = std::map<std::string, std::size_t>;
constexpr int most_csv_rows = 100000;

/// A row; `line` is its number in the file, the header being 1.
struct CsvRow {
    int line = 0;
    std::shared_ptr<const CsvHeader> header;
    std::vector<std::string> cells;

    Result<std::string> text(const std::string& column, const std::string& file) const;
    Result<double> number(const std::string& column, const std::string& file) const;
};

/// With or without a byte-order mark, lines ending as they may. Refuses by row what is not UTF-8, rows of
/// another length than the header, a column given twice, and more than `most_csv_rows`.
Result<std::vector<CsvRow>> read_csv(const std::string& text, const std::string& file);
/// One field, quoted where it must be. Text that a spreadsheet would take for a formula (it begins with = + -
/// @ and is no number) gets an apostrophe before it (OWASP, CSV injection).
std::string csv_field(const std::string& value);
/// A whole row with its line end.
std::string csv_line(const std::vector<std::string>& values);

} // namespace ng
