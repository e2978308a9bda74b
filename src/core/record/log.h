// A log (*.nglog): a SQLite file that only grows. Its triggers refuse to change, drop or replace a row, and
// each row carries the hash of the one before it: a row that was changed or taken out all the same is found
// by verify(), a tail that was cut off only against a copy of its last hash that is kept elsewhere (a report,
// a signed print, an export).
#pragma once
#include "record/verify.h"
#include <filesystem>
#include <memory>

namespace ng {

/// 2: sign-offs say by which version of the rules was judged. Records of version 1 are read, and become
/// version 2 with the first row that is added to them.
constexpr int log_format_version = 2;

class Log {
  public:
    /// A new file with its first row. Refuses a file that is there.
    static Result<Log> create(const std::filesystem::path& path, const Who& who, const std::string& job_title,
                              const TimeStamp& at = time_now());
    static EntryDraft first_row(const Who& who, const std::string& job_title);
    /// The same with a first row that is given whole: of an import, or one that goes on from another log.
    static Result<Log> begin(const std::filesystem::path& path, const EntryDraft& first, const TimeStamp& at);
    /// Refuses by the file's name: what is no log, one of a newer version, one that is damaged or cut short.
    /// A file that may only be read is opened so; who only looks opens it to read, and it is not touched.
    enum class Access { write, read };
    static Result<Log> open(const std::filesystem::path& path, Access access = Access::write);
    Log(Log&&) noexcept;
    Log& operator=(Log&&) noexcept;
    ~Log();

    const std::filesystem::path& path() const;
    bool is_read_only() const;
    /// Where its files are kept: "osprey.nglog.files", beside it.
    std::filesystem::path files_folder() const;
    /// In the order of their numbers, as last read.
    const std::vector<Entry>& entries() const;
    const Entry* find(std::int64_t number) const;
    /// Reads what others wrote meanwhile; whether there was anything.
    Result<bool> refresh();
    /// Writes one row: in one transaction, on the disk when it returns. Refuses what check_draft refuses,
    /// rows that name rows which are not there or of another kind, a log that may only be read, a full disk:
    /// nothing is written then.
    Result<Entry> append(const EntryDraft& draft, const TimeStamp& at = time_now());
    /// Copies a file beside the log by its hash, and writes a row of it.
    Result<Entry> append_file(const std::filesystem::path& file, const std::string& about,
                              const std::string& step, const Who& who, std::int64_t accessory,
                              const TimeStamp& at = time_now());
    /// Everything that the chain can tell; with a hash that was kept elsewhere, a cut tail too.
    Verification verify(const std::optional<KeptHash>& kept = {}) const;
    KeptHash last() const;

  private:
    struct Impl;
    explicit Log(std::unique_ptr<Impl> impl);
    /// `damaged`: that is what keeps it from opening.
    static Result<Log> opened(const std::filesystem::path& path, Access access, bool& damaged);
    friend Result<Verification> verify_log(const std::filesystem::path& path,
                                           const std::optional<KeptHash>& kept);
    std::unique_ptr<Impl> impl_;
};

/// The same for a file that may be too damaged to open: what keeps it from opening is then what is found.
/// Refuses only what is no log.
Result<Verification> verify_log(const std::filesystem::path& path, const std::optional<KeptHash>& kept = {});

/// The file of the record of a job: beside it, of its name.
std::filesystem::path log_path_of(const std::filesystem::path& job);

} // namespace ng
