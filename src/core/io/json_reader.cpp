#include "io/json_reader.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <functional>
#include <set>
#include <vector>

namespace ng {

namespace {

/// No file of ours nests deeper than a dozen; what walks a document goes down by calls.
constexpr int most_depth = 100;

/// Thrown out of the parser: the text nests deeper than that.
struct TooDeep {};

/// Told of each event while a text is parsed (nlohmann's SAX callback): the first key that an object has
/// twice.
class DuplicateKeys {
  public:
    bool operator()(int depth, nlohmann::json::parse_event_t event, nlohmann::json& parsed) {
        using Event = nlohmann::json::parse_event_t;
        if (depth > most_depth) throw TooDeep{};
        if (event == Event::object_start) {
            open_.emplace_back();
        } else if (event == Event::object_end) {
            open_.pop_back();
        } else if (event == Event::key) {
            auto key = parsed.get<std::string>();
            if (!open_.back().insert(key).second && found_.empty()) found_ = key.substr(0, 60);
        }
        return true;
    }
    const std::string& found() const { return found_; }

  private:
    std::vector<std::set<std::string>> open_;
    std::string found_;
};

} // namespace

Result<nlohmann::json> parse_json(const std::string& text, const std::string& file_name) {
    DuplicateKeys duplicates;
    try {
        auto document = nlohmann::json::parse(text, std::ref(duplicates));
        if (!duplicates.found().empty())
            return refuse(file_name, fmt::format("“{}” is given twice in one object", duplicates.found()),
                          "Remove one of the two: which of them is meant cannot be told");
        return document;
    } catch (const nlohmann::json::parse_error& error) {
        const auto at = std::min<std::size_t>(error.byte, text.size());
        const auto line = 1 + std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(at), '\n');
        if (at >= text.size())
            return refuse(file_name,
                          fmt::format("the file ends unexpectedly at line {}: it looks truncated", line),
                          "Restore it from a copy or from the autosave");
        return refuse(file_name, fmt::format("not valid JSON at line {}", line),
                      "Correct it there, or choose another file");
    } catch (const TooDeep&) {
        return refuse(file_name, fmt::format("it nests deeper than {} levels", most_depth),
                      "Choose another file: none of this program's nests so deep");
    } catch (const nlohmann::json::out_of_range&) {
        return refuse(file_name, "it holds a number too large to be one", "Correct the number");
    }
}

JsonReader::JsonReader(const nlohmann::json& object, std::string item)
    : object_(object), item_(std::move(item)) {
    if (!object_.is_object()) fail("it is not an object", "Write it as { … }");
}

void JsonReader::fail(const std::string& problem, const std::string& remedy) {
    if (!error_) error_ = InputError{item_, problem, remedy};
}

const nlohmann::json* JsonReader::find(const char* key) const {
    if (!object_.is_object()) return nullptr;
    const auto it = object_.find(key);
    return it == object_.end() || it->is_null() ? nullptr : &*it;
}

double JsonReader::number(const char* key) {
    const auto* value = find(key);
    if (!value) {
        fail(fmt::format("“{}” is missing", key), "Add it as a number");
        return 0;
    }
    if (!value->is_number() || !std::isfinite(value->get<double>())) {
        fail(fmt::format("“{}” is not a number", key), "Give a finite number");
        return 0;
    }
    return value->get<double>();
}

double JsonReader::number_or(const char* key, double fallback) {
    return find(key) ? number(key) : fallback;
}

std::optional<double> JsonReader::optional_number(const char* key) {
    if (!find(key)) return std::nullopt;
    return number(key);
}

std::string JsonReader::text(const char* key) {
    const auto* value = find(key);
    if (value && value->is_string()) return value->get<std::string>();
    fail(fmt::format("“{}” is {}", key, value ? "not text" : "missing"), "Add it as text");
    return {};
}

std::string JsonReader::text_or(const char* key, std::string fallback) {
    return find(key) ? text(key) : fallback;
}

bool JsonReader::boolean_or(const char* key, bool fallback) {
    const auto* value = find(key);
    if (!value) return fallback;
    if (value->is_boolean()) return value->get<bool>();
    fail(fmt::format("“{}” is neither true nor false", key), "Write true or false");
    return fallback;
}

const nlohmann::json& JsonReader::array(const char* key, bool required) {
    static const nlohmann::json none = nlohmann::json::array();
    const auto* value = find(key);
    if (value && value->is_array()) return *value;
    if (value)
        fail(fmt::format("“{}” is not a list", key), "Write it as [ … ]");
    else if (required)
        fail(fmt::format("“{}” is missing", key), "Add it as a list");
    return none;
}

const nlohmann::json& JsonReader::object(const char* key, bool required) {
    static const nlohmann::json none = nlohmann::json::object();
    const auto* value = find(key);
    if (value && value->is_object()) return *value;
    if (value)
        fail(fmt::format("“{}” is not an object", key), "Write it as { … }");
    else if (required)
        fail(fmt::format("“{}” is missing", key), "Add it");
    return none;
}

Result<int> check_format(const nlohmann::json& document, const std::string& format, int newest_version,
                         const std::string& file_name) {
    if (!document.is_object() || !document.contains("format") || document["format"] != format)
        return refuse(file_name, fmt::format("this is not a {} file", format),
                      "Choose a file of that format");
    if (!document.contains("version") || !document["version"].is_number_integer() || document["version"] < 1)
        return refuse(file_name, "its version is missing", "Add \"version\": 1");
    const int version = document["version"].get<int>();
    if (version > newest_version)
        return refuse(
            file_name,
            fmt::format("it has version {}, made by a newer program; this one reads up to version {}",
                        version, newest_version),
            "Update this program; the file was not changed");
    return version;
}

} // namespace ng
