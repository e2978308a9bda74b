// Reading and writing whole files. Writing is by temporary file, fsync and rename: a crash at any instant
// leaves the old file or the new one.
#pragma once
#include "units/result.h"
#include <filesystem>
#include <string>

namespace ng {

Result<std::string> read_file(const std::filesystem::path& path);
Result<void> write_file_safely(const std::filesystem::path& path, const std::string& content);

/// Holds a file for one window: an advisory lock on a file beside it. Refuses when another process holds it.
class FileLock {
  public:
    static Result<FileLock> take(const std::filesystem::path& path);
    FileLock() = default;
    FileLock(FileLock&& other) noexcept;
    FileLock& operator=(FileLock&& other) noexcept;
    ~FileLock();
    bool held() const { return descriptor_ >= 0; }

  private:
    int descriptor_ = -1;
    std::filesystem::path lock_path_;
    void release();
};

} // namespace ng
