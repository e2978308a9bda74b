// Strict reading of JSON objects: every refusal names the field and what was expected.
#pragma once
#include "units/result.h"
#include <nlohmann/json.hpp>
#include <optional>
#include <string>

namespace ng {

/// Parses text; on failure names `file_name`, the line, and whether the text looks truncated.
Result<nlohmann::json> parse_json(const std::string& text, const std::string& file_name);

/// Collects the first error while fields are taken from an object; later reads return defaults.
class JsonReader {
  public:
    JsonReader(const nlohmann::json& object, std::string item);

    double number(const char* key);
    double number_or(const char* key, double fallback);
    std::optional<double> optional_number(const char* key);
    std::string text(const char* key);
    std::string text_or(const char* key, std::string fallback);
    bool boolean_or(const char* key, bool fallback);
    /// The array under `key`; an empty one when it is absent and not required.
    const nlohmann::json& array(const char* key, bool required = false);
    const nlohmann::json& object(const char* key, bool required = false);

    void fail(const std::string& problem, const std::string& remedy);
    bool ok() const { return !error_; }
    const std::optional<InputError>& error() const { return error_; }
    const std::string& item() const { return item_; }

  private:
    const nlohmann::json* find(const char* key) const;
    const nlohmann::json& object_;
    std::string item_;
    std::optional<InputError> error_;
};

/// Refuses a document that is not `format`, or is newer than `newest_version`; returns its version.
Result<int> check_format(const nlohmann::json& document, const std::string& format, int newest_version,
                         const std::string& file_name);

} // namespace ng
