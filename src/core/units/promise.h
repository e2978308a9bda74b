// Preconditions: a broken one is a fault of the program, never of the input, and is told loudly.
#pragma once
#include <source_location>
#include <stdexcept>
#include <string>

namespace ng {

/// Thrown where code was called against its word. Input errors are refusals (units/result.h), never this.
struct BrokenPromise : std::logic_error {
    using std::logic_error::logic_error;
};

/// Throws when a promise is not kept; `what` says what should have held, in words.
inline void promise(bool kept, const char* what, std::source_location at = std::source_location::current()) {
    if (!kept)
        throw BrokenPromise(std::string(at.file_name()) + ":" + std::to_string(at.line()) + ": " + what);
}

} // namespace ng
