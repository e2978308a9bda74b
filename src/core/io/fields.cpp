#include "io/fields.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <numeric>
#include <set>

namespace ng {
namespace {
using nlohmann::json;
using nlohmann::ordered_json;
using Type = FieldSpec::Type;

/// Insertions, removals and replacements that turn one word into the other (Levenshtein, 1966).
std::size_t edit_distance(std::string_view a, std::string_view b) {
    std::vector<std::size_t> row(b.size() + 1);
    std::iota(row.begin(), row.end(), std::size_t{0});
    for (std::size_t i = 1; i <= a.size(); ++i) {
        std::size_t diagonal = row[0];
        row[0] = i;
        for (std::size_t j = 1; j <= b.size(); ++j) {
            const std::size_t replaced = diagonal + (std::tolower(static_cast<unsigned char>(a[i - 1])) !=
                                                     std::tolower(static_cast<unsigned char>(b[j - 1])));
            diagonal = row[j];
            row[j] = std::min({row[j] + 1, row[j - 1] + 1, replaced});
        }
    }
    return row.back();
}

bool contains(const std::vector<std::string>& list, const std::string& word) {
    return std::find(list.begin(), list.end(), word) != list.end();
}

std::string one_of(const std::vector<std::string>& words) {
    if (words.size() < 2) return words.empty() ? "" : words.front();
    return fmt::format("{} or {}", fmt::join(words.begin(), words.end() - 1, ", "), words.back());
}

const char* word_for(Type type) {
    switch (type) {
    case Type::number:
        return "a finite number";
    case Type::whole:
        return "a whole number";
    case Type::text:
        return "text";
    case Type::boolean:
        return "true or false";
    case Type::point:
        return "a point [r, z] in mm";
    case Type::points:
        return "a list of points [r, z] in mm";
    case Type::outline:
        return "a list of points and arcs";
    case Type::rows:
        return "a list of rows of two numbers";
    case Type::object:
    case Type::map:
        return "an object { … }";
    case Type::list:
        return "a list [ … ]";
    }
    return "";
}

bool finite(const json& value) {
    return value.is_number() && std::isfinite(value.get<double>());
}
bool is_pair(const json& value) {
    return value.is_array() && value.size() == 2 && finite(value[0]) && finite(value[1]);
}
bool all_pairs(const json& value) {
    return value.is_array() && std::all_of(value.begin(), value.end(), is_pair);
}

bool has_type(const json& value, Type type) {
    switch (type) {
    case Type::number:
        return finite(value);
    case Type::whole:
        return finite(value) && value.get<double>() == std::floor(value.get<double>());
    case Type::text:
        return value.is_string();
    case Type::boolean:
        return value.is_boolean();
    case Type::point:
        return is_pair(value);
    case Type::points:
    case Type::rows:
        return all_pairs(value);
    case Type::outline:
    case Type::list:
        return value.is_array();
    case Type::object:
    case Type::map:
        return value.is_object();
    }
    return false;
}

std::string shown(const json& value) {
    auto text = value.dump(-1, ' ', false, json::error_handler_t::replace);
    if (text.size() > 40) text = text.substr(0, 40) + "…";
    return text;
}

std::string range_of(const FieldSpec& field) {
    return fmt::format("{} {:g} to {:g}", field.above ? "above" : "from", field.least, field.most);
}

Result<void> check_value(const json& value, const FieldSpec& field, const std::string& item) {
    const auto named = fmt::format("“{}”", field.key);
    if (value.is_null())
        return refuse(item, named + " is null",
                      fmt::format("Give it as {}, or leave the field out", word_for(field.type)));
    if (!has_type(value, field.type))
        return refuse(item, fmt::format("{} is {}, not {}", named, shown(value), word_for(field.type)),
                      fmt::format("Give it as {}", word_for(field.type)));
    if (field.type == Type::number || field.type == Type::whole) {
        const double number = value.get<double>();
        if ((field.least != 0 || field.most != 0) &&
            (number < field.least || number > field.most || (field.above && number == field.least)))
            return refuse(item, fmt::format("{} {:g} is out of range", named, number),
                          "Give it " + range_of(field));
    }
    if (field.type == Type::text && !field.choices.empty() &&
        !contains(field.choices, value.get<std::string>()))
        return refuse(item, fmt::format("{} “{}” is unknown", field.key, value.get<std::string>()),
                      fmt::format("Use {}", one_of(field.choices)));
    return {};
}

std::string called(const json& object, const ObjectFields& table, const std::string& otherwise) {
    if (object.is_object() && object.contains("name") && object["name"].is_string() &&
        !object["name"].get_ref<const std::string&>().empty())
        return fmt::format("{} {}", table.name, object["name"].get<std::string>());
    return otherwise;
}

Result<void> check_inside(const json& value, const FieldSpec& field, const std::string& item) {
    switch (field.type) {
    case Type::object:
        return check_fields(value, *field.of, field.of->part_of_owner ? item : field.of->name);
    case Type::list: {
        std::size_t count = 0;
        for (const auto& entry : value)
            if (auto ok =
                    check_fields(entry, *field.of,
                                 called(entry, *field.of, fmt::format("{} {}", field.of->name, ++count)));
                !ok)
                return ok;
        return {};
    }
    case Type::map:
        for (const auto& [name, entry] : value.items())
            if (auto ok = check_fields(entry, *field.of, fmt::format("{} {}", field.of->name, name)); !ok)
                return ok;
        return {};
    case Type::outline: {
        std::size_t count = 0;
        for (const auto& entry : value) {
            ++count;
            if (count > 1 && entry.is_object()) {
                const bool arc = entry.contains("arc_to");
                if (arc && entry.contains("to"))
                    return refuse(item, fmt::format("outline entry {} has both “to” and “arc_to”", count),
                                  "Remove one of the two");
                if (!arc && entry.contains("centre"))
                    return refuse(item, fmt::format("outline entry {} has a “centre” but no “arc_to”", count),
                                  "Write an arc as {\"arc_to\": …, \"centre\": …}, or remove the centre");
                if (auto ok = check_fields(entry, arc ? *field.arc : *field.of, item); !ok) return ok;
            } else if (!is_pair(entry)) {
                return refuse(
                    item,
                    fmt::format("outline entry {}, {}, is neither a point nor an arc", count, shown(entry)),
                    "Use [r, z] in mm, {\"to\": …} or {\"arc_to\": …, \"centre\": …}; the first entry is a "
                    "point");
            }
        }
        return {};
    }
    default:
        return {};
    }
}

ordered_json choice_schema(const std::string& value) {
    return value == "true"    ? ordered_json(true)
           : value == "false" ? ordered_json(false)
                              : ordered_json(value);
}

class SchemaWriter {
  public:
    ordered_json definitions = ordered_json::object();

