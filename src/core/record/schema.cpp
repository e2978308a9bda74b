#include "record/schema.h"
#include <SQLiteCpp/Statement.h>
#include <fmt/format.h>
#include <map>

namespace ng {
namespace {

/// A view of one kind of row, its body in columns, without what was corrected.
std::string view(const std::string& name, const std::string& kind, const std::vector<std::string>& fields) {
    std::string columns;
    for (const auto& field : fields) columns += fmt::format(", body ->> '$.{}' AS \"{}\"", field, field);
    return fmt::format(
        "CREATE VIEW {} AS SELECT number, accessory, at_utc, role, initials, instrument{} FROM entry WHERE "
        "kind = '{}' AND number NOT IN (SELECT corrects FROM entry WHERE corrects IS NOT NULL)",
        name, columns, kind);
}

} // namespace

const std::vector<std::string>& log_schema() {
    static const std::vector<std::string> statements{
        "CREATE TABLE entry (number INTEGER PRIMARY KEY, kind TEXT NOT NULL, role TEXT NOT NULL, "
        "initials TEXT NOT NULL, at_utc TEXT NOT NULL, at_local TEXT NOT NULL, accessory INTEGER REFERENCES "
        "entry(number), instrument INTEGER REFERENCES entry(number), corrects INTEGER REFERENCES "
        "entry(number), why TEXT NOT NULL, body TEXT NOT NULL, previous TEXT NOT NULL UNIQUE, hash TEXT NOT "
        "NULL UNIQUE) STRICT",
        "CREATE TRIGGER entry_unchanged BEFORE UPDATE ON entry BEGIN SELECT RAISE(ABORT, 'rows are never "
        "changed'); END",
        "CREATE TRIGGER entry_kept BEFORE DELETE ON entry BEGIN SELECT RAISE(ABORT, 'rows are never taken "
        "out'); END",
        "CREATE TRIGGER entry_not_replaced BEFORE INSERT ON entry WHEN EXISTS (SELECT 1 FROM entry WHERE "
        "number = "
        "NEW.number OR previous = NEW.previous OR hash = NEW.hash) BEGIN SELECT RAISE(ABORT, 'rows are never "
        "replaced'); "
        "END",
        "CREATE TRIGGER entry_in_order BEFORE INSERT ON entry WHEN NEW.number IS NOT (SELECT "
        "coalesce(max(number), 0) + 1 "
        "FROM entry) OR NEW.previous IS NOT coalesce((SELECT hash FROM entry ORDER BY number DESC LIMIT 1), "
        "'0000000000000000000000000000000000000000000000000000000000000000') BEGIN SELECT RAISE(ABORT, 'a "
        "row follows from "
        "the one before it'); END",
        view("accessories", "accessory",
             {"design", "title", "place", "phase", "drum", "kit", "batch", "jointer"}),
        view("instruments", "instrument",
             {"instrument", "serial", "calibrated_on", "due_on", "uncertainty", "unit"}),
        view("readings", "reading",
             {"label", "side", "core", "value", "unit", "designed", "lowest", "highest", "whose", "step",
              "typed"}),
        view("hold_points", "hold_point", {"step", "check", "found", "decision", "against", "reason"}),
        view("faults", "fault", {"words", "side", "size_mm", "decision", "reason", "step"}),
        view("parts", "part", {"part", "size", "batch", "quantity"}),
        view("files", "file", {"name", "sha256", "bytes", "about"}),
        view("tests", "test", {"title", "level", "unit", "minutes", "result", "why", "limits"}),
        view("sign_offs", "sign_off", {"closes", "rows", "hash", "open", "reason"}),
        view("notes", "note", {"text", "step"})};
    return statements;
}

std::vector<std::string> schema_differences(SQLite::Database& database) {
    std::map<std::string, std::string> expected;
    for (const auto& statement : log_schema()) {
        const auto kind_end = statement.find(' ', 7), name_end = statement.find_first_of(" (", kind_end + 1);
        expected[statement.substr(kind_end + 1, name_end - kind_end - 1)] = statement;
    }
    std::vector<std::string> out;
    SQLite::Statement ask(database, "SELECT type, name, sql FROM sqlite_schema WHERE sql IS NOT NULL");
    while (ask.executeStep()) {
        const auto name = ask.getColumn(1).getString();
        const auto it = expected.find(name);
        if (it == expected.end())
            out.push_back(
                fmt::format("the {} “{}” is not of this program", ask.getColumn(0).getString(), name));
        else if (it->second != ask.getColumn(2).getString())
            out.push_back(fmt::format("the {} “{}” was changed", ask.getColumn(0).getString(), name));
        if (it != expected.end()) expected.erase(it);
    }
    for (const auto& [name, sql] : expected)
        out.push_back(
            fmt::format("“{}”, which keeps rows from being changed or makes them readable, is gone", name));
    return out;
}

} // namespace ng
