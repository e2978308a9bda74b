#include "io/file.h"
#include <cerrno>
#include <charconv>
#include <csignal>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <random>
#include <sys/stat.h>
#include <unistd.h>
#include <utility>

namespace ng {
namespace {

namespace fs = std::filesystem;

/// A descriptor that is closed at the end, whatever happens.
class Descriptor {
  public:
    explicit Descriptor(int value) : value_(value) {}
    Descriptor(const Descriptor&) = delete;
    Descriptor& operator=(const Descriptor&) = delete;
    ~Descriptor() {
        if (value_ >= 0) ::close(value_);
    }
    int get() const { return value_; }
    bool ok() const { return value_ >= 0; }
    /// Closes it now: 0, or the error.
    int close() { return ::close(std::exchange(value_, -1)) == 0 ? 0 : errno; }

  private:
    int value_;
};

tl::unexpected<InputError> refuse_errno(const fs::path& path, const char* doing, int error) {
    std::string remedy = "Choose another place";
    if (error == EACCES || error == EROFS || error == EPERM)
        remedy = "The folder or file is read-only: save under another name";
    if (error == ENOSPC || error == EDQUOT || error == EFBIG)
        remedy = "The disk is full: free some space or save elsewhere; the old file is unchanged";
    return refuse(path.filename().string(),
                  fmt::format("it could not be {}: {}", doing, std::strerror(error)), remedy);
}

/// All of it, or the error.
int write_all(int file, const std::string& content) {
    for (std::size_t done = 0; done < content.size();) {
        const auto wrote = ::write(file, content.data() + done, content.size() - done);
        if (wrote < 0 && errno == EINTR) continue;
        if (wrote < 0) return errno;
        if (wrote == 0) return EIO; // a device that takes nothing would be asked for ever
        done += static_cast<std::size_t>(wrote);
    }
    return 0;
}

/// ".name.PID-RANDOM.tmp" beside the file: hidden, and its writer can be told.
std::string temporary_prefix(const fs::path& target) {
    return "." + target.filename().string() + ".";
}
constexpr std::string_view temporary_suffix = ".tmp";

void remove_stale(const fs::path& folder, const std::string& prefix) {
    std::error_code code;
    for (fs::directory_iterator it(folder, code), end; !code && it != end; it.increment(code)) {
        const auto name = it->path().filename().string();
        if (name.rfind(prefix, 0) != 0 || name.size() <= prefix.size() + temporary_suffix.size() ||
            name.compare(name.size() - temporary_suffix.size(), temporary_suffix.size(), temporary_suffix) !=
                0)
            continue;
        int process = 0;
        const char* const end_of_name = name.data() + name.size();
        const auto [rest, error] = std::from_chars(name.data() + prefix.size(), end_of_name, process);
        if (error != std::errc() || rest == end_of_name || *rest != '-' || process <= 0) continue;
        if (::kill(process, 0) != 0 && errno == ESRCH) {
            std::error_code ignored;
            fs::remove(it->path(), ignored);
        }
    }
}

Result<void> write_as_it_is(const fs::path& path, const std::string& content) {
    Descriptor file(::open(path.c_str(), O_WRONLY | O_CLOEXEC | O_NOCTTY));
    if (!file.ok()) return refuse_errno(path, "opened", errno);
    if (const int error = write_all(file.get(), content)) return refuse_errno(path, "written", error);
    if (const int error = file.close()) return refuse_errno(path, "written", error);
    return {};
}

} // namespace

Result<std::string> read_file(const fs::path& path, std::uintmax_t most_bytes) {
    const auto name = path.filename().string();
    // Not blocking: a pipe that nobody writes to is refused, not waited for.
    Descriptor file(::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK | O_NOCTTY));
    if (!file.ok())
        return refuse(name, fmt::format("it could not be opened: {}", std::strerror(errno)),
                      "Check the name and its permissions");
    struct stat info {};
    if (::fstat(file.get(), &info) != 0) return refuse_errno(path, "read", errno);
    if (S_ISDIR(info.st_mode)) return refuse(name, "it is a folder", "Choose a file");
    if (!S_ISREG(info.st_mode)) return refuse(name, "it is a device or a pipe, no file", "Choose a file");
    const auto too_large = [&] {
        return refuse(name, fmt::format("it is larger than {} MB, the most that is read", most_bytes >> 20),
                      "Choose the file that is meant, or take out what is not needed");
    };
    if (static_cast<std::uintmax_t>(info.st_size) > most_bytes) return too_large();
    std::string content(static_cast<std::size_t>(info.st_size) + 1, '\0'); // one more tells of growth
    std::size_t done = 0;
    for (;;) {
        if (done == content.size()) {
            if (done > most_bytes) return too_large();
            content.resize(content.size() * 2);
        }
        const auto got = ::read(file.get(), content.data() + done, content.size() - done);
        if (got < 0 && errno == EINTR) continue;
        if (got < 0) return refuse_errno(path, "read", errno);
        if (got == 0) break;
        done += static_cast<std::size_t>(got);
    }
    if (done > most_bytes) return too_large();
    content.resize(done);
    return content;
}