    ordered_json of(const ObjectFields& table) {
        ordered_json out{{"type", "object"}, {"additionalProperties", false}};
        auto required = ordered_json::array();
        for (const auto& field : table.fields) {
            out["properties"][field.key] = of(field);
            if (field.required) required.push_back(field.key);
        }
        if (!required.empty()) out["required"] = required;
        if (table.decided_by.empty()) return out;
        std::set<std::string> values;
        for (const auto& field : table.fields)
            for (const auto* list : {&field.only_for, &field.required_for})
                values.insert(list->begin(), list->end());
        values.insert(table.without);
        values.erase("");
        if (const auto* decider = table.find(table.decided_by)) {
            values.insert(decider->choices.begin(), decider->choices.end());
            if (decider->type == Type::boolean) values.insert({"true", "false"});
        }
        for (const auto& value : values) {
            ordered_json then = ordered_json::object();
            for (const auto& field : table.fields) {
                if (!field.only_for.empty() && !contains(field.only_for, value))
                    then["properties"][field.key] = false;
                if (contains(field.required_for, value)) then["required"].push_back(field.key);
            }
            if (then.empty()) continue;
            ordered_json condition{{"properties", {{table.decided_by, {{"const", choice_schema(value)}}}}}};
            if (value != table.without) condition["required"] = {table.decided_by};
            out["allOf"].push_back({{"if", condition}, {"then", then}});
        }
        return out;
    }

