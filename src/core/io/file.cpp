#include "io/file.h"
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <fstream>
#include <sstream>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>
#include <utility>

namespace ng {
namespace {

tl::unexpected<InputError> refuse_errno(const std::filesystem::path& path, const char* doing, int error) {
    std::string remedy = "Choose another place";
    if (error == EACCES || error == EROFS || error == EPERM)
        remedy = "The folder or file is read-only: save under another name";
    if (error == ENOSPC || error == EDQUOT || error == EFBIG)
        remedy = "The disk is full: free some space or save elsewhere; the old file is unchanged";
    return refuse(path.filename().string(),
                  fmt::format("it could not be {}: {}", doing, std::strerror(error)), remedy);
}

} // namespace

Result<std::string> read_file(const std::filesystem::path& path) {
    std::error_code code;
    if (std::filesystem::is_directory(path, code))
        return refuse(path.filename().string(), "it is a folder", "Choose a file");
    std::ifstream in(path, std::ios::binary);
    if (!in)
        return refuse(path.filename().string(),
                      fmt::format("it could not be opened: {}", std::strerror(errno)),
                      "Check the name and its permissions");
    std::ostringstream content;
    content << in.rdbuf();
    return content.str();
}

Result<void> write_file_safely(const std::filesystem::path& path, const std::string& content) {
    std::error_code code;
    const auto target =
        std::filesystem::is_symlink(path, code) ? std::filesystem::weakly_canonical(path, code) : path;
    std::string name = target.string() + ".XXXXXX";
    const int file = mkstemp(name.data());
    if (file < 0) return refuse_errno(path, "saved", errno);
    auto give_up = [&](int error) {
        ::close(file);
        ::unlink(name.c_str());
        return refuse_errno(path, "saved", error);
    };
    std::size_t done = 0;
    while (done < content.size()) {
        const auto wrote = ::write(file, content.data() + done, content.size() - done);
        if (wrote < 0 && errno == EINTR) continue;
        if (wrote < 0) return give_up(errno);
        done += static_cast<std::size_t>(wrote);
    }
    ::fchmod(file, 0644);
    if (::fsync(file) != 0) return give_up(errno);
    if (::close(file) != 0) {
        const int error = errno;
        ::unlink(name.c_str());
        return refuse_errno(path, "saved", error);
    }
    if (::rename(name.c_str(), target.c_str()) != 0) {
        const int error = errno;
        ::unlink(name.c_str());
        return refuse_errno(path, "saved", error);
    }
    const auto folder = target.has_parent_path() ? target.parent_path() : std::filesystem::path(".");
    if (const int directory = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY); directory >= 0) {
        ::fsync(directory);
        ::close(directory);
    }
    return {};
}

Result<FileLock> FileLock::take(const std::filesystem::path& path) {
    FileLock lock;
    lock.lock_path_ = path.parent_path() / fmt::format(".{}.lock", path.filename().string());
    lock.descriptor_ = ::open(lock.lock_path_.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644);
    if (lock.descriptor_ < 0) return FileLock{}; // a read-only folder: nothing can be saved there either
    if (::flock(lock.descriptor_, LOCK_EX | LOCK_NB) != 0) {
        ::close(lock.descriptor_);
        lock.descriptor_ = -1;
        return refuse(path.filename().string(), "it is open in another window",
                      "Close it there, or open a copy here");
    }
    return lock;
}

FileLock::FileLock(FileLock&& other) noexcept
    : descriptor_(std::exchange(other.descriptor_, -1)), lock_path_(std::move(other.lock_path_)) {}

FileLock& FileLock::operator=(FileLock&& other) noexcept {
    if (this != &other) {
        release();
        descriptor_ = std::exchange(other.descriptor_, -1);
        lock_path_ = std::move(other.lock_path_);
    }
    return *this;
}

FileLock::~FileLock() {
    release();
}

void FileLock::release() {
    if (descriptor_ < 0) return;
    ::unlink(lock_path_.c_str()); // while still locked: nobody else can have it
    ::close(descriptor_);
    descriptor_ = -1;
}

} // namespace ng
