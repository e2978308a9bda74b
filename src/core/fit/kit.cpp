#include "fit/kit.h"
#include <fmt/format.h>
#include <set>
#include <tuple>

namespace ng {
namespace {

/// What the families ask sizes for; a part of a side or layer begins with one of these.
constexpr std::initializer_list<const char*> kit_parts{
    "body", "dual-wall tube", "graded layer", "insulating tube", "oil barrier", "sleeve", "stress tube"};

/// Reads cells one after another; the first that fails is kept.
class Cells {
  public:
    Cells(const CsvRow& row, const std::string& file) : row_(row), file_(file) {}
    std::string text(const char* column) { return take(row_.text(column, file_), std::string()); }
    double number(const char* column) { return take(row_.number(column, file_), 0.0); }
    std::string one_of(const char* column, std::initializer_list<const char*> words) {
        const auto value = text(column);
        for (const char* word : words)
            if (value == word) return value;
        if (!error) {
            std::string list;
            for (const char* word : words) list += (list.empty() ? "" : ", ") + std::string(word);
            error = InputError{file_,
                               fmt::format("row {}: “{}” under “{}” is not known", row_.line, value, column),
                               "Use one of: " + list};
        }
        return value;
    }
    std::optional<InputError> error;

  private:
    template <class T> T take(Result<T> value, T otherwise) {
        if (value) return *value;
        if (!error) error = value.error();
        return otherwise;
    }
    const CsvRow& row_;
    const std::string& file_;
};

} // namespace

Result<std::vector<KitSize>> read_kit_table(const std::string& text, const std::string& file) {
    const auto rows = read_csv(text, file);
    if (!rows) return tl::unexpected(rows.error());
    std::vector<KitSize> out;
    std::set<std::tuple<std::string, std::string, std::string>> seen;
    for (const auto& row : *rows) {
        Cells cell(row, file);
        KitSize size;
        size.part = cell.one_of("part", kit_parts);
        const auto kind = cell.one_of("kind", {"shrink", "cold-shrink", "slip-on"});
        size.kind = kind == "shrink"        ? FitItem::Kind::shrink
                    : kind == "cold-shrink" ? FitItem::Kind::cold_shrink
                                            : FitItem::Kind::slip_on;
        size.size = cell.text("size");
        size.tube = {cell.number("expanded_bore_mm"), cell.number("recovered_bore_mm"),
                     cell.number("recovered_wall_mm")};
        if (cell.error) return tl::unexpected(*cell.error);
        if (!(size.tube.recovered_bore_mm > 0) || !(size.tube.recovered_wall_mm > 0) ||
            !(size.tube.expanded_bore_mm > size.tube.recovered_bore_mm))
            return refuse(file, fmt::format("row {}: its bores and wall do not make a part", row.line),
                          "Give an expanded bore above the recovered bore, and a wall above 0");
        if (!seen.insert({size.part, kind, size.size}).second)
            return refuse(
                file,
                fmt::format("row {}: size “{}” of the {} is given twice", row.line, size.size, size.part),
                "Remove one of the two, or name them apart");
        out.push_back(std::move(size));
    }
    return out;
}

Result<std::vector<Connector>> read_connectors(const std::string& text, const std::string& file) {
    const auto rows = read_csv(text, file);
    if (!rows) return tl::unexpected(rows.error());
    std::vector<Connector> out;
    std::set<std::string> seen;
    for (const auto& row : *rows) {
        Cells cell(row, file);
        Connector c;
        c.id = cell.text("id");
        c.use = cell.one_of("use", {"lug", "joint"});
        c.method = cell.one_of("method", {"compression", "shear-bolt"});
        c.material = cell.one_of("material", {"copper", "aluminium", "either"});
        c.least_mm2 = cell.number("least_mm2");
        c.most_mm2 = cell.number("most_mm2");
        c.bore_mm = cell.number("bore_mm");
        c.diameter_mm = cell.number("diameter_mm");
        c.length_mm = cell.number("length_mm");
        c.die = cell.text("die");
        c.crimps = static_cast<int>(cell.number("crimps_each_side"));
        if (cell.error) return tl::unexpected(*cell.error);
        if (!seen.insert(c.id).second)
            return refuse(file, fmt::format("row {}: connector “{}” is given twice", row.line, c.id),
                          "Remove one of the two, or name them apart");
        if (!(c.least_mm2 > 0 && c.most_mm2 >= c.least_mm2 && c.bore_mm > 0 && c.diameter_mm > c.bore_mm &&
              c.length_mm > 0))
            return refuse(file, fmt::format("row {}: its ranges and sizes do not make a connector", row.line),
                          "Give least_mm2 up to most_mm2, and a diameter above the bore");
        out.push_back(std::move(c));
    }
    return out;
}

} // namespace ng
