#include "study/rows_file.h"
#include "io/file.h"
#include <filesystem>

namespace ng {

Result<RowsFile> RowsFile::open(const std::string& path, const Study& study, Shard shard) {
    RowsFile out;
    const auto header = study.header(shard);
    std::uintmax_t kept = 0; // bytes
    if (std::ifstream(path).good()) {
        const auto text = read_file(path);
        if (!text) return tl::unexpected(text.error());
        auto before = read_table(*text, path, false);
        if (!before) return tl::unexpected(before.error());
        if (!text->starts_with(header))
            return refuse(path, "it holds rows of another plan, job or program",
                          "Name another file, or remove this one");
        kept = header.size();
        for (std::size_t k = 0; k < before->rows.size(); ++k) {
            if (before->rows[k].index != shard.index + k * shard.count) break;
            kept += before->lines[k].size();
            out.before_.push_back(std::move(before->rows[k]));
        }
    }
    // Whole rows stay where they are; only a cut one behind them goes.
    std::error_code failed;
    if (kept > 0) std::filesystem::resize_file(path, kept, failed);
    out.file_.open(path, std::ios::app | std::ios::binary);
    if (kept == 0) out.file_ << header << std::flush;
    if (failed || !out.file_) return refuse(path, "it cannot be written", "Name a file in a folder that can");
    return out;
}

bool RowsFile::add(const Study& study, const StudyRow& row) {
    file_ << study.line(row) << std::flush;
    return static_cast<bool>(file_);
}

} // namespace ng
