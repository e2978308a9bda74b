#include "design/design_templates.h"
#include "design/revisions.h"
#include <algorithm>
#include <cctype>
#include <fmt/format.h>

namespace ng {
namespace {

/// "Quay mast, 15 kV" to "quay-mast-15-kv"; letters beyond ASCII stay as they are.
std::string file_name_of(const std::string& title) {
    std::string out;
    for (const unsigned char c : title)
        if (c >= 0x80 || std::isalnum(c))
            out += static_cast<char>(std::tolower(c));
        else if (!out.empty() && out.back() != '-')
            out += '-';
    while (!out.empty() && out.back() == '-') out.pop_back();
    return out;
}

} // namespace

std::vector<DesignTemplate> read_templates(const std::filesystem::path& folder,
                                           std::vector<std::string>* unreadable) {
    std::vector<DesignTemplate> out;
    std::error_code none;
    for (const auto& entry : std::filesystem::directory_iterator(folder, none)) {
        if (entry.path().extension() != ".ngjob") continue;
        auto job = load_job(entry.path());
        if (job && job->designs.empty())
            job = refuse(entry.path().filename().string(), "it holds no design", "Take it away");
        if (!job) {
            if (unreadable) unreadable->push_back(job.error().message());
            continue;
        }
        out.push_back({job->title, entry.path(), std::move(*job)});
    }
    std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.title < b.title; });
    return out;
}

Result<void> keep_template(const Job& job, const Design& design, const std::string& title,
                           const std::filesystem::path& folder) {
    const auto name = file_name_of(title);
    if (name.empty())
        return refuse("Template", "its title has no letter or figure", "Give a title to find it by");
    std::error_code failed;
    std::filesystem::create_directories(folder, failed);
    if (failed)
        return refuse(folder.string(), "the folder cannot be made: " + failed.message(),
                      "Look at its permissions");
    auto kept = alone(job, design);
    kept.title = title;
    auto& only = kept.designs.front();
    only.title = title;
    only.note.clear();
    only.faults.clear();
    return save_job(kept, folder / (name + ".ngjob"));
}

void begin_from(Job& job, const DesignTemplate& from) {
    auto design = from.job.designs.front();
    const auto* shown = job.find_design(job.open_design);
    if (shown) {
        design.cable_id = shown->cable_id;
        design.other_cable_id = design.other_cable_id.empty() ? "" : shown->other_cable_id;
    }
    for (const auto& drawing : from.job.drawings)
        if (std::none_of(job.drawings.begin(), job.drawings.end(),
                         [&](const auto& one) { return one.id == drawing.id; }))
            job.drawings.push_back(drawing);
    design.id = free_id(job.designs, design.id);
    job.open_design = design.id;
    job.designs.push_back(std::move(design));
}

} // namespace ng
