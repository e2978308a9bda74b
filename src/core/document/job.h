// The job file (docs/job-format.md): cables, designs on them with their duty, overrides of materials and
// limits.
#pragma once
#include "cable/cable.h"
#include "document/body_drawing.h"
#include "document/design.h"
#include <algorithm>
#include <filesystem>
#include <map>
#include <string>
#include <tuple>
#include <vector>

namespace ng {

struct Job {
    std::string title = "Untitled job";
    std::string note;
    std::vector<Cable> cables;
    std::vector<Design> designs;
    std::string open_design;                         ///< id of the design shown when the job is opened
    std::map<std::string, Override> limit_overrides; ///< by limit id
    std::map<std::string, Override> level_overrides; ///< by level_key(standard, class, level)
    std::vector<BodyDrawing> drawings;               ///< of bodies, imported
    std::vector<nlohmann::json>
        standards_packs; ///< imported: they travel with the job and go before what ships
    std::map<std::string, double> material_overrides;  ///< relative permittivity by material id
    std::map<std::string, std::string> step_texts;     ///< the firm's own words, by step of the work sheet
    nlohmann::json unknown = nlohmann::json::object(); ///< kept on rewrite

    auto fields() const {
        return std::tie(title, note, cables, designs, open_design, limit_overrides, level_overrides, drawings,
                        standards_packs, material_overrides, step_texts, unknown);
    }
    friend bool operator==(const Job&, const Job&) = default;
    const Cable* find_cable(const std::string& id) const;
    const Design* find_design(const std::string& id) const;
    Design* find_design(const std::string& id);
    /// Takes a drawing in, in place of one with its id.
    void put_drawing(BodyDrawing drawing);
};

constexpr int job_format_version = 2;

/// Refuses foreign, newer and broken documents by item; older versions are migrated by named steps.
Result<Job> read_job(const nlohmann::json& document, const std::string& file_name);

/// A field of a job file that nobody knows: kept on rewrite, and named wherever the job is judged or opened.
struct UnknownField {
    std::string item, key;
    std::string nearest; ///< the known field that may be meant; may be empty
    std::string words() const;
};
/// Of the document itself; those that depend on a family: design/unknown_fields.h.
std::vector<UnknownField> unknown_fields(const Job& job);

Result<Job> load_job(const std::filesystem::path& path);
nlohmann::ordered_json write_job(const Job& job);
Result<void> save_job(const Job& job, const std::filesystem::path& path);

/// `base` followed by the first number that no item has.
template <class Items> std::string free_id(const Items& items, const std::string& base) {
    for (int n = 2;; ++n) {
        const auto id = base + "-" + std::to_string(n);
        if (std::none_of(items.begin(), items.end(), [&](const auto& i) { return i.id == id; })) return id;
    }
}

/// A job to begin with: one 15 kV cable and a termination on it with every default.
Job new_job();

} // namespace ng
