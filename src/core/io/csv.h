// CSV files (RFC 4180) with a header row, read by libcsv.
#pragma once
#include "units/result.h"
#include <map>
#include <string>
#include <vector>

namespace ng {

/// Rows by column name; `line` is the row's number in the file, the header being 1.
struct CsvRow {
    int line = 0;
    std::map<std::string, std::string> cells;

    Result<std::string> text(const std::string& column, const std::string& file) const;
    Result<double> number(const std::string& column, const std::string& file) const;
};

Result<std::vector<CsvRow>> read_csv(const std::string& text, const std::string& file);
/// One field, quoted where it must be.
std::string csv_field(const std::string& value);
/// A whole row with its line end.
std::string csv_line(const std::vector<std::string>& values);

} // namespace ng
