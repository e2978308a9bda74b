// Designs that a firm keeps to begin others from: each a job file that holds it alone, in a folder of their
// own.
#pragma once
#include "document/job.h"
#include <filesystem>

namespace ng {

struct DesignTemplate {
    std::string title;
    std::filesystem::path file;
    Job job; ///< with this design only
};

/// Those of a folder, by title; a folder that is not there has none. `unreadable`: the files that are none,
/// with the reason.
std::vector<DesignTemplate> read_templates(const std::filesystem::path& folder,
                                           std::vector<std::string>* unreadable = nullptr);

/// Keeps a design under this title, without its revisions, faults and note, in place of one of the same
/// title. Refuses a title without a letter or figure, and what cannot be written.
Result<void> keep_template(const Job& job, const Design& design, const std::string& title,
                           const std::filesystem::path& folder);

/// Adds a design that begins from the template, on the cables of the design that is shown, and shows it; a
/// drawing that it is made from comes along.
void begin_from(Job& job, const DesignTemplate& from);

} // namespace ng