namespace {

/// What a path to write to stands for, through symbolic links.
struct Target {
    fs::path path, folder;
    bool exists = false;
    struct stat old {};
    bool is_no_file() const { return exists && !S_ISREG(old.st_mode); } // a device or a pipe
};

Result<Target> target_of(const fs::path& path) {
    std::error_code code;
    Target out;
    out.path = fs::is_symlink(path, code) ? fs::weakly_canonical(path, code) : path;
    out.folder = out.path.has_parent_path() ? out.path.parent_path() : fs::path(".");
    out.exists = ::stat(out.path.c_str(), &out.old) == 0;
    if (out.exists && S_ISDIR(out.old.st_mode))
        return refuse(path.filename().string(), "it is a folder", "Choose a file name");
    if (out.exists && !out.is_no_file() && ::access(out.path.c_str(), W_OK) != 0)
        return refuse_errno(path, "saved", errno);
    return out;
}

} // namespace

Result<void> write_file_safely(const fs::path& path, const std::string& content) {
    const auto found = target_of(path);
    if (!found) return tl::unexpected(found.error());
    const auto& [target, folder, exists, old] = *found;
    if (found->is_no_file()) return write_as_it_is(target, content);
    const auto prefix = temporary_prefix(target);
    remove_stale(folder, prefix);
    std::random_device random;
    const std::string name =
        (folder / fmt::format("{}{}-{:08x}{}", prefix, ::getpid(), random(), temporary_suffix)).string();
    Descriptor file(::open(name.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0666));
    if (!file.ok()) return refuse_errno(path, "saved", errno);
    const auto give_up = [&](int error) {
        ::unlink(name.c_str());
        return refuse_errno(path, "saved", error);
    };
    if (const int error = write_all(file.get(), content)) return give_up(error);
    struct stat made {};
    if (exists && ::fstat(file.get(), &made) != 0) return give_up(errno);
    if (exists && (made.st_uid != old.st_uid || made.st_gid != old.st_gid) &&
        ::fchown(file.get(), old.st_uid, old.st_gid) != 0) {
        ::unlink(name.c_str());
        return refuse(path.filename().string(),
                      "it belongs to somebody else and cannot be replaced as theirs",
                      "Save under another name");
    }
    if (exists && ::fchmod(file.get(), old.st_mode & 07777) != 0) return give_up(errno);
    if (::fsync(file.get()) != 0) return give_up(errno);
    if (const int error = file.close()) return give_up(error);
    if (::rename(name.c_str(), target.c_str()) != 0) return give_up(errno);
    Descriptor directory(::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
    if (directory.ok() && ::fsync(directory.get()) != 0 && errno == EIO)
        return refuse(path.filename().string(), "it is written, but the disk does not confirm it",
                      "Save once more elsewhere and check the disk");
    return {};
}

namespace {

/// A refusal to save, of what somebody asked for by a whole path.
Result<void> by_whole_path(const std::string& path, Result<void> result) {
    if (result) return result;
    auto error = result.error();
    error.item = path;
    if (const auto at = error.problem.find("be saved"); at != std::string::npos)
        error.problem.replace(at, 8, "be written");
    return tl::unexpected(error);
}

} // namespace

Result<void> write_output(const std::string& path, const std::string& content) {
    return by_whole_path(path, write_file_safely(path, content));
}

Result<void> check_output(const std::string& path) {
    const auto target = target_of(path);
    if (!target) return by_whole_path(path, tl::unexpected(target.error()));
    if (!target->is_no_file() && ::access((target->folder / ".").c_str(), W_OK | X_OK) != 0)
        return by_whole_path(path, refuse_errno(path, "saved", errno));
    return {};
}

} // namespace ng
