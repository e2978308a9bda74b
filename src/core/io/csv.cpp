#include "io/csv.h"
#include "units/quantity.h"
#include "units/text.h"
#include <cstdlib>
#include <csv.h>
#include <fmt/format.h>

namespace ng {
namespace {

/// Rows as libcsv hands them over; no more of them than are read.
struct Collector {
    std::vector<std::vector<std::string>> rows;
    std::vector<std::string> row;
    bool too_many = false;
};

constexpr std::string_view byte_order_mark = "\xef\xbb\xbf";

} // namespace

Result<std::vector<CsvRow>> read_csv(const std::string& whole, const std::string& file) {
    std::string_view text = whole;
    if (text.substr(0, byte_order_mark.size()) == byte_order_mark) text.remove_prefix(byte_order_mark.size());
    csv_parser parser;
    if (csv_init(&parser, CSV_STRICT | CSV_STRICT_FINI) != 0)
        return refuse(file, "it could not be read", "Try again");
    Collector all;
    auto field = [](void* data, std::size_t size, void* to) {
        auto* collector = static_cast<Collector*>(to);
        if (!collector->too_many) collector->row.emplace_back(static_cast<const char*>(data), size);
    };
    auto end_of_row = [](int, void* to) {
        auto* collector = static_cast<Collector*>(to);
        collector->too_many = collector->too_many || collector->rows.size() > most_csv_rows;
        if (!collector->too_many) collector->rows.push_back(std::move(collector->row));
        collector->row.clear();
    };
    const bool good = csv_parse(&parser, text.data(), text.size(), field, end_of_row, &all) == text.size() &&
                      csv_fini(&parser, field, end_of_row, &all) == 0;
    csv_free(&parser);
    if (all.too_many)
        return refuse(file, fmt::format("it has more than {} rows", most_csv_rows),
                      "Keep the rows that are needed");
    if (!good)
        return refuse(file, fmt::format("line {} is not CSV", all.rows.size() + 1),
                      "Check its quotes; see RFC 4180");
    if (all.rows.empty()) return refuse(file, "it is empty", "Give a header row and one row a size");
    for (std::size_t i = 0; i < all.rows.size(); ++i)
        for (const auto& cell : all.rows[i])
            if (!is_utf8(cell))
                return refuse(file, fmt::format("row {}: “{}” is not UTF-8", i + 1, one_line(cell, 60)),
                              "Save the table with UTF-8 as its character set");
    auto header = std::make_shared<CsvHeader>();
    for (std::size_t k = 0; k < all.rows.front().size(); ++k)
        if (!header->try_emplace(all.rows.front()[k], k).second)
            return refuse(file, fmt::format("column “{}” is given twice", all.rows.front()[k]),
                          "Remove one of the two");
    std::vector<CsvRow> out;
    const auto columns = all.rows.front().size();
    for (std::size_t i = 1; i < all.rows.size(); ++i) {
        if (all.rows[i].size() != columns)
            return refuse(
                file, fmt::format("row {} has {} fields, the header {}", i + 1, all.rows[i].size(), columns),
                "Give every row as many fields as the header");
        out.push_back({static_cast<int>(i) + 1, header, std::move(all.rows[i])});
    }
    return out;
}

Result<std::string> CsvRow::text(const std::string& column, const std::string& file) const {
    const auto it = header->find(column);
    if (it == header->end())
        return refuse(file, fmt::format("it has no column “{}”", column), "Add the column");
    return cells[it->second];
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

std::string csv_field(const std::string& given) {
    std::string value = given;
    if (!given.empty() && std::string_view("=+-@\t\r").find(given.front()) != std::string_view::npos) {
        char* end = nullptr;
        std::strtod(given.c_str(), &end);
        if (end != given.c_str() + given.size()) value.insert(value.begin(), '\'');
    }
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
