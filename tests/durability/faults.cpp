// Preloaded into a program under test: makes the n-th call of one kind fail as a disk does, and writes down
// what was asked of the files in one folder.
//   FAULT_FOLDER  only files in it are touched or logged (by the name that they were opened with)
//   FAULT         kind:n, such as write-short:1, write-zero:1, write-ENOSPC:2, write-EIO:1, fsync-EIO:1,
//                 rename-EROFS:1, open-EROFS:1, close-EIO:1, fchmod-EPERM:1
//   FAULT_LOG     file for the log: open NAME, write BYTES, fsync, syncdir, rename FROM TO; "fault" when it
//   struck
#ifndef _GNU_SOURCE
#define _GNU_SOURCE
#endif
#include <cerrno>
#include <cstdarg>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <dlfcn.h>
#include <fcntl.h>
#include <string>
#include <sys/stat.h>
#include <unistd.h>

namespace {

template <class F> F next(const char* name) {
    return reinterpret_cast<F>(dlsym(RTLD_NEXT, name));
}

std::string folder() {
    const char* name = std::getenv("FAULT_FOLDER");
    return name ? name : "";
}

void log_line(const std::string& line) {
    const char* name = std::getenv("FAULT_LOG");
    if (!name) return;
    static const auto real_open = next<int (*)(const char*, int, ...)>("open");
    static const auto real_write = next<ssize_t (*)(int, const void*, size_t)>("write");
    static const auto real_close = next<int (*)(int)>("close");
    const int file = real_open(name, O_WRONLY | O_APPEND | O_CREAT, 0600);
    if (file < 0) return;
    const auto text = line + "\n";
    if (real_write(file, text.data(), text.size()) < 0) std::abort();
    real_close(file);
}

/// What the descriptor was opened as, where it lies in the folder.
std::string name_of(int file) {
    char target[4096];
    const auto link = "/proc/self/fd/" + std::to_string(file);
    const auto size = readlink(link.c_str(), target, sizeof target);
    const std::string name(target, size > 0 ? static_cast<std::size_t>(size) : 0);
    return !folder().empty() && name.rfind(folder(), 0) == 0 ? name : "";
}

/// The error that this call shall have, 0: none. Of "write-short" and "write-zero" -1 and -2.
int fault(const char* call) {
    static int seen = 0;
    const char* wanted = std::getenv("FAULT");
    if (!wanted) return 0;
    const std::string text = wanted;
    const auto dash = text.find('-'), colon = text.find(':');
    if (text.substr(0, dash) != call || ++seen != std::atoi(text.c_str() + colon + 1)) return 0;
    log_line("fault");
    const auto kind = text.substr(dash + 1, colon - dash - 1);
    if (kind == "short") return -1;
    if (kind == "zero") return -2;
    if (kind == "ENOSPC") return ENOSPC;
    if (kind == "EROFS") return EROFS;
    if (kind == "EPERM") return EPERM;
    return EIO;
}

int failed(int error) {
    errno = error;
    return -1;
}

int opened(const char* name, int flags, mode_t mode) {
    static const auto real = next<int (*)(const char*, int, ...)>("open");
    const bool ours = (flags & O_CREAT) && !folder().empty() && std::string(name).rfind(folder(), 0) == 0;
    if (ours)
        if (const int error = fault("open")) return failed(error);
    const int file = real(name, flags, mode);
    if (ours && file >= 0) log_line("open " + std::string(name));
    return file;
}

} // namespace

extern "C" {

int open(const char* name, int flags, ...) {
    mode_t mode = 0;
    if (flags & (O_CREAT | O_TMPFILE)) {
        va_list arguments;
        va_start(arguments, flags);
        mode = va_arg(arguments, mode_t);
        va_end(arguments);
    }
    return opened(name, flags, mode);
}
int open64(const char* name, int flags, ...)
    __attribute__((alias("open"))); // the same where off_t has 64 bits
ssize_t write(int file, const void* data, size_t size) {
    static const auto real = next<ssize_t (*)(int, const void*, size_t)>("write");
    if (name_of(file).empty()) return real(file, data, size);
    const int error = fault("write");
    if (error > 0) return failed(error);
    if (error == -2) return 0;
    const auto wrote = real(file, data, error == -1 ? (size + 1) / 2 : size);
    if (wrote >= 0) log_line("write " + std::to_string(wrote));
    return wrote;
}
int fsync(int file) {
    static const auto real = next<int (*)(int)>("fsync");
    const auto name = name_of(file);
    if (name.empty()) return real(file);
    if (const int error = fault("fsync")) return failed(error);
    struct stat info {};
    fstat(file, &info);
    log_line(S_ISDIR(info.st_mode) ? "syncdir" : "fsync");
    return real(file);
}
int fchmod(int file, mode_t mode) {
    static const auto real = next<int (*)(int, mode_t)>("fchmod");
    if (!name_of(file).empty())
        if (const int error = fault("fchmod")) return failed(error);
    return real(file, mode);
}
int close(int file) {
    static const auto real = next<int (*)(int)>("close");
    const bool ours = !name_of(file).empty();
    const int error = ours ? fault("close") : 0;
    const int result = real(file); // a descriptor is gone even where closing it fails
    return error ? failed(error) : result;
}
int rename(const char* from, const char* to) {
    static const auto real = next<int (*)(const char*, const char*)>("rename");
    if (folder().empty() || std::string(to).rfind(folder(), 0) != 0) return real(from, to);
    if (const int error = fault("rename")) return failed(error);
    const int result = real(from, to);
    if (result == 0) log_line("rename " + std::string(from) + " " + to);
    return result;
}

} // extern "C"
