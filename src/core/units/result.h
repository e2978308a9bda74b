// Result type for input errors: every refusal names the item, says what is wrong and how to cure it.
#pragma once
#include "units/text.h"
#include <string>
#include <tl/expected.hpp>
#include <utility>

namespace ng {

/// An input that cannot be used. `item` names what the user knows it by, `remedy` says what to do.
struct InputError {
    std::string item;
    std::string problem;
    std::string remedy;

    /// One line for a screen or a terminal, whatever names and texts from outside are in it.
    std::string message() const {
        std::string text = one_line(item.empty() ? problem : item + ": " + problem);
        if (!remedy.empty()) text += ". " + one_line(remedy);
        return text + (text.empty() || text.back() == '.' ? "" : ".");
    }
};

template <class T> using Result = tl::expected<T, InputError>;

inline tl::unexpected<InputError> refuse(std::string item, std::string problem, std::string remedy = {}) {
    return tl::unexpected<InputError>(InputError{std::move(item), std::move(problem), std::move(remedy)});
}

} // namespace ng
