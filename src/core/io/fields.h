// Fields of documents as tables: what a table says is checked, explained and published as a JSON Schema, from
// one place.
//
// A document that passes check_fields() has every field that its kind requires, none that the table does not
// know, and every value of its type and range. What the table cannot say (that outlines do not cross, that
// names are known) is the reader's and the validator's work.
#pragma once
#include "units/result.h"
#include <nlohmann/json.hpp>
#include <string>
#include <string_view>
#include <vector>

namespace ng {

struct ObjectFields;

/// One field of an object. Values lie in [least, most]; `above`: they are greater than `least`.
struct FieldSpec {
    enum class Type { number, whole, text, boolean, point, points, outline, rows, object, list, map };
    std::string key;
    Type type = Type::number;
    std::string meaning;
    bool required = false;
    double least = 0, most = 0; ///< numbers only; both 0: any finite number
    bool above = false;
    std::vector<std::string> choices = {}; ///< text only
    const ObjectFields* of =
        nullptr; ///< of the object, of each item of the list, or of each value of the map
    std::vector<std::string> only_for = {}; ///< values of the object's `decided_by` that allow it; empty: all
    std::vector<std::string> required_for = {}; ///< and that require it
    const ObjectFields* arc =
        nullptr; ///< of an outline: of entries with "arc_to"; `of` is of those with "to"
};

struct ObjectFields {
    std::string name; ///< in messages and in the schema: "material"
    std::vector<FieldSpec> fields;
    std::string decided_by =
        {}; ///< key whose value (text, or true and false) decides what else is allowed and required
    std::string without = {};   ///< the value that stands for it when it is absent
    bool part_of_owner = false; ///< messages call it by the item that it belongs to
    const FieldSpec* find(std::string_view key) const;
    std::vector<std::string> keys() const;
};

/// The known key that `key` is most likely meant for, or empty when none is near.
std::string nearest_key(const std::string& key, const std::vector<std::string>& known);

/// Refuses the first thing in `object` that its table does not allow. `item`: what it is called in the
/// message; items of lists are called by their table's name and their "name".
Result<void> check_fields(const nlohmann::json& object, const ObjectFields& table, const std::string& item);

/// JSON Schema (draft 2020-12) of documents of this table.
nlohmann::ordered_json schema_of(const ObjectFields& table, const std::string& title);

} // namespace ng
