#include "io/csv.h"
#include "units/quantity.h"
#include <csv.h>
#include <fmt/format.h>

namespace ng {
namespace {

struct Collector {
    std::vector<std::vector<std::string>> rows;
    std::vector<std::string> row;
};

} // namespace

Result<std::vector<CsvRow>> read_csv(const std::string& text, const std::string& file) {
    csv_parser parser;
    if (csv_init(&parser, CSV_STRICT | CSV_STRICT_FINI) != 0)
        return refuse(file, "it could not be read", "Try again");
    Collector all;
    auto field = [](void* data, std::size_t size, void* to) {
        static_cast<Collector*>(to)->row.emplace_back(static_cast<const char*>(data), size);
    };
    auto end_of_row = [](int, void* to) {
        auto* collector = static_cast<Collector*>(to);
        collector->rows.push_back(std::move(collector->row));
        collector->row.clear();
    };
    const bool good = csv_parse(&parser, text.data(), text.size(), field, end_of_row, &all) == text.size() &&
                      csv_fini(&parser, field, end_of_row, &all) == 0;
    csv_free(&parser);
    if (!good)
        return refuse(file, fmt::format("line {} is not CSV", all.rows.size() + 1),
                      "Check its quotes; see RFC 4180");
    if (all.rows.empty()) return refuse(file, "it is empty", "Give a header row and one row a size");
    std::vector<CsvRow> out;
    const auto& header = all.rows.front();
    for (std::size_t i = 1; i < all.rows.size(); ++i) {
        if (all.rows[i].size() != header.size())
            return refuse(
                file,
                fmt::format("row {} has {} fields, the header {}", i + 1, all.rows[i].size(), header.size()),
                "Give every row as many fields as the header");
        CsvRow row;
        row.line = static_cast<int>(i) + 1;
        for (std::size_t k = 0; k < header.size(); ++k) row.cells[header[k]] = all.rows[i][k];
        out.push_back(std::move(row));
    }
    return out;
}

Result<std::string> CsvRow::text(const std::string& column, const std::string& file) const {
    const auto it = cells.find(column);
    if (it == cells.end())
        return refuse(file, fmt::format("it has no column “{}”", column), "Add the column");
    return it->second;
}

Result<double> CsvRow::number(const std::string& column, const std::string& file) const {
    const auto words = text(column, file);
    if (!words) return tl::unexpected(words.error());
    const auto value = parse_number(*words, "");
    if (!value)
        return refuse(file, fmt::format("row {}: “{}” under “{}” is not a number", line, *words, column),
                      "Correct the row");
    return *value;
}

std::string csv_field(const std::string& value) {
    if (value.find_first_of(",\"\r\n") == std::string::npos) return value;
    std::string out = "\"";
    for (const char c : value) out += c == '"' ? std::string("\"\"") : std::string(1, c);
    return out + "\"";
}

std::string csv_line(const std::vector<std::string>& values) {
    std::string out;
    for (std::size_t i = 0; i < values.size(); ++i) out += (i ? "," : "") + csv_field(values[i]);
    return out + "\r\n";
}

} // namespace ng