  private:
    ordered_json reference(const ObjectFields& table) {
        if (!definitions.contains(table.name)) {
            definitions[table.name] = nullptr; // a place in the order
            definitions[table.name] = of(table);
        }
        return {{"$ref", "#/$defs/" + table.name}};
    }
    ordered_json of(const FieldSpec& field) {
        ordered_json out;
        const ordered_json pair{
            {"type", "array"}, {"items", {{"type", "number"}}}, {"minItems", 2}, {"maxItems", 2}};
        switch (field.type) {
        case Type::number:
            out = {{"type", "number"}};
            break;
        case Type::whole:
            out = {{"type", "integer"}};
            break;
        case Type::text:
            out = {{"type", "string"}};
            break;
        case Type::boolean:
            out = {{"type", "boolean"}};
            break;
        case Type::point:
            out = pair;
            break;
        case Type::points:
        case Type::rows:
            out = {{"type", "array"}, {"items", pair}};
            break;
        case Type::outline:
            out = {{"type", "array"},
                   {"prefixItems", ordered_json::array({pair})},
                   {"items",
                    {{"anyOf", ordered_json::array({pair, reference(*field.of), reference(*field.arc)})}}},
                   {"minItems", 2}};
            break;
        case Type::object:
            out = reference(*field.of);
            break;
        case Type::list:
            out = {{"type", "array"}, {"items", reference(*field.of)}};
            break;
        case Type::map:
            out = {{"type", "object"}, {"additionalProperties", reference(*field.of)}};
            break;
        }
        if ((field.type == Type::number || field.type == Type::whole) &&
            (field.least != 0 || field.most != 0)) {
            out[field.above ? "exclusiveMinimum" : "minimum"] = field.least;
            out["maximum"] = field.most;
        }
        if (!field.choices.empty()) out["enum"] = field.choices;
        if (!field.meaning.empty()) out["description"] = field.meaning;
        return out;
    }
};

} // namespace

const FieldSpec* ObjectFields::find(std::string_view key) const {
    const auto it =
        std::find_if(fields.begin(), fields.end(), [&](const auto& field) { return field.key == key; });
    return it == fields.end() ? nullptr : &*it;
}

std::vector<std::string> ObjectFields::keys() const {
    std::vector<std::string> out;
    for (const auto& field : fields) out.push_back(field.key);
    return out;
}

std::string nearest_key(const std::string& key, const std::vector<std::string>& known) {
    std::string nearest;
    std::size_t least =
        std::max<std::size_t>(2, key.size() / 2) + 1; // a word half of which is another is no misspelling
    for (const auto& word : known)
        if (const auto away = edit_distance(key, word); away < least) {
            least = away;
            nearest = word;
        }
    return nearest;
}

Result<void> check_fields(const json& object, const ObjectFields& table, const std::string& item) {
    if (!object.is_object()) return refuse(item, "it is not an object", "Write it as { … }");
    for (const auto& [key, value] : object.items()) {
        if (table.find(key)) continue;
        const auto near = nearest_key(key, table.keys());
        return refuse(item, fmt::format("“{}” is not a field of it", key.substr(0, 60)),
                      near.empty() ? fmt::format("Remove it; known are {}", fmt::join(table.keys(), ", "))
                                   : fmt::format("Did you mean “{}”? Correct or remove it", near));
    }
    // The decider first: what is wrong with it explains the rest.
    std::string kind = table.without;
    if (!table.decided_by.empty()) {
        const auto* decider = table.find(table.decided_by);
        if (object.contains(table.decided_by)) {
            const auto& value = object[table.decided_by];
            if (auto ok = check_value(value, *decider, item); !ok) return ok;
            kind = value.is_boolean() ? (value.get<bool>() ? "true" : "false") : value.get<std::string>();
        }
    }
    const auto because = [&] {
        return table.decided_by.empty() || !table.find(table.decided_by)
                   ? std::string()
                   : fmt::format(" with “{}” {}", table.decided_by, kind);
    };
    for (const auto& field : table.fields) {
        if (!object.contains(field.key)) {
            const bool by_kind = contains(field.required_for, kind);
            if (field.required || by_kind)
                return refuse(item, fmt::format("“{}” is missing{}", field.key, by_kind ? because() : ""),
                              fmt::format("Add it as {}", field.choices.empty() ? word_for(field.type)
                                                                                : one_of(field.choices)));
            continue;
        }
        if (!field.only_for.empty() && !contains(field.only_for, kind))
            return refuse(item, fmt::format("“{}” has no meaning{}", field.key, because()),
                          fmt::format("Remove one of the two; it belongs to {}", one_of(field.only_for)));
        if (auto ok = check_value(object[field.key], field, item); !ok) return ok;
        if (auto ok = check_inside(object[field.key], field, item); !ok) return ok;
    }
    return {};
}

ordered_json schema_of(const ObjectFields& table, const std::string& title) {
    SchemaWriter writer;
    auto out = writer.of(table);
    ordered_json document{{"$schema", "https://json-schema.org/draft/2020-12/schema"}, {"title", title}};
    document.update(out);
    document["$defs"] = writer.definitions;
    return document;
}

} // namespace ng
